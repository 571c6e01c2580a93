package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/desk"
	"stoop/internal/library"
	"stoop/internal/people"
	"stoop/internal/talk"
	"stoop/internal/teamtalk"
	"stoop/internal/view"
)

// Nothing that the team puts down beside a chat reaches its visitor: not live,
// not when they come back.
func TestWhatTheTeamPutsDownStaysWithTheTeam(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	heard := newInbox()
	wren := f.visitor(heard)
	chatID := f.ask(wren, "Is there room?")
	f.take(idris, chatID)
	post := func(path string, body any) {
		t.Helper()
		require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+path, body, nil), path)
	}
	var shown desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &shown))
	post("/notes", map[string]string{"text": "SECRET note"})
	post("/tags", map[string]any{"tag": "secret tag", "on": true})
	require.NoError(t, idris.Put(f.ctx, "/api/chats/"+chatID+"/summary", map[string]string{"text": "SECRET summary"}))
	require.NoError(t, idris.Put(f.ctx, "/api/chats/"+chatID+"/outcome", map[string]any{"outcome": shown.Outcomes[1], "sale": map[string]any{"cents": 41280, "currency": "EUR"}}))
	require.NoError(t, idris.Put(f.ctx, "/api/chats/"+chatID+"/unread", map[string]bool{"unread": true}))
	require.NoError(t, maren.Post(f.ctx, "/api/chats/"+chatID+"/whispers", map[string]string{"text": "SECRET whisper"}, nil))
	require.NoError(t, maren.Put(f.ctx, "/api/chats/"+chatID+"/watch", map[string]bool{"on": true}))
	post("/call", map[string]string{"departmentId": shown.Departments[0].ID, "text": "SECRET question"})
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "There is room")
	require.NoError(t, err)

	live := strings.Join(heard.until(t, func(m string) bool { return strings.Contains(m, "There is room") }), "\n")
	back, err := json.Marshal(f.resume(wren))
	require.NoError(t, err)
	for where, text := range map[string]string{"live": live, "resumed": string(back)} {
		for _, secret := range []string{"SECRET", "secret", "41280", shown.Outcomes[1], "whispered", "noted", "watched", "called", "unread"} {
			require.NotContains(t, text, secret, where)
		}
	}
	var script desk.Script
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.Equal(t, []string{"secret tag"}, script.Chat.Tags)
	require.Equal(t, "SECRET summary", script.Chat.Summary)
	require.EqualValues(t, 41280, script.Chat.Sale.Cents)
	require.True(t, script.Chat.Unread)
	// Leads watch unseen: the operator's log has an empty place there.
	require.Equal(t, "Maren Holt", last(t, script.Events, "watched").Name)
	script = desk.Script{}
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID, &script))
	for _, e := range script.Events {
		require.NotEqual(t, view.EventKind("watched"), e.Kind)
	}
	require.Equal(t, "SECRET whisper", last(t, script.Events, "whispered").Text)
}

// Who corrects or withdraws words takes them out of everything that others read.
func TestCorrectedAndWithdrawnWords(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	f.take(idris, chatID)
	say := func(text string) int64 {
		t.Helper()
		said, err := idris.Say(f.ctx, chatID, uuid.NewString(), text)
		require.NoError(t, err)
		return said.Event.Number
	}
	path := "/api/chats/" + chatID + "/events/"
	first, second := say("The fare is forty-one"), say("My password is swordfish")
	require.NoError(t, idris.Put(f.ctx, fmt.Sprint(path, first), map[string]string{"text": "The fare is fourteen"}))
	require.NoError(t, idris.Delete(f.ctx, fmt.Sprint(path, second)))
	requireProblem(t, idris.Put(f.ctx, fmt.Sprint(path, second), map[string]string{"text": "back"}), "not-that")
	requireProblem(t, idris.Put(f.ctx, fmt.Sprint(path, 2), map[string]string{"text": "their words"}), "not-yours")
	requireProblem(t, idris.Put(f.ctx, fmt.Sprint(path, 999), map[string]string{"text": "none"}), "not-found")
	requireProblem(t, wren.Call(f.ctx, "withdraw", talk.EventCall{ChatID: chatID, Number: first}, nil), "not-yours")
	said, err := wren.Say(f.ctx, chatID, uuid.NewString(), "my card is 4000")
	require.NoError(t, err)
	require.NoError(t, wren.Call(f.ctx, "withdraw", talk.EventCall{ChatID: chatID, Number: said.Event.Number}, nil))

	back, err := json.Marshal(f.resume(wren))
	require.NoError(t, err)
	require.Contains(t, string(back), "fourteen")
	require.NotContains(t, string(back), "forty-one")
	require.NotContains(t, string(back), "swordfish")
	_, content, err := idris.Fetch(f.ctx, "/api/chats/"+chatID, nil)
	require.NoError(t, err)
	require.NotContains(t, string(content), "my card is 4000", "what a visitor takes back nobody reads")
	require.Contains(t, string(content), "swordfish", "the team sees what it took back itself")
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
	found := func(words string) int64 {
		var page struct{ Total int64 }
		require.NoError(t, idris.Get(f.ctx, "/api/transcripts?words="+words, &page))
		return page.Total
	}
	require.Eventually(t, func() bool { return found("fourteen") == 1 }, 20*time.Second, 20*time.Millisecond)
	for _, words := range []string{"forty-one", "swordfish", "4000"} {
		require.Zero(t, found(words), words)
	}
}

