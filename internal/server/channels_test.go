package server_test

import (
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/widget"
	channels "stoop/internal/channel"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/people"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/mailbox"
	"stoop/internal/standin/phone"
	"stoop/internal/standin/talker"
	"stoop/internal/view"
)

// Numbers that nobody has: Ofcom keeps them for drama.
const (
	mobile    = "+447700900451"
	another   = "+447700900452"
	noTexting = "+447700900000" // the stand-in refuses it
)

// writing is a house to which people write by text message and mail.
type writing struct {
	fixture
	phone *phone.Phone
	box   *mailbox.Mailbox
	away  atomic.Bool // the gateway
	admin *talker.Operator
}

func withChannels(t *testing.T, changes ...func(*server.Config)) *writing {
	t.Helper()
	w := &writing{phone: phone.New("key of the test", slog.New(slog.DiscardHandler))}
	handler := w.phone.Handler()
	gateway := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, q *http.Request) {
		if w.away.Load() {
			http.Error(rw, "away", http.StatusServiceUnavailable)
			return
		}
		handler.ServeHTTP(rw, q)
	}))
	t.Cleanup(gateway.Close)
	w.fixture, w.box = withMail(t, append(changes, func(c *server.Config) { c.TextsURL, c.TextsKey = gateway.URL+"/send", "key of the test" })...)
	w.phone.SetInbound(w.URL)
	require.NoError(t, demo.SeedChannels(w.ctx, w.Store))
	w.Settings.Forget()
	w.admin = w.operator(4, newInbox())
	return w
}

func (w *writing) texts(text string) {
	w.t.Helper()
	require.NoError(w.t, w.phone.Send(w.ctx, mobile, demo.TextNumber, text))
}

// got waits for what came to a telephone.
func (w *writing) got(number string, texts ...string) {
	w.t.Helper()
	var list []string
	require.Eventually(w.t, func() bool {
		list = nil
		for _, m := range w.phone.Texts(number) {
			if m.Out {
				list = append(list, m.Text)
			}
		}
		return slices.Equal(list, texts)
	}, 20*time.Second, 20*time.Millisecond, "%q came, not %q", &list, texts)
}

// chats returns all chats, the latest first.
func (w *writing) chats() []chatlog.Chat {
	w.t.Helper()
	ids, err := w.Store.IDs(w.ctx, "select id::text from chats order by started_at desc, id desc limit 20")
	require.NoError(w.t, err)
	var list []chatlog.Chat
	for _, id := range ids {
		c, err := w.Chats.Chat(w.ctx, id)
		require.NoError(w.t, err)
		list = append(list, c)
	}
	return list
}

func (w *writing) open() []chatlog.Chat {
	return slices.DeleteFunc(w.chats(), func(c chatlog.Chat) bool { return c.Phase == chat.Over })
}

func (w *writing) log(id string) []chat.Event {
	w.t.Helper()
	log, err := w.Chats.Events(w.ctx, id, 0, 1000)
	require.NoError(w.t, err)
	return log
}

// said returns what both sides said in a chat.
func (w *writing) said(id string) (list []string) {
	for _, e := range w.log(id) {
		if e.Kind == chat.Said {
			list = append(list, e.Text)
		}
	}
	return list
}

