package server_test

import (
	"bufio"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/mailbox"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

// withMail is a fixture whose mails go to a stand-in.
func withMail(t *testing.T, changes ...func(*server.Config)) (fixture, *mailbox.Mailbox) {
	t.Helper()
	listen := func() net.Listener {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		return l
	}
	smtpOn := listen()
	box := mailbox.Start(smtpOn, listen(), "", slog.New(slog.DiscardHandler))
	t.Cleanup(func() { require.NoError(t, box.Close()) })
	f := start(t, func(c *server.Config) {
		c.SMTP, c.ReplyDomain, c.MailAddress, c.URL = "smtp://"+smtpOn.Addr().String(), "reply.example.com", "127.0.0.1:0", "http://chat.example.com"
		for _, change := range changes {
			change(c)
		}
	})
	box.Inbound = f.MailAddress
	return f, box
}

// nobodyIn makes everybody away.
func (f fixture) nobodyIn() {
	f.t.Helper()
	f.available(f.operator(4, newInbox()), false)
}

// While nobody can answer, a question becomes a message; it waits on the line,
// is answered by mail, and the answer to that mail joins the chat, once.
func TestAMessageIsAnsweredByMailAndBack(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	f.nobodyIn()
	wren := f.visitor(newInbox())
	opening := talk.Opening{ClientID: uuid.NewString(), Text: "Is there room for a minibus?", Name: "Wren", PageURL: siteOrigin + "/fares"}
	_, err := wren.Open(f.ctx, opening)
	requireProblem(t, err, "closed")
	var kept talk.Opened
	p := requireProblem(t, wren.Call(f.ctx, "message", opening, &kept), "bad-fields")
	require.Equal(t, []form.Wrong{{Field: "email", Words: "We need your email so we can reply."}}, p.Fields)
	opening.Email = "not an address"
	requireProblem(t, wren.Call(f.ctx, "message", opening, &kept), "bad-fields")
	opening.Email = "wren@example.com"
	require.NoError(t, wren.Call(f.ctx, "message", opening, &kept))
	require.True(t, kept.Chat.Message)
	chatID := kept.Chat.ID

	toIdris := newInbox()
	idris := f.operator(0, toIdris)
	var desk desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &desk))
	require.Len(t, desk.Chats, 1)
	require.True(t, desk.Chats[0].Message)
	wren.Close()
	f.take(idris, chatID)
	_, err = idris.Say(f.ctx, chatID, uuid.NewString(), "There is, both ways. Which day?")
	require.NoError(t, err)
	mail := f.mail(box, 1)
	require.Equal(t, "wren@example.com", mail.To)
	require.Contains(t, mail.Text, "There is, both ways. Which day?")
	require.Contains(t, mail.Text, "> Is there room for a minibus?")
	require.Regexp(t, `^chat\+[0-9a-f]{32}\.[0-9a-f]{20}@reply\.example\.com$`, mail.ReplyTo)

	require.NoError(t, box.Answer(f.ctx, mail.ID, "Sunday, please.\nIs the dog welcome?"))
	toIdris.until(t, func(m string) bool { return strings.Contains(m, "Sunday, please.\\nIs the dog welcome?") })
	log, err := chatlog.On(f.Store).Events(f.ctx, chatID, 0, 100)
	require.NoError(t, err)
	last := log[len(log)-1]
	require.Equal(t, "Sunday, please.\nIs the dog welcome?", last.Text, "what was quoted is left out")
	require.Equal(t, chat.VisitorSide, last.By.Side)

	// Nobody else may answer in the visitor's name.
	forged := regexp.MustCompile(`\.[0-9a-f]{20}@`).ReplaceAllString(mail.ReplyTo, ".00000000000000000000@")
	require.ErrorContains(t, mailbox.Send(f.MailAddress, "mallory@example.org", forged, "Re", "hello", ""), "550")
	require.ErrorContains(t, mailbox.Send(f.MailAddress, "mallory@example.org", "postmaster@reply.example.com", "Re", "hello", ""), "550")

	// The link in the mail leads back into the same conversation, elsewhere.
	link := regexp.MustCompile(`http://chat\.example\.com/panel/` + demo.WidgetKey + `\?back=(\S+)`).FindStringSubmatch(mail.Text)
	require.Len(t, link, 2)
	back, err := talker.AdmitBack(f.ctx, f.URL, demo.WidgetKey, link[1])
	require.NoError(t, err)
	require.Equal(t, chatID, back.Chat.ID)
	stranger, err := talker.AdmitBack(f.ctx, f.URL, demo.WidgetKey, chatID+".00000000000000000000")
	require.NoError(t, err)
	require.Nil(t, stranger.Chat, "a forged link makes a new visitor")

	// After the end an answer begins a message of its own.
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
	c, err := chatlog.On(f.Store).Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Equal(t, chat.LeftMessage, c.Ending)
	require.NoError(t, box.Answer(f.ctx, mail.ID, "One more thing"))
	require.Eventually(t, func() bool {
		again, err := chatlog.On(f.Store).LatestChat(f.ctx, c.VisitorID)
		return err == nil && again.ID != chatID && again.Message && again.LastWords == "One more thing"
	}, 20*time.Second, 20*time.Millisecond)
}

