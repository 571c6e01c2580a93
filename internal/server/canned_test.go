package server_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/library"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

func admitted(f fixture, token string) (talker.Admitted, error) {
	return talker.Admit(f.ctx, f.URL, demo.WidgetKey, token)
}

func suggest(f fixture, o *talker.Operator, chatID, text string, all bool) []library.Suggestion {
	f.t.Helper()
	var got []library.Suggestion
	require.NoError(f.t, o.Call(f.ctx, "suggest", library.SuggestCall{ChatID: chatID, Text: text, All: all}, &got))
	return got
}

// A response is found by what is typed, comes filled, and its use brings it up;
// one with a placeholder left in it never reaches the visitor.
func TestCannedResponsesInAChat(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(idris, chatID)
	hello := suggest(f, idris, chatID, "hello", false)[0]
	require.Equal(t, "Hello Wren, this is Idris at the ferry desk. How can I help?", hello.Text)
	lacks := suggest(f, idris, chatID, "booking", true)[0]
	require.Equal(t, []string{"form.booking"}, lacks.Missing)
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), lacks.Text)
	p := requireProblem(t, err, "unfilled")
	require.Contains(t, p.Detail, "{form.booking}")

	typed := "We can h"
	require.Equal(t, []string{"holdcar", "hold"}, shortcuts(suggest(f, idris, chatID, typed, false)))
	hold := suggest(f, idris, chatID, typed, false)[1]
	for range 3 {
		require.NoError(t, idris.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: uuid.NewString(), Text: hold.Text, Canned: hold.ID}, nil))
	}
	var list []library.CannedView
	f.Library.ForgetUses()
	require.NoError(t, idris.Get(f.ctx, "/api/canned", &list))
	for _, c := range list {
		if c.ID == hold.ID {
			require.GreaterOrEqual(t, c.MyUses, int64(3))
		}
	}
	require.Equal(t, []string{"hold", "holdcar"}, shortcuts(suggest(f, idris, chatID, typed, false)))
	stranger := f.operator(2, newInbox())
	require.Error(t, stranger.Call(f.ctx, "suggest", library.SuggestCall{ChatID: chatID, Text: "hello"}, nil), "somebody else's chat gives its visitor's name away to nobody")
}

func shortcuts(list []library.Suggestion) []string {
	out := []string{}
	for _, s := range list {
		out = append(out, s.Shortcut)
	}
	return out
}

// Operators keep their own; what is shared is for leads; a file goes with it.
func TestWhoChangesCannedResponses(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris, tove := f.operator(3, newInbox()), f.operator(0, newInbox()), f.operator(1, newInbox())
	own := library.CannedView{Scope: "own", Shortcut: ";mine", Text: "Hello {visitor.first|there}", Files: []view.FileView{}}
	var file view.FileView
	require.NoError(t, idris.Upload(f.ctx, "/api/canned/files?name=map.txt", []byte("the way to gate 4"), "", &file))
	own.Files = append(own.Files, file)
	require.NoError(t, idris.PutInto(f.ctx, "/api/canned", own, &own))
	require.Equal(t, "mine", own.Shortcut)
	again := own
	again.ID, again.Version, again.Shortcut = "", 0, "MINE"
	p := requireProblem(t, idris.Put(f.ctx, "/api/canned", again), "bad-fields")
	require.Equal(t, "shortcut", p.Fields[0].Field)
	own.Text = "Hello {visitor.shoes}"
	requireProblem(t, idris.Put(f.ctx, "/api/canned", own), "bad-fields")
	requireProblem(t, tove.Put(f.ctx, "/api/canned", own), "not-allowed")
	requireProblem(t, tove.Delete(f.ctx, "/api/canned/"+own.ID), "not-allowed")
	requireProblem(t, idris.Put(f.ctx, "/api/canned", library.CannedView{Scope: "common", Shortcut: "all", Text: "x", Files: []view.FileView{}}), "not-allowed")
	require.NoError(t, maren.Put(f.ctx, "/api/canned", library.CannedView{Scope: "common", Shortcut: "all", Text: "x", Files: []view.FileView{}}))

	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(idris, chatID)
	found := suggest(f, idris, chatID, "mine", false)[0]
	require.Equal(t, "map.txt", found.Files[0].Name)
	var said talk.Said
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/stored-files", map[string]string{"clientId": uuid.NewString(), "fileId": found.Files[0].ID}, &said))
	_, content, err := wren.Fetch(f.ctx, last(t, f.resume(wren).Events, "shared").File.URL, nil)
	require.NoError(t, err)
	require.Equal(t, "the way to gate 4", string(content))
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/stored-files", map[string]string{"clientId": uuid.NewString(), "fileId": said.Event.File.ID}, nil), "not-found")
}

// What is written as CSV is read again without a change; a broken file says
// which lines are wrong and takes in the others only when told to.
func TestCannedResponsesAsCSV(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	answer, file, err := maren.Fetch(f.ctx, "/api/canned.csv", nil)
	require.NoError(t, err)
	require.Contains(t, answer.Header.Get("Content-Type"), "text/csv")
	var plan library.ImportView
	take := func(o *talker.Operator, csv, apply string) error {
		plan = library.ImportView{}
		return o.Post(f.ctx, "/api/canned/import"+apply, map[string]string{"csv": csv}, &plan)
	}
	require.NoError(t, take(maren, string(file), ""))
	require.Empty(t, plan.Add)
	require.Empty(t, plan.Change)
	require.Empty(t, plan.Rejected)
	require.Equal(t, strings.Count(string(file), "\r\n")-1, plan.Same)

	lines := []string{"shortcut,text,scope,department", `hello,Hi there,,`, `new,Brand new,,`, `broken,"never closed,,`, `lost,Nobody's,department,Harbour`, `bus,Changed {no.such},,`}
	for i := range 10_000 {
		lines = append(lines, "s"+strings.Repeat("x", i%7)+uuid.NewString()[:8]+",Answer,own,")
	}
	csv := strings.Join(lines, "\n")
	require.NoError(t, take(maren, csv, ""))
	require.Len(t, plan.Change, 1)
	require.Equal(t, "Hi there", plan.Change[0].After)
	rejected := []int{}
	for _, r := range plan.Rejected {
		rejected = append(rejected, r.Line)
	}
	require.Equal(t, []int{4, 5, 6}, rejected)
	var before, after []library.CannedView
	require.NoError(t, maren.Get(f.ctx, "/api/canned", &before))
	require.NoError(t, take(maren, csv, "?apply=true"))
	require.NoError(t, maren.Get(f.ctx, "/api/canned", &after))
	require.Len(t, after, len(before)+len(plan.Add))

	require.NoError(t, take(idris, "shortcut,text\nfor-all,Not mine to give", ""))
	require.Len(t, plan.Rejected, 1, "operators take in only their own")
	requireProblem(t, take(idris, "name;words\n1;2", ""), "bad-fields")
}