// A text message is a chat as any other: in the line, taken, answered on the telephone, told when
// it was delivered; sent twice it stands once.
func TestATextMessageIsAChat(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	toIdris := newInbox()
	idris := w.operator(0, toIdris)
	w.available(idris, true)
	for range 2 {
		require.NoError(t, w.phone.SendAs(w.ctx, "message-1", "+44 7700 900451", "+44 7700 900100", "Is the 18:30 to Sandry on time?"))
	}
	toIdris.until(t, func(m string) bool { return strings.Contains(m, "Is the 18:30 to Sandry on time?") })
	require.Len(t, w.open(), 1)
	c := w.open()[0]
	require.Equal(t, []string{"Is the 18:30 to Sandry on time?"}, w.said(c.ID))
	require.False(t, c.Message)
	require.Equal(t, chat.Waiting, c.Phase)
	require.Equal(t, &chat.Way{Kind: channel.Text, Line: c.State.Over.Line, Address: mobile}, c.State.Over)
	require.Equal(t, []string{mobile, "text"}, []string{c.Phone, c.Over})
	require.Equal(t, "by-text", w.log(c.ID)[0].Intro.Source, "by which reports and transcripts tell it apart")

	var taken view.ChatView
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+c.ID+"/take", nil, &taken))
	require.Equal(t, &view.WayView{Kind: "text", Address: "+44 7700 900451", Line: "Text messages"}, taken.Way)
	require.Equal(t, []string{"site", "email"}, taken.Ways)
	said, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "It is – 18:30 from quay two.")
	require.NoError(t, err)
	w.got(mobile, "It is - 18:30 from quay two.")
	require.Eventually(t, func() bool {
		now, err := w.Chats.Chat(w.ctx, c.ID)
		return err == nil && now.Marks().ByVisitor.Delivered == said.Event.Number
	}, 20*time.Second, 20*time.Millisecond, "that it was delivered is told")
	w.texts("Thank you 🐟")
	toIdris.until(t, func(m string) bool { return strings.Contains(m, "Thank you 🐟") })
	require.Len(t, w.open(), 1, "the same chat")

	// What the telephone does not carry is refused with a word, and nothing is lost by it.
	p := requireProblem(t, func() error {
		_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), strings.Repeat("a", 1999)+"🐟")
		return err
	}(), "too-many-parts")
	require.Equal(t, "It has 30 parts; 10 at the most are sent as one. Shorten it, or send it in two.", p.Detail)
	requireProblem(t, idris.Upload(w.ctx, "/api/chats/"+c.ID+"/files?clientId="+uuid.NewString()+"&name=plan.pdf", []byte("%PDF-1.4"), "", nil), "no-files-there")
	requireProblem(t, idris.Post(w.ctx, "/api/chats/"+c.ID+"/page", map[string]string{"clientId": uuid.NewString(), "url": siteOrigin + "/fares"}, nil), "not-on-site-now")
	requireProblem(t, idris.Put(w.ctx, fmt.Sprintf("/api/chats/%s/events/%d", c.ID, said.Event.Number), map[string]string{"text": "Other words"}), "too-late")
	var length channels.Measured
	require.NoError(t, idris.Post(w.ctx, "/api/channels/measure", map[string]string{"text": "It is late … 🐟"}, &length))
	require.Equal(t, channels.Measured{Parts: 1, Most: 10, Left: 70 - 17, Because: "🐟"}, length)

	// Who writes again after the end begins a chat, which the one who had the last is asked first.
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+c.ID+"/end", nil, nil))
	w.texts("One more thing")
	require.Eventually(t, func() bool { return len(w.open()) == 1 }, 20*time.Second, 20*time.Millisecond)
	again := w.open()[0]
	require.NotEqual(t, c.ID, again.ID)
	require.Equal(t, c.VisitorID, again.VisitorID)
	earlier, err := w.People.EarlierChats(w.ctx, again.VisitorID, again.ID)
	require.NoError(t, err)
	require.Equal(t, c.ID, earlier[0].ID, "their conversations stand together")
}

// A message of 2,000 characters with emoji comes in whole, in as many parts as the team's limit
// asks for, and no word is cut that need not be.
func TestALongTextComesInWhole(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	text := strings.TrimSpace(strings.Repeat("Quay two 🐟 ", 182))[:0]
	for len([]rune(text)) < 1990 {
		text += "Quay two 🐟 "
	}
	text = strings.TrimSpace(text + strings.Repeat("x", 2000-len([]rune(text))))
	require.Len(t, []rune(text), 2000)
	limit := w.widgetOf(w.admin).Design.MessageLimit
	w.texts(text + " " + text + " " + text)
	c := w.open()[0]
	said := w.said(c.ID)
	require.Greater(t, len(said), 2)
	for _, part := range said {
		require.LessOrEqual(t, len([]rune(part)), limit)
	}
	require.Equal(t, text+" "+text+" "+text, strings.Join(said, " "))
}