// mail waits for the n-th mail.
func (f fixture) mail(box *mailbox.Mailbox, n int) mailbox.Mail {
	f.t.Helper()
	require.Eventually(f.t, func() bool { return len(box.Mails()) >= n }, 20*time.Second, 20*time.Millisecond, "the mail did not come")
	return box.Mails()[0]
}

// A message whose visitor reads the answer in the panel needs no mail, and one
// that nobody has answered yet becomes a live chat when its visitor is back
// while the team is in.
func TestAMessageBecomesLiveWhenBothAreThere(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	f.nobodyIn()
	wren := f.visitor(newInbox())
	var kept talk.Opened
	require.NoError(t, wren.Call(f.ctx, "message", talk.Opening{ClientID: uuid.NewString(), Text: "Hello?", Email: "wren@example.com"}, &kept))
	_, err := wren.Say(f.ctx, kept.Chat.ID, uuid.NewString(), "still closed?")
	require.NoError(t, err)
	c, err := chatlog.On(f.Store).Chat(f.ctx, kept.Chat.ID)
	require.NoError(t, err)
	require.True(t, c.Message)
	f.available(f.operator(0, newInbox()), true)
	_, err = wren.Say(f.ctx, kept.Chat.ID, uuid.NewString(), "and now?")
	require.NoError(t, err)
	c, err = chatlog.On(f.Store).Chat(f.ctx, kept.Chat.ID)
	require.NoError(t, err)
	require.False(t, c.Message)
	require.NotNil(t, c.SeekingID)
}

// Who waits may leave a message instead: their words are kept, and they leave
// the queue.
func TestLeavingAMessageInsteadOfWaiting(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	leave := talk.Opening{ClientID: uuid.NewString(), Email: "wren@example.com"}
	var kept talk.Opened
	require.NoError(t, wren.Call(f.ctx, "message", leave, &kept))
	require.Equal(t, chatID, kept.Chat.ID)
	require.True(t, kept.Chat.Message)
	require.Equal(t, "wren@example.com", kept.Chat.Email)
	c, err := chatlog.On(f.Store).Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Nil(t, c.SeekingID)
	require.Equal(t, "wren@example.com", c.Email)
}