// Help is asked of a department; its members see the chat, come, and speak.
func TestAskingTheTeam(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	called := newInbox()
	idris, sunniva, tove := f.operator(0, newInbox()), f.operator(2, called), f.operator(1, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "How heavy may a lorry be?")
	f.take(idris, chatID)
	requireProblem(t, sunniva.Get(f.ctx, "/api/chats/"+chatID, nil), "not-yours")
	requireProblem(t, sunniva.Post(f.ctx, "/api/chats/"+chatID+"/join", nil, nil), "not-yours")
	var shown desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &shown))
	freight := ""
	for _, d := range shown.Departments {
		if d.Name == "Freight" {
			freight = d.ID
		}
	}
	call := map[string]string{"departmentId": freight, "text": "Who knows the ramp?"}
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/call", call, nil))
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/call", call, nil), "calling")
	called.until(t, func(m string) bool { return strings.Contains(m, "Who knows the ramp?") })
	require.NoError(t, sunniva.Post(f.ctx, "/api/chats/"+chatID+"/join", nil, nil))
	_, err := sunniva.Say(f.ctx, chatID, uuid.NewString(), "44 tonnes on MV Curlew")
	require.NoError(t, err)
	requireProblem(t, tove.Post(f.ctx, "/api/chats/"+chatID+"/join", nil, nil), "not-yours")
	require.Equal(t, "Sunniva Rask", last(t, f.resume(wren).Events, "joined").To)
}

// Leads read along, whisper, step in and take over; operators do not.
func TestLeadsAndOperators(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris, tove := f.operator(3, newInbox()), f.operator(0, newInbox()), f.operator(1, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(idris, chatID)
	for _, o := range []struct {
		path string
		body any
	}{{"/whispers", map[string]string{"text": "x"}}, {"/take-over", nil}} {
		requireProblem(t, tove.Post(f.ctx, "/api/chats/"+chatID+o.path, o.body, nil), "not-allowed")
	}
	requireProblem(t, tove.Put(f.ctx, "/api/chats/"+chatID+"/watch", map[string]bool{"on": true}), "not-allowed")
	require.NoError(t, maren.Post(f.ctx, "/api/chats/"+chatID+"/join", nil, nil))
	_, err := maren.Say(f.ctx, chatID, uuid.NewString(), "Let me see")
	require.NoError(t, err)
	var view view.ChatView
	require.NoError(t, maren.Post(f.ctx, "/api/chats/"+chatID+"/take-over", nil, &view))
	require.Equal(t, "Maren Holt", view.OwnerName)
	require.Len(t, view.Guests, 1, "who had it may speak on")
	_, err = idris.Say(f.ctx, chatID, uuid.NewString(), "I stay beside you")
	require.NoError(t, err)
}

// Two people edit one contact: the second is told, with what the first wrote.
func TestTwoEditAContact(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(idris, chatID)
	path := "/api/chats/" + chatID
	var a, b people.AboutView
	require.NoError(t, idris.Get(f.ctx, path+"/about", &a))
	require.NoError(t, maren.Get(f.ctx, path+"/about", &b))
	require.Equal(t, "Wren", a.Contact.Name)
	a.Contact.Name, a.Contact.Email, a.Contact.Phone = "Wren Castellane", "wren.c@example.com", "+45 5550 0101"
	require.NoError(t, idris.Put(f.ctx, path+"/contact", a.Contact))
	b.Contact.Company = "Brae Walks"
	p := requireProblem(t, maren.Put(f.ctx, path+"/contact", b.Contact), "contact-changed")
	require.Equal(t, "Wren Castellane", p.Contact.Name)
	p.Contact.Company = "Brae Walks"
	var saved view.ContactView
	require.NoError(t, maren.PutInto(f.ctx, path+"/contact", p.Contact, &saved))
	require.Equal(t, "wren.c@example.com", saved.Email)

	var script desk.Script
	require.NoError(t, idris.Get(f.ctx, path, &script))
	require.Equal(t, "Wren Castellane", script.Chat.Name, "the lane goes by the name that the team filled in")
	saved.Email = "no address"
	requireProblem(t, idris.Put(f.ctx, path+"/contact", saved), "bad-fields")

	require.NoError(t, idris.Post(f.ctx, path+"/contact/notes", map[string]string{"text": "Prefers mornings"}, nil))
	require.NoError(t, idris.Post(f.ctx, path+"/end", nil, nil))
	// The same person from another browser is known, with the earlier chat.
	other := f.visitor(newInbox())
	opened, err := other.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Me again", Email: "WREN.C@example.com"})
	require.NoError(t, err)
	f.take(idris, opened.Chat.ID)
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+opened.Chat.ID+"/about", &a))
	require.Equal(t, "Brae Walks", a.Contact.Company)
	require.True(t, a.Contact.Claimed, "an email proves nothing")
	// Whoever claims an email learns nothing of the one it belongs to, also after
	// the team has stored the contact.
	a.Contact.Company = "Brae Walks Ltd"
	require.NoError(t, idris.Put(f.ctx, "/api/chats/"+opened.Chat.ID+"/contact", a.Contact))
	resumed, err := other.Resume(f.ctx, opened.Chat.ID, 0)
	require.NoError(t, err)
	require.Empty(t, resumed.Name)
	require.Equal(t, "Prefers mornings", a.Notes[0].Text)
	require.Equal(t, chatID, a.Earlier[0].ID)
}