// STOP holds for whatever is sent, also what waits already; START ends it. Each is confirmed once,
// and the team sees it.
func TestWhoSendsSTOPGetsNoMoreTexts(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	idris := w.operator(0, newInbox())
	w.texts("When is the last ferry?")
	c := w.open()[0]
	w.take(idris, c.ID)
	w.away.Store(true)
	_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "At 23:10.")
	require.NoError(t, err)
	_, err = idris.Say(w.ctx, c.ID, uuid.NewString(), "From the old quay.")
	require.NoError(t, err)
	w.texts(" Stop. ")
	w.texts("STOP")
	_, err = idris.Say(w.ctx, c.ID, uuid.NewString(), "Are you there?")
	require.Equal(t, "They want no more text messages", requireProblem(t, err, "stopped").Title)
	w.away.Store(false)
	stopped := "Kelpwick Ferries: you will get no more text messages from us. Send START to get them again."
	w.got(mobile, stopped)
	w.texts("I did not mean that")
	require.Len(t, w.open(), 1)
	require.True(t, w.open()[0].State.Over.Stopped)
	_, err = idris.Say(w.ctx, c.ID, uuid.NewString(), "Are you there?")
	requireProblem(t, err, "stopped")
	w.texts("HELP")
	help := "Kelpwick Ferries: write your question here and somebody will reply. Send STOP to get no more messages."
	w.got(mobile, stopped, help)
	w.texts("start")
	started := "Kelpwick Ferries: you will get text messages from us again. Send STOP to stop them."
	w.got(mobile, stopped, help, started)
	// What was said before they wanted none stays unsaid, though it comes into the queue this late.
	late := w.Store.DB.Exec("update channel_out set done_at = null, failed = false, why = '', next_at = now() where number > 0")
	require.NoError(t, late.Error)
	require.EqualValues(t, 2, late.RowsAffected)
	_, err = idris.Say(w.ctx, c.ID, uuid.NewString(), "It goes at 23:10.")
	require.NoError(t, err)
	w.got(mobile, stopped, help, started, "It goes at 23:10.")
	require.Len(t, w.open()[0].State.Undelivered, 2, "whoever wrote them sees that they did not come")
	var hows []string
	for _, e := range w.log(c.ID) {
		if e.Kind == chat.ChannelMoved {
			hows = append(hows, e.Detail.How)
		}
	}
	require.Equal(t, []string{"stopped", "started"}, hows)

	// It outlives what is known of them.
	w.texts("STOP")
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+c.ID+"/end", nil, nil))
	who, err := w.Talk.Register.Visitor(w.ctx, c.VisitorID)
	require.NoError(t, err)
	require.NotNil(t, who.ContactID, "the contact that has the number")
	require.Contains(t, string(w.archive(w.admin, *who.ContactID, false)["person.json"]), `"how": "wrote"`, "what is kept of them says since when they may be written to")
	require.NoError(t, w.admin.Post(w.ctx, "/api/people/forget", map[string]any{"chatId": c.ID, "claimed": false}, nil))
	w.texts("Who are you?")
	require.True(t, w.open()[0].State.Over.Stopped)
}

// What a gateway refuses stands in the chat as not delivered; while it is away words wait, in
// their order.
func TestWordsThatCannotBeCarried(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	toIdris := newInbox()
	idris := w.operator(0, toIdris)
	require.NoError(t, w.phone.Send(w.ctx, noTexting, demo.TextNumber, "Hello"))
	c := w.open()[0]
	w.take(idris, c.ID)
	said, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "Hello!")
	require.NoError(t, err)
	toIdris.until(t, func(m string) bool { return strings.Contains(m, "not-delivered") })
	log := w.log(c.ID)
	last := log[len(log)-1]
	require.Equal(t, []any{chat.NotDelivered, said.Event.Number, "There is no such number."}, []any{last.Kind, last.UpTo, last.Text})

	w.texts("Is there room for a van?")
	c = w.open()[0]
	w.take(idris, c.ID)
	w.away.Store(true)
	for i := range 5 {
		_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), fmt.Sprint(i))
		require.NoError(t, err)
	}
	w.away.Store(false)
	w.got(mobile, "0", "1", "2", "3", "4")

	// An hour in vain is the end of it.
	w.away.Store(true)
	said, err = idris.Say(w.ctx, c.ID, uuid.NewString(), "Too late")
	require.NoError(t, err)
	start := time.Now()
	later := time.Duration(0)
	require.Eventually(t, func() bool {
		later += 20 * time.Minute
		now := start.Add(later)
		w.Channel.Now = func() time.Time { return now }
		c, err := w.Chats.Chat(w.ctx, c.ID)
		return err == nil && slices.Contains(c.State.Undelivered, said.Event.Number)
	}, 20*time.Second, 20*time.Millisecond)
}