// Open pages learn within a moment whether the team is there, without asking.
func TestOpenPagesFollowTheTeam(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	request, err := http.NewRequestWithContext(f.ctx, http.MethodGet, f.URL+"/live/page/"+demo.WidgetKey+"?cf_connect="+url.QueryEscape(`{"id":1,"connect":{}}`), nil)
	require.NoError(t, err)
	elsewhere := request.Clone(f.ctx)
	elsewhere.Header.Set("Origin", "http://other.example")
	refused, err := http.DefaultClient.Do(elsewhere)
	require.NoError(t, err)
	refused.Body.Close()
	require.Equal(t, http.StatusForbidden, refused.StatusCode)

	request.Header.Set("Origin", siteOrigin)
	answer, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	require.Equal(t, siteOrigin, answer.Header.Get("Access-Control-Allow-Origin"))
	lines := bufio.NewScanner(answer.Body)
	for lines.Scan() && !strings.Contains(lines.Text(), "connect") {
	}
	states := make(chan string, 100)
	go func() {
		defer close(states)
		for lines.Scan() { // ends with the answer
			if strings.Contains(lines.Text(), `"state":"`) {
				states <- lines.Text()
			}
		}
	}()
	hears := func(state string, within time.Duration) (line string) {
		late := time.After(within)
		for {
			select {
			case line, more := <-states:
				if !more || strings.Contains(line, `"state":"`+state+`"`) {
					return line
				}
			case <-late:
				return ""
			}
		}
	}
	ansel := f.operator(4, newInbox())
	begun := time.Now()
	f.available(ansel, false)
	if hears("closed", 5*time.Second) == "" {
		// The floor had not looked since he came: for it nothing has changed.
		f.available(ansel, true)
		require.NotEmpty(t, hears("open", 20*time.Second))
		begun = time.Now()
		f.available(ansel, false)
		require.NotEmpty(t, hears("closed", 20*time.Second))
	}
	t.Logf("counted: an open page learned that the team closed after %d ms", time.Since(begun).Milliseconds())
	f.available(ansel, true)
	open := hears("open", 20*time.Second)
	require.NotEmpty(t, open)
	require.NotContains(t, open, "Merrow", "nothing of the team but first names")
}

// The form before a chat is checked on the server, and who is known is not
// asked again.
func TestTheFormIsCheckedOnTheServer(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	w, err := settings.On(f.Store).WidgetByKey(f.ctx, demo.WidgetKey)
	require.NoError(t, err)
	w.Form = form.Form{
		{Name: "email", Kind: form.Email, Label: "Email", Required: true},
		{Name: "booking", Kind: form.Text, Label: "Booking", Required: true, Pattern: `KF-\d{5}`, Error: "It looks like KF-20417."},
		{Name: "team", Kind: form.Department, Label: "Team"},
	}
	require.NoError(t, settings.On(f.Store).SaveWidget(f.ctx, w))
	f.Settings.Forget()
	wren := f.visitor(newInbox())
	open := func(answers form.Answers, email string) error {
		_, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Email: email, Answers: answers})
		return err
	}
	p := requireProblem(t, open(form.Answers{"booking": "KF-1", "team": "nobody"}, ""), "bad-fields")
	require.Equal(t, []form.Wrong{{Field: "email", Words: "Please fill this in."}, {Field: "booking", Words: "It looks like KF-20417."}, {Field: "team", Words: "Choose one of the options."}}, p.Fields)
	require.NoError(t, open(form.Answers{"booking": "KF-20417", "smuggled": "x"}, "wren@example.com"))
	c := f.latest(wren)
	require.Equal(t, form.Answers{"booking": "KF-20417"}, c.Answers)
	require.NoError(t, wren.Call(f.ctx, "end", map[string]string{"chatId": c.ID}, nil))
	require.NoError(t, open(nil, ""), "known already")
	require.Equal(t, "KF-20417", f.latest(wren).Answers["booking"])
	require.Equal(t, "wren@example.com", f.latest(wren).Email)
}

func (f fixture) latest(v *talker.Visitor) chatlog.Chat {
	f.t.Helper()
	back, err := talker.Admit(f.ctx, f.URL, demo.WidgetKey, v.Token)
	require.NoError(f.t, err)
	c, err := chatlog.On(f.Store).Chat(f.ctx, back.Chat.ID)
	require.NoError(f.t, err)
	return c
}