// An earlier chat of a colleague is read beside one's own of the same person,
// and by nobody else.
func TestEarlierChatsAreReadBeside(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	wren := f.visitor(newInbox())
	first := f.ask(wren, "About my jacket")
	f.take(idris, first)
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+first+"/end", nil, nil))
	second := f.ask(wren, "Me again")
	requireProblem(t, tove.Get(f.ctx, "/api/chats/"+first+"?beside=", nil), "not-yours")
	f.take(tove, second)
	requireProblem(t, tove.Get(f.ctx, "/api/chats/"+first, nil), "not-yours")
	var script desk.Script
	require.NoError(t, tove.Get(f.ctx, "/api/chats/"+first+"?beside="+second, &script))
	require.Equal(t, "About my jacket", last(t, script.Events, "said").Text)
	requireProblem(t, idris.Get(f.ctx, "/api/chats/"+second+"?beside="+first, nil), "not-yours")
}

// A banned visitor's chat ends, and they do not get in again until it is lifted.
func TestBans(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris, tove := f.operator(3, newInbox()), f.operator(0, newInbox()), f.operator(1, newInbox())
	hears := newInbox()
	wren := f.visitor(hears)
	chatID := f.ask(wren, "Something rude")
	f.take(idris, chatID)
	requireProblem(t, tove.Post(f.ctx, "/api/bans", people.BanOrder{ChatID: chatID, Reason: "x"}, nil), "not-yours")
	requireProblem(t, idris.Post(f.ctx, "/api/bans", people.BanOrder{ChatID: chatID}, nil), "bad-fields")
	require.NoError(t, idris.Post(f.ctx, "/api/bans", people.BanOrder{ChatID: chatID, Reason: "Insults", Hours: 24}, nil))
	var script desk.Script
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.Equal(t, "ended", script.Chat.Phase)
	told := hears.until(t, func(m string) bool { return strings.Contains(m, `"kind":"ended"`) })
	require.NotContains(t, told[len(told)-1], "banned", "the visitor is not told why")
	_, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Again"})
	require.Error(t, err, "their connection is closed")
	_, err = admitted(f, wren.Token)
	requireProblem(t, err, "banned")

	var bans []people.BanView
	requireProblem(t, idris.Get(f.ctx, "/api/bans", &bans), "not-allowed")
	require.NoError(t, maren.Get(f.ctx, "/api/bans", &bans))
	require.True(t, bans[0].Holds)
	require.Equal(t, "Insults", bans[0].Reason)
	require.NoError(t, maren.Delete(f.ctx, "/api/bans/"+bans[0].ID))
	_, err = admitted(f, wren.Token)
	require.NoError(t, err)

	requireProblem(t, idris.Post(f.ctx, "/api/bans", people.BanOrder{Network: "127.0.0.0/24", Reason: "x"}, nil), "not-allowed")
	for _, network := range []string{"everybody", "0.0.0.0/0", "10.0.0.0/8", "::/0"} {
		requireProblem(t, maren.Post(f.ctx, "/api/bans", people.BanOrder{Network: network, Reason: "x"}, nil), "bad-fields")
	}
	require.NoError(t, maren.Post(f.ctx, "/api/bans", people.BanOrder{Network: "127.0.0.1", Reason: "A flood", Hours: 1}, nil))
	_, err = admitted(f, "")
	requireProblem(t, err, "banned")
}