// A number leads to another of the same person's chats once somebody who may has asked there, and
// not because somebody tried who may not.
func TestWhoMayNotAskMovesNoNumber(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	idris, tove := w.operator(0, newInbox()), w.operator(1, newInbox())
	w.texts("Is there a lift?")
	byText := w.open()[0]
	texter, err := w.Talk.Register.Visitor(w.ctx, byText.VisitorID)
	require.NoError(t, err)
	wren := w.visitor(newInbox())
	id := w.ask(wren, "Is the ramp steep?")
	w.take(idris, id)
	there, err := w.Chats.Chat(w.ctx, id)
	require.NoError(t, err)
	require.NoError(t, w.Store.DB.Exec("update visitors set contact_id = ? where id = ?", *texter.ContactID, there.VisitorID).Error)
	wren.Close()
	require.Eventually(t, func() bool { return !w.Talk.Live.Here(chat.Visitor(there.VisitorID)) }, 20*time.Second, 20*time.Millisecond)
	requireAnyProblem(t, tove.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": "text"}, nil))
	w.texts("And a ramp?")
	require.Equal(t, []string{"Is there a lift?", "And a ramp?"}, w.said(byText.ID))
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": "text"}, nil))
	w.texts("Here I am")
	require.Equal(t, []string{"Is the ramp steep?", "Here I am"}, w.said(id))
}

// Whoever writes from elsewhere has not seen the form: nothing that it asks for holds them up.
func TestTheFormHoldsNobodyUpWhoWritesFromElsewhere(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	w.publish(w.admin, func(d *widget.Design) {
		d.Form = append(d.Form, form.Field{Name: "phone", Kind: form.Phone, Label: "Phone", Required: true, Pattern: "^0[0-9]+$", Error: "Begin with 0."},
			form.Field{Name: "agree", Kind: form.Consent, Label: "I agree", Required: true})
	})
	w.texts("Is there a lift?")
	require.Len(t, w.open(), 1)
	require.NoError(t, w.box.Write(mailbox.Letter{From: "wren@example.org", To: demo.MailAddress, Subject: "A lift", Text: "Is there one?"}))
	require.Len(t, w.open(), 2)
}

// While nobody is in, a text message is a message; its answer goes to the telephone whenever it comes.
func TestATextWhileNobodyIsIn(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	w.nobodyIn()
	w.texts("Is anybody there?")
	c := w.open()[0]
	require.True(t, c.Message)
	idris := w.operator(0, newInbox())
	w.take(idris, c.ID)
	_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "Now I am.")
	require.NoError(t, err)
	w.got(mobile, "Now I am.")
	require.Empty(t, w.box.Mails(), "and not by mail besides")
}

