package server_test

import (
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/form"
	"stoop/internal/account"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/library"
	"stoop/internal/people"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

const metricsToken = "a token for the test"

// Whoever invents request methods fills no memory: a metric's label is one of
// few.
func TestMetricsHaveFewLabels(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.MetricsToken = metricsToken })
	for i := range 100 {
		request, err := http.NewRequestWithContext(f.ctx, fmt.Sprintf("M%dX", i)+strings.Repeat("A", 1000), f.URL+"/api/me", nil)
		require.NoError(t, err)
		answer, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
	}
	request, err := http.NewRequestWithContext(f.ctx, http.MethodGet, f.URL+"/metrics", nil)
	require.NoError(t, err)
	answer, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	require.Equal(t, http.StatusForbidden, answer.StatusCode, "a request from the machine itself may be a proxy's")
	request.Header.Set("Authorization", "Bearer "+metricsToken)
	answer, err = http.DefaultClient.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	content, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	require.Less(t, len(content), 200_000)
	require.Contains(t, string(content), `method="other"`)
	require.NotContains(t, string(content), "M1X")
}

// A message is held to the form like a chat: nothing of a megabyte is stored and
// sent along with every event.
func TestAMessageIsHeldToTheForm(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	w, err := settings.On(f.Store).WidgetByKey(f.ctx, demo.WidgetKey)
	require.NoError(t, err)
	w.Form = form.Form{{Name: "name", Kind: form.Text, Label: "Name"}, {Name: "email", Kind: form.Email, Label: "Email"}, {Name: "topic", Kind: form.Text, Label: "Topic", Required: true}}
	_, err = settings.On(f.Store).ChangeWidget(f.ctx, w)
	require.NoError(t, err)
	f.Settings.Forget()
	leave := func(o talk.Opening) error {
		o.ClientID, o.Text = uuid.NewString(), "Is there room?"
		return f.visitor(newInbox()).Call(f.ctx, "message", o, nil)
	}
	require.Contains(t, fieldsOf(t, leave(talk.Opening{Email: "wren@example.com", Answers: form.Answers{"topic": strings.Repeat("x", 200_000)}}))["topic"], "too long")
	require.Contains(t, fieldsOf(t, leave(talk.Opening{Email: strings.Repeat("x", 200_000) + "@example.com"}))["email"], "email")
	require.NoError(t, leave(talk.Opening{Email: "wren@example.com", Answers: form.Answers{"other": strings.Repeat("x", 100_000)}}), "what was not asked is dropped, and what is missing does not hold a message up")
}

// Calls count for the visitor, whatever they ask and over however many
// connections; who goes on all the same is cut off.
func TestCallsHaveOneLimit(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.MessagesPerSecond, c.MessageBurst = 1, 5 })
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	again, err := talker.Return(f.ctx, f.URL, demo.WidgetKey, wren.Token, nil)
	require.NoError(t, err)
	t.Cleanup(again.Close)
	said := 0
	for i := range 12 {
		v := wren
		if i%2 == 1 {
			v = again
		}
		if _, err := v.Say(f.ctx, chatID, uuid.NewString(), "hello"); err == nil {
			said++
		}
	}
	require.LessOrEqual(t, said, 6, "two connections are one visitor")
	requireProblem(t, wren.Call(f.ctx, "correct", talk.EventCall{ChatID: chatID, Number: 2, Text: "x"}, nil), "too-fast")

	refused := 0
	for range 300 {
		if err := wren.Call(f.ctx, "draft", talk.DraftCall{ChatID: chatID, Text: "x"}, nil); err != nil {
			refused++
		}
	}
	require.Greater(t, refused, 100, "drafts, receipts and all else have a limit too")
}

// One address cannot open connections without end.
func TestConnectionsOfOneAddressAreLimited(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	refused := 0
	for range 400 {
		request, err := http.NewRequestWithContext(f.ctx, http.MethodGet, f.URL+"/live/visitor", nil)
		require.NoError(t, err)
		for name, value := range map[string]string{"Connection": "Upgrade", "Upgrade": "websocket", "Sec-WebSocket-Version": "13", "Sec-WebSocket-Key": "dGhlIHNhbXBsZSBub25jZQ=="} {
			request.Header.Set(name, value)
		}
		answer, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		if answer.StatusCode == http.StatusTooManyRequests {
			refused++
		}
	}
	require.Greater(t, refused, 50)
}

