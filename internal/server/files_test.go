package server_test

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/widget"
	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

func picture(t *testing.T, width, height int) []byte {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewNRGBA(image.Rect(0, 0, width, height))))
	return out.Bytes()
}

func (f fixture) share(o *talker.Operator, chatID, name string, content []byte) (talk.Said, error) {
	f.t.Helper()
	var said talk.Said
	path := "/api/chats/" + chatID + "/files?" + url.Values{"name": {name}, "clientId": {uuid.NewString()}}.Encode()
	return said, o.Upload(f.ctx, path, content, "", &said)
}

func (f fixture) resume(v *talker.Visitor) talk.Resumed {
	f.t.Helper()
	var resumed talk.Resumed
	require.NoError(f.t, v.Call(f.ctx, "resume", talk.ResumeCall{}, &resumed))
	return resumed
}

// last returns the newest event of a kind.
func last(t *testing.T, events []view.EventView, kind string) view.EventView {
	t.Helper()
	for i := len(events) - 1; i >= 0; i-- {
		if string(events[i].Kind) == kind {
			return events[i]
		}
	}
	t.Fatalf("there is no event %q", kind)
	return view.EventView{}
}

func TestAFileIsSharedReadAndRefused(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	wren, oskar := f.visitor(newInbox()), f.visitor(newInbox())
	chatID := f.ask(wren, "Is there a deck plan?")
	f.take(maren, chatID)
	said, err := f.share(maren, chatID, "../../deck plan.png", picture(t, 1000, 500))
	require.NoError(t, err)
	require.Equal(t, "deck plan.png", said.Event.File.Name)
	require.Equal(t, "image/png", said.Event.File.Type)
	require.Equal(t, 1000, said.Event.File.Width)

	// The visitor opens it by an address that nobody can guess.
	got := last(t, f.resume(wren).Events, "shared").File
	answer, content, err := wren.Fetch(f.ctx, got.URL, nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Equal(t, picture(t, 1000, 500), content)
	require.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
	require.Contains(t, answer.Header.Get("Content-Security-Policy"), "sandbox")
	require.Contains(t, answer.Header.Get("Content-Disposition"), "inline")
	answer, _, err = wren.Fetch(f.ctx, got.ThumbURL, nil)
	require.NoError(t, err)
	require.Equal(t, "image/jpeg", answer.Header.Get("Content-Type"))
	// RFC 9110, 14.1.2: the first 4 bytes; they begin a PNG (RFC 2083, 3.1).
	answer, content, err = wren.Fetch(f.ctx, got.URL, map[string]string{"Range": "bytes=0-3"})
	require.NoError(t, err)
	require.Equal(t, http.StatusPartialContent, answer.StatusCode)
	require.Equal(t, "\x89PNG", string(content))

	// Without it, nobody but those of the team who may read the chat.
	bare, _, _ := strings.Cut(got.URL, "?")
	for who, status := range map[*talker.Talker]int{&oskar.Talker: 404, &idris.Talker: 403, &maren.Talker: 200} {
		answer, _, err := who.Fetch(f.ctx, bare, nil)
		require.NoError(t, err)
		require.Equal(t, status, answer.StatusCode)
	}
	answer, _, err = oskar.Fetch(f.ctx, bare+"?for=00000000000000000000", nil)
	require.NoError(t, err)
	require.Equal(t, 404, answer.StatusCode)

	// What the visitor does not want is not there for them any more.
	number := said.Event.Number
	requireProblem(t, oskar.Call(f.ctx, "refuse", talk.EventCall{ChatID: chatID, Number: number}, nil), "not-yours")
	require.NoError(t, wren.Call(f.ctx, "refuse", talk.EventCall{ChatID: chatID, Number: number}, nil))
	answer, _, err = wren.Fetch(f.ctx, got.URL, nil)
	require.NoError(t, err)
	require.Equal(t, 404, answer.StatusCode)
	require.Nil(t, last(t, f.resume(wren).Events, "shared").File)
}

func TestVisitorsSendFiles(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren := f.operator(3, newInbox())
	wren, oskar := f.visitor(newInbox()), f.visitor(newInbox())
	chatID := f.ask(wren, "Will this chair fit?")
	f.take(maren, chatID)
	path := "/widget/" + demo.WidgetKey + "/chats/" + chatID + "/files?name=chair.png&clientId="
	clientID := uuid.NewString()
	var said, again talk.Said
	require.NoError(t, wren.Upload(f.ctx, path+clientID, picture(t, 30, 20), wren.Token, &said))
	require.NoError(t, wren.Upload(f.ctx, path+clientID, picture(t, 30, 20), wren.Token, &again), "the answer got lost, the browser sends again")
	require.Equal(t, said.Event.Number, again.Event.Number)
	requireProblem(t, oskar.Upload(f.ctx, path+uuid.NewString(), picture(t, 30, 20), oskar.Token, nil), "not-yours")
	requireProblem(t, oskar.Upload(f.ctx, path+uuid.NewString(), picture(t, 30, 20), "", nil), "bad-token")

	// What a visitor takes back nobody reads any more.
	var script desk.Script
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	file := last(t, script.Events, "shared").File
	require.NoError(t, wren.Call(f.ctx, "withdraw", talk.EventCall{ChatID: chatID, Number: said.Event.Number}, nil))
	answer, _, err := maren.Fetch(f.ctx, file.URL, nil)
	require.NoError(t, err)
	require.Equal(t, 404, answer.StatusCode)
	script = desk.Script{}
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.Nil(t, last(t, script.Events, "shared").File)

	ansel := f.operator(4, newInbox())
	f.publish(ansel, func(d *widget.Design) { d.VisitorFiles = false })
	requireProblem(t, wren.Upload(f.ctx, path+uuid.NewString(), picture(t, 30, 20), wren.Token, nil), "no-files")
}

// Each trouble with a file is said in words, and leaves the chat as it was.
func TestFilesThatAreNotTaken(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren := f.operator(3, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(maren, chatID)
	ansel := f.operator(4, newInbox())
	var limits settings.DeskSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/desk", &limits))
	limits.MaxMegabytes = 1
	require.NoError(t, ansel.Put(f.ctx, "/api/setup/desk", limits))
	for code, file := range map[string]struct {
		name    string
		content []byte
	}{
		"file-too-big":  {"film.txt", bytes.Repeat([]byte("words "), 1<<18)},
		"file-type":     {"logo.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`)},
		"not-a-picture": {"cat.png", []byte("<script>alert(1)</script>")},
		"empty-file":    {"empty.txt", nil},
	} {
		_, err := f.share(maren, chatID, file.name, file.content)
		requireProblem(t, err, code)
	}
	var script desk.Script
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	for _, e := range script.Events {
		require.NotEqual(t, view.EventKind("shared"), e.Kind)
	}
	said, err := f.share(maren, chatID, strings.Repeat("long ", 1000)+".txt", []byte("words"))
	require.NoError(t, err)
	require.Less(t, len(said.Event.File.Name), 130)

	// Whatever is not a plain picture is a download.
	answer, _, err := maren.Fetch(f.ctx, said.Event.File.URL, nil)
	require.NoError(t, err)
	require.Contains(t, answer.Header.Get("Content-Disposition"), "attachment")

	require.NoError(t, maren.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
	_, err = f.share(maren, chatID, "late.txt", []byte("words"))
	requireProblem(t, err, "chat-ended")
}