// On the site a visitor is asked to go on at their telephone: they send the code that they see,
// and what they have not seen of the answers comes after them. The other way round a link leads
// back.
func TestAConversationGoesOnByTextAndBack(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	toIdris, toWren := newInbox(), newInbox()
	idris := w.operator(0, toIdris)
	wren := w.visitor(toWren)
	id := w.ask(wren, "Is there a cabin for four?")
	w.take(idris, id)
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": "text"}, nil))
	toWren.until(t, func(m string) bool { return strings.Contains(m, `"channel-asked"`) })
	stranger := w.visitor(newInbox())
	requireProblem(t, stranger.Call(w.ctx, "go-on-code", channels.GoOnCall{ChatID: id}, nil), "not-yours")
	var shown, again channels.CodeShown
	require.NoError(t, wren.Call(w.ctx, "go-on-code", channels.GoOnCall{ChatID: id}, &shown))
	require.NoError(t, wren.Call(w.ctx, "go-on-code", channels.GoOnCall{ChatID: id}, &again))
	require.Equal(t, shown, again, "asked twice, one code")
	require.Equal(t, []string{demo.TextNumber, "+44 7700 900100"}, []string{shown.Number, shown.Shown})
	require.Regexp(t, `^[A-Z2-9]{8}$`, shown.Code)
	wren.Close()
	_, err := idris.Say(w.ctx, id, uuid.NewString(), "There is one on the night boat.")
	require.NoError(t, err)

	w.texts(strings.ToLower(shown.Code) + " It is me")
	on := "Kelpwick Ferries: we continue here. Send STOP to get no more messages."
	w.got(mobile, on, "There is one on the night boat.")
	require.Equal(t, []string{"Is there a cabin for four?", "There is one on the night boat.", "It is me"}, w.said(id))
	c := w.open()[0]
	require.Equal(t, id, c.ID)
	require.Equal(t, mobile, c.State.Over.Address)
	require.NoError(t, w.phone.Send(w.ctx, another, demo.TextNumber, shown.Code))
	require.Len(t, w.open(), 2, "a code is used once: from another telephone it is words like any")

	// Back to the site.
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": "site"}, nil))
	require.Eventually(t, func() bool { return len(w.phone.Texts(mobile)) == 4 }, 20*time.Second, 20*time.Millisecond)
	text := w.phone.Texts(mobile)[3].Text
	_, back, found := strings.Cut(text, "?back=")
	require.True(t, found, text)
	here, err := talker.AdmitBack(w.ctx, w.URL, demo.WidgetKey, back)
	require.NoError(t, err)
	require.Equal(t, id, here.Chat.ID)

	// From then on they are known by their number.
	require.NoError(t, idris.Post(w.ctx, "/api/chats/"+id+"/end", nil, nil))
	w.texts("Thank you")
	require.Equal(t, c.VisitorID, w.open()[0].VisitorID)
}

// Whoever has left the site is asked where they are known to read, and nowhere else.
func TestWhoHasLeftIsAskedWhereTheyRead(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	idris := w.operator(0, newInbox())
	wren := w.visitor(newInbox())
	id := w.ask(wren, "Is the ramp steep?")
	w.take(idris, id)
	wren.Close()
	require.Eventually(t, func() bool { return !w.Talk.Live.Here(chat.Visitor(w.open()[0].VisitorID)) }, 20*time.Second, 20*time.Millisecond)
	for kind, code := range map[string]string{"text": "no-number-agreed", "email": "no-email-known"} {
		requireProblem(t, idris.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": kind}, nil), code)
	}
	require.NoError(t, w.Store.DB.Exec("update chats set email = 'wren@example.org' where id = ?", id).Error)
	w.Chats.ForgetAll()
	for range 2 {
		require.NoError(t, idris.Post(w.ctx, "/api/chats/"+id+"/go-on", map[string]string{"kind": "email"}, nil))
	}
	mail := w.mail(w.box, 1)
	require.Equal(t, []any{"wren@example.org", true}, []any{mail.To, mail.Automatic})
	require.Contains(t, mail.Text, "Idris Vane would like to continue by email")
	require.NoError(t, w.box.Answer(w.ctx, mail.ID, "Very well"))
	require.Eventually(t, func() bool { return w.open()[0].Over == "email" }, 20*time.Second, 20*time.Millisecond)
	_, err := idris.Say(w.ctx, id, uuid.NewString(), "It is at low water.")
	require.NoError(t, err)
	require.Contains(t, w.mail(w.box, 2).Text, "It is at low water.")
}

// A mail to the team's own address is a message in the line; answers go on in its thread, with
// files both ways.
func TestAMailIsAMessage(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	w.available(w.admin, true)
	picture := []byte("GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff!\xf9\x04\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;")
	letter := mailbox.Letter{
		From: "Wren@example.org", Name: "Wren Castellane", To: demo.MailAddress, Subject: "Sv: Re: Broken window in cabin 12", Text: "See the picture.", ID: "m1@example.org",
		Files: []mailbox.File{{Name: "window.gif", Content: picture}},
	}
	for range 2 {
		require.NoError(t, w.box.Write(letter), "a mail server that was not sure sends again")
	}
	require.Len(t, w.open(), 1)
	c := w.open()[0]
	require.True(t, c.Message)
	require.Equal(t, []string{"Wren Castellane", "wren@example.org", "email"}, []string{c.Name, c.Email, c.Over})
	log := w.log(c.ID)
	require.Equal(t, []any{"Sv: Re: Broken window in cabin 12", channel.Email}, []any{log[0].Intro.Subject, log[0].Intro.Channel})
	var files []string
	for _, e := range log {
		if e.Kind == chat.Shared {
			files = append(files, e.Detail.File.Name+" "+e.Detail.File.Type)
		}
	}
	require.Equal(t, []string{"window.gif image/gif"}, files)

	idris := w.operator(0, newInbox())
	w.take(idris, c.ID)
	_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "We are sorry. It is mended.")
	require.NoError(t, err)
	mail := w.mail(w.box, 1)
	require.Equal(t, []any{"wren@example.org", "Re: Broken window in cabin 12", "m1@example.org", false}, []any{mail.To, mail.Subject, mail.InReplyTo, mail.Automatic})
	require.Contains(t, mail.From, demo.MailAddress)
	require.NoError(t, idris.Upload(w.ctx, "/api/chats/"+c.ID+"/files?clientId="+uuid.NewString()+"&name=mended.gif", picture, "", nil))
	require.Equal(t, []string{"mended.gif"}, w.mail(w.box, 2).Files)
	require.NoError(t, w.box.Answer(w.ctx, mail.ID, "Thank you"))
	require.NoError(t, w.box.Write(mailbox.Letter{From: "wren@example.org", To: demo.MailAddress, Subject: "And", Text: "the door?"}))
	require.Equal(t, []string{"See the picture.", "We are sorry. It is mended.", "Thank you", "the door?"}, w.said(c.ID))
	require.Len(t, w.open(), 1)
}