// A department that wants an outcome keeps the chat with its owner until then.
func TestTheOutcomeThatADepartmentWants(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	require.NoError(t, f.Store.DB.Exec("update departments set wrap_up_required = true").Error)
	f.Settings.Forget()
	idris := f.operator(0, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Hello")
	f.take(idris, chatID)
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "Good day")
	require.NoError(t, err)
	var view view.ChatView
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, &view))
	require.True(t, view.NeedsOutcome)
	var shown desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &shown))
	require.Len(t, shown.Chats, 1, "it is owed, also after a reload")
	outcome := func(name string) error {
		return idris.Put(f.ctx, "/api/chats/"+chatID+"/outcome", map[string]string{"outcome": name})
	}
	requireProblem(t, outcome("Something else"), "bad-fields")
	require.NoError(t, outcome(shown.Outcomes[0]))
	shown = desk.Desk{}
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &shown))
	require.Empty(t, shown.Chats)
}

// Team talk is between its members, once for each message, and in no transcript.
func TestTeamTalk(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	heard, unheard := newInbox(), newInbox()
	maren, idris, tove := f.operator(3, newInbox()), f.operator(0, heard), f.operator(1, unheard)
	var me view.OperatorView
	require.NoError(t, idris.Get(f.ctx, "/api/me", &me))
	var room, same teamtalk.RoomView
	require.NoError(t, maren.Post(f.ctx, "/api/rooms", map[string]any{"members": []string{me.ID}}, &room))
	require.Equal(t, "Idris Vane", room.Name)
	var meMaren view.OperatorView
	require.NoError(t, maren.Get(f.ctx, "/api/me", &meMaren))
	require.NoError(t, idris.Post(f.ctx, "/api/rooms", map[string]any{"members": []string{meMaren.ID}}, &same))
	require.Equal(t, room.ID, same.ID, "two people have one room")
	message := map[string]string{"clientId": uuid.NewString(), "text": "Quartz lunch at noon"}
	path := "/api/rooms/" + room.ID + "/messages"
	require.NoError(t, maren.Post(f.ctx, path, message, nil))
	require.NoError(t, maren.Post(f.ctx, path, message, nil), "sent again because the answer got lost")
	heard.until(t, func(m string) bool { return strings.Contains(m, "Quartz lunch") })
	var list []teamtalk.TalkView
	require.NoError(t, idris.Get(f.ctx, path, &list))
	require.Len(t, list, 1)
	requireProblem(t, tove.Get(f.ctx, path, &list), "not-found")
	requireProblem(t, tove.Post(f.ctx, path, map[string]string{"clientId": "x", "text": "y"}, nil), "not-found")
	requireProblem(t, maren.Post(f.ctx, path, map[string]string{"clientId": "z", "text": " \n "}, nil), "message-empty")
	var page struct{ Total int64 }
	require.NoError(t, maren.Get(f.ctx, "/api/transcripts?words=Quartz", &page))
	require.Zero(t, page.Total)
	select {
	case m := <-unheard:
		require.NotContains(t, string(m), "Quartz")
	default:
	}
	var rooms []teamtalk.RoomView
	require.NoError(t, idris.Get(f.ctx, "/api/rooms", &rooms))
	require.EqualValues(t, 1, rooms[0].Unseen)
	require.NoError(t, idris.Put(f.ctx, "/api/rooms/"+room.ID+"/seen", map[string]int64{"upTo": list[0].ID}))
	rooms = nil
	require.NoError(t, idris.Get(f.ctx, "/api/rooms", &rooms))
	require.Zero(t, rooms[0].Unseen)
}