// A colleague's chat is not told to whoever "leaves" it.
func TestLeavingAChatTellsNothingOfIt(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	chatID := f.ask(f.visitor(newInbox()), "My secret question")
	f.take(idris, chatID)
	var me view.OperatorView
	require.NoError(t, tove.Get(f.ctx, "/api/me", &me))
	requireProblem(t, tove.Delete(f.ctx, "/api/chats/"+chatID+"/colleagues/"+me.ID), "not-yours")
}

// With a new password all sessions end that began with the old one, live
// connections among them; the one that changed it goes on.
func TestANewPasswordEndsSessions(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	here, there := f.operator(0, newInbox()), f.operator(0, newInbox())
	change := func(current, fresh string) error {
		return here.Put(f.ctx, "/api/me/password", map[string]string{"current": current, "new": fresh})
	}
	require.Contains(t, fieldsOf(t, change("wrong", "another password"))["current"], "not your current password")
	require.Contains(t, fieldsOf(t, change(demo.Password, "short"))["new"], "at least")
	require.NoError(t, change(demo.Password, "another password"))
	var me view.OperatorView
	require.NoError(t, here.Get(f.ctx, "/api/me", &me))
	requireProblem(t, there.Get(f.ctx, "/api/me", &me), "login-first")
	require.Eventually(t, func() bool {
		_, err := there.Say(f.ctx, uuid.NewString(), uuid.NewString(), "hello")
		return err != nil && !strings.Contains(err.Error(), "Not found")
	}, 20*time.Second, 50*time.Millisecond, "the live connection outlives its session")
	_, err := talker.NewOperator(f.ctx, f.URL, demo.Logins[0].Email, demo.Password, nil)
	require.Error(t, err)
	back, err := talker.NewOperator(f.ctx, f.URL, demo.Logins[0].Email, "another password", nil)
	require.NoError(t, err)
	back.Close()
}

// A live connection ends with its session, and with the operator's right to log
// in.
func TestALiveConnectionEndsWithItsSession(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	require.NoError(t, f.Store.DB.Exec("delete from sessions").Error) // as when another server logs them out
	require.Eventually(t, func() bool {
		err := idris.Call(f.ctx, "typing", talk.DraftCall{ChatID: uuid.NewString()}, nil)
		return err != nil && !strings.Contains(err.Error(), "Not found")
	}, 40*time.Second, 200*time.Millisecond)
}

// A wrong password costs time after some tries, from this address only.
func TestWrongPasswordsCostTime(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	try := func(password string) error {
		_, err := talker.NewOperator(f.ctx, f.URL, demo.Logins[0].Email, password, nil)
		return err
	}
	for range 5 {
		requireProblem(t, try("wrong"), "bad-login")
	}
	requireProblem(t, try(demo.Password), "too-many-logins")
	_, err := f.Account.Login(f.ctx, demo.Logins[0].Email, demo.Password, "", "192.0.2.9")
	require.NoError(t, err, "somebody elsewhere is not locked out by it")
	_, err = f.Account.Login(f.ctx, "idris\x00@example.com", "x", "", "192.0.2.9")
	require.ErrorIs(t, err, account.ErrBadLogin)
}

// A body that does not come is not waited for without end, and a hundred of them
// hold nobody up.
func TestSlowBodiesAreNotWaitedFor(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	var wait sync.WaitGroup
	for range 100 {
		c, err := net.Dial("tcp", strings.TrimPrefix(f.URL, "http://"))
		require.NoError(t, err)
		t.Cleanup(func() { c.Close() })
		_, err = fmt.Fprintf(c, "POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{")
		require.NoError(t, err)
	}
	wait.Wait()
	f.ask(f.visitor(newInbox()), "Is there room?")
}