// What programs send each other by mail comes to an end, whether they say that they are programs
// or not; a person is asked to wait.
func TestALoopOfMailsToALineEnds(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	away := mailbox.Letter{From: "away@example.org", To: demo.MailAddress, Subject: "Out of office", Text: "I am away"}
	declared := away
	declared.Automatic = true
	require.NoError(t, w.box.Write(declared))
	self := away
	self.From = demo.MailAddress
	require.NoError(t, w.box.Write(self))
	self.From = "chat@reply.example.com"
	require.NoError(t, w.box.Write(self))
	require.NoError(t, w.box.Write(mailbox.Letter{From: "wren@example.org", To: demo.MailAddress, Text: " "}))
	require.NoError(t, w.box.Write(mailbox.Letter{From: "wren@example.org", To: demo.MailAddress, Text: "\u200b"}))
	require.Empty(t, w.open(), "nobody wrote these, or nothing")
	// However slow the machine: no time passes meanwhile, in which more might be taken in.
	start := time.Now()
	w.Mailing.Now = func() time.Time { return start }
	refused := 0
	for i := range 30 {
		away.Text = fmt.Sprintf("I am away (%d)", i)
		if err := w.box.Write(away); err != nil {
			require.ErrorContains(t, err, "450")
			refused++
		}
	}
	require.Equal(t, 10, refused)
	require.Len(t, w.open(), 1)
	require.Len(t, w.said(w.open()[0].ID), 20)
	require.Empty(t, w.box.Mails(), "none of them was answered by itself")
	w.Mailing.Now = func() time.Time { return start.Add(2 * time.Minute) }
	require.NoError(t, w.box.Write(away), "later it is taken in")
}