// Preferences are one's own, and changing one leaves the others.
func TestPreferences(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	require.NoError(t, idris.Patch(f.ctx, "/api/me/preferences", map[string]any{"lineWidth": 320, "sound": "wood"}))
	require.NoError(t, idris.Patch(f.ctx, "/api/me/preferences", map[string]any{"volume": 0}))
	var shown desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &shown))
	require.Equal(t, 320, shown.Preferences.LineWidth)
	require.Equal(t, "wood", shown.Preferences.Sound)
	require.Zero(t, *shown.Preferences.Volume, "silent is not the same as not chosen")
	var other desk.Desk
	require.NoError(t, tove.Get(f.ctx, "/api/desk", &other))
	require.Zero(t, other.Preferences.LineWidth)
	requireProblem(t, idris.Patch(f.ctx, "/api/me/preferences", map[string]any{"sound": "trumpet"}), "bad-request")
}

// Who wants it gets an email for each message left for their departments, once.
func TestMessagesLeftAreTold(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	require.NoError(t, idris.Patch(f.ctx, "/api/me/preferences", map[string]any{"mailMessage": true}))
	require.NoError(t, tove.Patch(f.ctx, "/api/me/preferences", map[string]any{"mailMessage": false}))
	f.nobodyIn()
	wren := f.visitor(newInbox())
	require.NoError(t, wren.Call(f.ctx, "message", talk.Opening{ClientID: uuid.NewString(), Text: "Where is my jacket?", Email: "wren@example.com"}, nil))
	require.Eventually(t, func() bool { return len(box.Mails()) > 0 }, 20*time.Second, 50*time.Millisecond)
	for _, m := range box.Mails() {
		require.Equal(t, "idris@example.com", m.To)
		require.Contains(t, m.Text, "Where is my jacket?")
	}
}

// The team's Markdown never becomes markup that runs, and only what is for all
// is read without a login.
func TestArticles(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	body := "# Dogs\n\n<script>alert(1)</script>\n\n[here](javascript:alert(1)) and [there](https://example.com)\n\n![x](data:text/html,hi)"
	requireProblem(t, idris.Put(f.ctx, "/api/articles", library.ArticleView{Title: "For all", Body: body, Audience: "all"}), "not-allowed")
	var own, public library.ArticleView
	require.NoError(t, idris.PutInto(f.ctx, "/api/articles", library.ArticleView{Title: "Zebra kennels", Body: body, Audience: "team"}, &own))
	require.NoError(t, maren.PutInto(f.ctx, "/api/articles", library.ArticleView{Title: "Zebra crossings", Body: body, Audience: "all"}, &public))
	wren := f.visitor(newInbox())
	answer, _, err := wren.Fetch(f.ctx, "/articles/"+own.ID, nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusNotFound, answer.StatusCode)
	answer, page, err := wren.Fetch(f.ctx, "/articles/"+public.ID, nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Contains(t, answer.Header.Get("Content-Security-Policy"), "default-src 'none'")
	for _, html := range []string{string(page), public.HTML} {
		require.NotContains(t, html, "<script")
		require.NotContains(t, html, "javascript:")
		require.NotContains(t, html, "data:text/html")
		require.Contains(t, html, `href="https://example.com"`)
	}
	var found []library.ArticleView
	require.NoError(t, idris.Get(f.ctx, "/api/articles?words=zebr+kenn", &found))
	require.Len(t, found, 1)
	require.Equal(t, "Dogs here and there x", found[0].Excerpt, "words, not the marks of Markdown")
	stale := own
	own.Body = "New words"
	require.NoError(t, idris.Put(f.ctx, "/api/articles", own))
	requireProblem(t, idris.Put(f.ctx, "/api/articles", stale), "changed")
}

// The tags in use are remembered, since they are asked for at each turn to a
// lane; one that was just put on is offered all the same.
func TestATagIsOfferedAsSoonAsItIsUsed(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	first, second := f.ask(f.visitor(newInbox()), "One"), f.ask(f.visitor(newInbox()), "Two")
	f.take(idris, first)
	f.take(idris, second)
	offered := func() []string {
		var about people.AboutView
		require.NoError(t, idris.Get(f.ctx, "/api/chats/"+second+"/about", &about))
		return about.Tags
	}
	require.NotContains(t, offered(), "gangway")
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+first+"/tags", map[string]any{"tag": "gangway", "on": true}, nil))
	require.Contains(t, offered(), "gangway")
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+first+"/tags", map[string]any{"tag": "gangway", "on": false}, nil))
	require.NotContains(t, offered(), "gangway")
}