// A visitor cannot fill the disk: what they send has a quota.
func TestFilesHaveAQuota(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	content := bytes.Repeat([]byte("words "), 4<<20)[:24<<20]
	sent := 0
	var refusal error
	for refusal == nil && sent < 40 {
		refusal = wren.Upload(f.ctx, "/widget/"+demo.WidgetKey+"/chats/"+chatID+"/files?name=a.txt&clientId="+uuid.NewString(), content, wren.Token, nil)
		sent++
	}
	requireProblem(t, refusal, "too-many-files")
	require.Less(t, sent, 15)
}

// Who is shut out is so on every way, also on the connection that stands.
func TestABanHoldsOnTheSocket(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren, maren := f.visitor(newInbox()), f.operator(3, newInbox())
	chatID := f.ask(wren, "Is there room?")
	require.NoError(t, maren.Post(f.ctx, "/api/bans", people.BanOrder{ChatID: chatID, Reason: "rude"}, nil))
	require.Eventually(t, func() bool {
		_, err := wren.Resume(f.ctx, chatID, 0)
		return err != nil
	}, 20*time.Second, 20*time.Millisecond)
	_, err := talker.Return(f.ctx, f.URL, demo.WidgetKey, wren.Token, nil)
	require.Error(t, err)
}

// A ban holds on every server, and so does its end.
func TestABanHoldsOnAnotherServer(t *testing.T) {
	t.Parallel()
	a, b := two(t, func(d *setup.DepartmentSettings) { d.HandOut = "pick" }, "Idris")
	a.comes("Idris")
	a.opens()
	wren, chatID := a.asks(nil)
	maren := a.operator(3, newInbox())
	entersB := func() error {
		_, err := talker.Admit(b.ctx, b.URL, demo.WidgetKey, wren.Token)
		return err
	}
	require.NoError(t, entersB(), "b knows the bans now: none")
	require.NoError(t, maren.Post(a.ctx, "/api/bans", people.BanOrder{ChatID: chatID, Reason: "rude"}, nil))
	require.Eventually(t, func() bool { return entersB() != nil }, 20*time.Second, 20*time.Millisecond)
	requireProblem(t, entersB(), "banned")
	var bans []people.BanView
	require.NoError(t, maren.Get(a.ctx, "/api/bans", &bans))
	require.NoError(t, maren.Delete(a.ctx, "/api/bans/"+bans[0].ID))
	require.Eventually(t, func() bool { return entersB() == nil }, 20*time.Second, 20*time.Millisecond)
}

// Where a visitor is on the site is told to those who may see their chat.
func TestPagesAreToldToWhoMaySeeTheChat(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idrisHears, toveHears, marenHears := newInbox(), newInbox(), newInbox()
	idris := f.operator(0, idrisHears)
	f.operator(1, toveHears)
	f.operator(3, marenHears)
	page := talker.NewPage(f.URL, demo.WidgetKey, siteOrigin, siteOrigin+"/help", "Help")
	_, err := page.Pulse(f.ctx)
	require.NoError(t, err)
	wren, err := talker.Return(f.ctx, f.URL, demo.WidgetKey, page.Now.Token, newInbox().on)
	require.NoError(t, err)
	t.Cleanup(wren.Close)
	chatID := f.ask(wren, "Is there room?")
	f.take(idris, chatID)
	require.Eventually(t, func() bool { // who is in a chat is looked at each second
		g, here := f.Site.Guests.Guest(visitorOf(t, page.Now.Token))
		return here && g.Chat != nil
	}, 20*time.Second, 20*time.Millisecond)
	require.NoError(t, page.Go(f.ctx, siteOrigin+"/my-booking/KF-20417?email=wren@example.com", "My booking"))
	secret := func(m string) bool { return strings.Contains(m, "KF-20417") }
	for _, m := range idrisHears.until(t, secret) {
		require.NotContains(t, m, "wren@example.com", "what stands behind the path of an address is nobody's business")
	}
	marenHears.until(t, secret)
	_, err = idris.Say(f.ctx, chatID, uuid.NewString(), "Hello")
	require.NoError(t, err)
	f.ask(f.visitor(newInbox()), "the last one")
	for _, m := range toveHears.until(t, func(m string) bool { return strings.Contains(m, "the last one") }) {
		require.False(t, secret(m), "Tove may not see this chat")
	}
}