// Who is no gateway, what is no number, nobody's line, too much at once, and whoever is shut out.
func TestWhatAGatewayMayNot(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	other := phone.New("another key", slog.New(slog.DiscardHandler))
	other.SetInbound(w.URL)
	require.ErrorContains(t, other.Send(w.ctx, mobile, demo.TextNumber, "Hello"), "This key is not known")
	require.ErrorContains(t, w.phone.Send(w.ctx, mobile, "+447700900199", "Hello"), "Nobody reads messages to this number")
	require.ErrorContains(t, w.phone.Send(w.ctx, "Kelpwick", demo.TextNumber, "Hello"), "not a telephone number")
	require.Empty(t, w.open())
	start := time.Now()
	w.Channel.Now = func() time.Time { return start } // however slow the machine
	for i := range 30 {
		w.texts(fmt.Sprint(i))
	}
	require.ErrorContains(t, w.phone.Send(w.ctx, mobile, demo.TextNumber, "31"), "too much at once")
	w.Channel.Now = func() time.Time { return start.Add(time.Minute) }
	w.texts("31")
	c := w.open()[0]
	require.Len(t, w.said(c.ID), 31)

	idris := w.operator(0, newInbox())
	w.take(idris, c.ID)
	require.NoError(t, w.admin.Post(w.ctx, "/api/bans", people.BanOrder{ChatID: c.ID, Reason: "Rude"}, nil))
	w.texts("Still here")
	require.NotContains(t, w.said(c.ID), "Still here")

	// A line that is off is nobody's; lines are for admins.
	lead := w.operator(3, newInbox())
	requireProblem(t, lead.Get(w.ctx, "/api/setup/channels", nil), "not-allowed")
	var set channels.ChannelView
	require.NoError(t, w.admin.Get(w.ctx, "/api/setup/channels", &set))
	require.True(t, set.Texts && set.Mail)
	in := set.ChannelSettings
	requireProblem(t, lead.Put(w.ctx, "/api/setup/channels", in), "not-allowed")
	in.Lines[0].On = false
	in.Lines = append(in.Lines, settings.ChannelLine{Kind: channel.Text, Name: "Twice", Address: "+44 7700 900100", WidgetID: in.Lines[0].WidgetID}, settings.ChannelLine{Kind: channel.Email, Address: "not one", WidgetID: uuid.NewString(), QuietMinutes: 100_000})
	p := requireProblem(t, w.admin.Put(w.ctx, "/api/setup/channels", in), "bad-fields")
	var fields []string
	for _, f := range p.Fields {
		fields = append(fields, f.Field)
	}
	require.Equal(t, []string{"lines.2.address", "lines.3.name", "lines.3.address", "lines.3.widgetId", "lines.3.quietMinutes"}, fields)
	in.Lines = in.Lines[:2]
	require.NoError(t, w.admin.Put(w.ctx, "/api/setup/channels", in))
	require.ErrorContains(t, w.phone.Send(w.ctx, another, demo.TextNumber, "Hello"), "Nobody reads messages")
	requireProblem(t, w.admin.Put(w.ctx, "/api/setup/channels", in), "changed")
}

// A chat by text message ends by itself after its line's time without a word, without a reminder.
func TestAQuietChatEnds(t *testing.T) {
	t.Parallel()
	w := withChannels(t)
	idris := w.operator(0, newInbox())
	w.texts("When is the last ferry?")
	c := w.open()[0]
	w.take(idris, c.ID)
	_, err := idris.Say(w.ctx, c.ID, uuid.NewString(), "At 23:10.")
	require.NoError(t, err)
	w.got(mobile, "At 23:10.")
	start := time.Now()
	w.Floor.Now = func() time.Time { return start.Add(58 * time.Minute) }
	w.available(idris, true)
	require.NotEmpty(t, w.open())
	w.Floor.Now = func() time.Time { return start.Add(61 * time.Minute) }
	require.Eventually(t, func() bool { return len(w.open()) == 0 }, 20*time.Second, 20*time.Millisecond)
	w.got(mobile, "At 23:10.")

	// What they told of themselves goes with the form: the number is nowhere then.
	digits := strings.TrimPrefix(mobile, "+")
	held := func() (n int) {
		require.NoError(t, w.Store.DB.Raw(`select (select count(*) from events where coalesce(detail::text, '') || coalesce(intro::text, '') like @like)
			+ (select count(*) from chats where state || phone like @like) + (select count(*) from channel_out where address like @like)`, map[string]any{"like": "%" + digits + "%"}).Scan(&n).Error)
		return n
	}
	require.Positive(t, held())
	require.NoError(t, pgx.BeginFunc(w.ctx, w.Store.Pool(), func(tx pgx.Tx) error { return chatlog.EraseForm(w.ctx, tx, []string{c.ID}) }))
	require.Eventually(t, func() bool { return w.Channel.Sweep(w.ctx) == nil && held() == 0 }, 20*time.Second, 20*time.Millisecond)
}