// What is found when looking for what is not there.
func TestSmallThings(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.Secure = true })
	get := func(path string) *http.Response {
		answer, err := http.Get(f.URL + path)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		return answer
	}
	for _, folder := range []string{"/assets/", "/panel-assets/"} {
		require.Equal(t, http.StatusNotFound, get(folder).StatusCode, "no list of files")
	}
	require.NotEmpty(t, get("/").Header.Get("Strict-Transport-Security"))
	require.Equal(t, "no-store", get("/api/me").Header.Get("Cache-Control"))
	body := strings.NewReader(`{"email":"` + demo.Logins[0].Email + `","password":"` + demo.Password + `"}`)
	answer, err := http.Post(f.URL+"/api/session", "application/json", body)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	require.Len(t, answer.Cookies(), 1)
	cookie := answer.Cookies()[0]
	require.True(t, strings.HasPrefix(cookie.Name, "__Host-") && cookie.Secure && cookie.HttpOnly && cookie.Path == "/")
	var stored int64
	require.NoError(t, f.Store.DB.Table("sessions").Where("token = ?", cookie.Value).Count(&stored).Error)
	require.Zero(t, stored, "who reads the database can use no session")
}

// A canned response names no file of somebody's chat.
func TestACannedResponseHoldsNoFilesOfChats(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren, idris, tove := f.visitor(newInbox()), f.operator(0, newInbox()), f.operator(1, newInbox())
	chatID := f.ask(wren, "Is there room?")
	f.take(idris, chatID)
	var said talk.Said
	require.NoError(t, wren.Upload(f.ctx, "/widget/"+demo.WidgetKey+"/chats/"+chatID+"/files?name=passport.txt&clientId="+uuid.NewString(), []byte("my passport"), wren.Token, &said))
	err := tove.Put(f.ctx, "/api/canned", library.CannedView{Scope: "own", Shortcut: "mine", Text: "words", Files: []view.FileView{*said.Event.File}})
	requireProblem(t, err, "not-found")
}

// Two admins who edit the same person do not overwrite each other unseen; and
// who mends an article does not become its author.
func TestTwoAdminsEditAPerson(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	admin := f.operator(4, newInbox())
	people := func() setup.PersonSettings {
		var list []setup.PersonSettings
		require.NoError(t, admin.Get(f.ctx, "/api/setup/people", &list))
		return list[0]
	}
	mine, theirs := people(), people()
	theirs.Capacity = 7
	require.NoError(t, admin.Put(f.ctx, "/api/setup/people", theirs))
	mine.Languages = []string{"da"}
	requireProblem(t, admin.Put(f.ctx, "/api/setup/people", mine), "changed")
	require.Equal(t, 7, people().Capacity)
	mine = people()
	mine.Languages = []string{"da"}
	require.NoError(t, admin.Put(f.ctx, "/api/setup/people", mine))

	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	var article, mended library.ArticleView
	require.NoError(t, idris.PutInto(f.ctx, "/api/articles", library.ArticleView{Title: "Ramps", Body: "At low tide.", Audience: "team"}, &article))
	mended = article
	mended.Body = "At low tide only."
	require.NoError(t, tove.PutInto(f.ctx, "/api/articles", mended, &mended))
	require.Equal(t, article.Author, mended.Author)
}

// A sale and an outcome are put down apart: neither erases the other, however
// old what the sender knew.
func TestASaleAndAnOutcomeDoNotEraseEachOther(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	chatID := f.ask(f.visitor(newInbox()), "Is there room?")
	f.take(idris, chatID)
	sold, path := "Sold", "/api/chats/"+chatID+"/outcome"
	require.NoError(t, idris.Put(f.ctx, path, talk.Conclusion{Sale: &view.SaleView{Cents: 41280, Currency: "EUR"}}))
	require.NoError(t, idris.Put(f.ctx, path, talk.Conclusion{Outcome: &sold}))
	c, err := chatlog.On(f.Store).Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Equal(t, "Sold", c.Outcome)
	require.EqualValues(t, 41280, *c.SaleCents)
	require.NoError(t, idris.Put(f.ctx, path, talk.Conclusion{NoSale: true}))
	c, err = chatlog.On(f.Store).Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Equal(t, "Sold", c.Outcome)
	require.Nil(t, c.SaleCents)
}
