package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/problem"
	"stoop/internal/server"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/testpg"
	"stoop/internal/transcripts"
	"stoop/internal/view"
)

// siteOrigin is where the demo's widget may stand.
const siteOrigin = "http://kelpwick.example"

type fixture struct {
	*server.Server
	t   *testing.T
	ctx context.Context
}

func start(t *testing.T, change func(*server.Config)) fixture {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	t.Cleanup(cancel)
	config := server.Config{
		DatabaseURL: seeded(t), DatabaseConnections: 8, Address: "127.0.0.1:0", TimeZone: "UTC",
		FilesFolder: t.TempDir(), LoginsPerMinute: 1000, VisitorRequestsPerMinute: 1000, MessagesPerSecond: 1000, MessageBurst: 1000,
	}
	if change != nil {
		change(&config)
	}
	s, err := server.Start(ctx, config, fixture{}.log(), false)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Stop()) })
	require.NoError(t, demo.Seed(ctx, s.Store, []string{siteOrigin}, time.Now()))
	s.Settings.Forget()
	f := fixture{s, t, ctx}
	// Somebody is in, or visitors could only leave messages.
	f.available(f.operator(4, newInbox()), true)
	return f
}

// seeded returns the address of a database with the demo's team and history.
func seeded(t *testing.T) string {
	return testpg.Seeded(t, "demo", func(ctx context.Context, s *store.Store) error {
		return demo.Seed(ctx, s, []string{siteOrigin}, time.Now())
	})
}

// log is silent, unless somebody wants to read it.
func (fixture) log() *slog.Logger {
	var out io.Writer = io.Discard
	if os.Getenv("STOOP_TEST_LOG") != "" {
		out = os.Stderr
	}
	return slog.New(slog.NewTextHandler(out, nil))
}

// available lets an operator say whether they want chats.
func (f fixture) available(o *talker.Operator, yes bool) {
	f.t.Helper()
	require.NoError(f.t, o.Put(f.ctx, "/api/me/availability", map[string]bool{"available": yes}))
	if yes {
		var me view.OperatorView
		require.NoError(f.t, o.Get(f.ctx, "/api/me", &me))
		require.Eventually(f.t, func() bool {
			stands, err := f.Floor.Standing(f.ctx, me.ID)
			return err == nil && stands.Here
		}, 20*time.Second, 10*time.Millisecond, "the operator's connection was not noted")
	}
}

// inbox keeps what a connection was sent.
type inbox chan []byte

func newInbox() inbox { return make(inbox, 1000) }

func (i inbox) on(message []byte) { i <- message }

// until returns all messages up to the first that fits.
func (i inbox) until(t *testing.T, fits func(string) bool) []string {
	t.Helper()
	var all []string
	for {
		select {
		case m := <-i:
			all = append(all, string(m))
			if fits(string(m)) {
				return all
			}
		case <-time.After(20 * time.Second):
			t.Fatalf("the message did not come; these did: %v", all)
		}
	}
}

func (f fixture) visitor(on inbox) *talker.Visitor {
	f.t.Helper()
	v, err := talker.NewVisitor(f.ctx, f.URL, demo.WidgetKey, on.on)
	require.NoError(f.t, err)
	f.t.Cleanup(v.Close)
	return v
}

func (f fixture) operator(n int, on inbox) *talker.Operator {
	f.t.Helper()
	o, err := talker.NewOperator(f.ctx, f.URL, demo.Logins[n].Email, demo.Password, on.on)
	require.NoError(f.t, err)
	f.t.Cleanup(o.Close)
	return o
}

func (f fixture) ask(v *talker.Visitor, text string) string {
	f.t.Helper()
	opened, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: text, Name: "Wren"})
	require.NoError(f.t, err)
	return opened.Chat.ID
}

func (f fixture) take(o *talker.Operator, chatID string) {
	f.t.Helper()
	require.NoError(f.t, o.Post(f.ctx, "/api/chats/"+chatID+"/take", nil, nil))
}

func requireProblem(t *testing.T, err error, code string) *problem.Problem {
	t.Helper()
	p := requireAnyProblem(t, err)
	require.Equal(t, code, p.Code)
	return p
}

func requireAnyProblem(t *testing.T, err error) *problem.Problem {
	t.Helper()
	var p *problem.Problem
	require.ErrorAs(t, err, &p)
	require.NotEmpty(t, p.Title)
	require.NotEmpty(t, p.Detail, "a problem must say what to do")
	return p
}

func TestWhatAVisitorMayNot(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren, oskar := f.visitor(newInbox()), f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	f.ask(oskar, "Another question")

	_, err := oskar.Say(f.ctx, chatID, uuid.NewString(), "let me in")
	requireProblem(t, err, "not-yours")
	requireProblem(t, oskar.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil), "not-yours")
	requireProblem(t, oskar.Call(f.ctx, "seen", talk.ReceiveCall{ChatID: chatID, UpTo: 1}, nil), "not-yours")
	requireProblem(t, oskar.Call(f.ctx, "draft", talk.DraftCall{ChatID: chatID, Text: "x"}, nil), "not-yours")

	var resumed talk.Resumed
	require.NoError(t, oskar.Call(f.ctx, "resume", talk.ResumeCall{ChatID: chatID}, &resumed))
	require.NotEqual(t, chatID, resumed.Chat.ID, "naming another visitor's chat must not open it")

	for _, id := range []string{"", "no-uuid", "'; drop table chats", uuid.NewString()} {
		_, err = wren.Say(f.ctx, id, uuid.NewString(), "hello")
		requireProblem(t, err, "not-found")
	}
	for _, id := range []string{"", "\x00", strings.Repeat("x", 65), "a b"} {
		_, err = wren.Say(f.ctx, chatID, id, "hello")
		requireProblem(t, err, "bad-client-id")
	}
	requireProblem(t, wren.Call(f.ctx, "take", talk.ChatCall{ChatID: chatID}, nil), "unknown-method")
	requireProblem(t, wren.Call(f.ctx, "say", "not an object", nil), "bad-request")
}

func TestWords(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	say := func(text string) (talk.Said, error) { return wren.Say(f.ctx, chatID, uuid.NewString(), text) }

	_, err := say(" \n\t ")
	requireProblem(t, err, "message-empty")
	_, err = say(strings.Repeat("x", 100_000))
	p := requireProblem(t, err, "message-too-long")
	require.Equal(t, 2000, p.Limit)
	require.Equal(t, 100_000, p.Length)
	said, err := say("control \x00\x1b and \r\n lines")
	require.NoError(t, err)
	require.Equal(t, "control  and \n lines", said.Event.Text)
	for _, text := range []string{"שלום, יש מקום?", "👩‍👩‍👧‍👦🏳️‍🌈", "<img src=x onerror=alert(1)>", strings.Repeat("é", 2000)} {
		said, err = say(text)
		require.NoError(t, err)
		require.Equal(t, text, said.Event.Text)
	}

	require.NoError(t, wren.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil))
	_, err = say("too late")
	requireProblem(t, err, "chat-ended")
}

func TestWhatAnOperatorMayNot(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	idris, tove, maren := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(3, newInbox())
	chatID := f.ask(wren, "Is there room?")

	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "Hello")
	requireProblem(t, err, "not-taken")
	f.take(idris, chatID)
	f.take(idris, chatID) // pressing twice is no trouble
	err = tove.Post(f.ctx, "/api/chats/"+chatID+"/take", nil, nil)
	require.NotEmpty(t, requireProblem(t, err, "chat-taken").OwnerID)
	_, err = tove.Say(f.ctx, chatID, uuid.NewString(), "Hello")
	requireProblem(t, err, "not-yours")
	requireProblem(t, tove.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil), "not-yours")
	requireProblem(t, tove.Get(f.ctx, "/api/chats/"+chatID, nil), "not-yours")
	requireProblem(t, tove.Call(f.ctx, "typing", talk.DraftCall{ChatID: chatID, Typing: true}, nil), "not-yours")
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, nil), "a lead reads all chats")

	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
	var found transcripts.TranscriptPage
	require.NoError(t, tove.Get(f.ctx, "/api/transcripts?words=Wren", &found))
	for _, hit := range found.Hits {
		require.Equal(t, demo.Logins[1].Name, hit.Chat.OwnerName, "an operator finds their own transcripts only")
	}
	requireProblem(t, tove.Get(f.ctx, "/api/chats/"+chatID, nil), "not-yours")
}

// Drafts reach the owner alone; a taken chat's words reach its owner and
// leads; a visitor gets nothing but their own chat, without operators' ids.
func TestWhoHearsWhat(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	toIdris, toTove, toMaren, toWren, toOskar := newInbox(), newInbox(), newInbox(), newInbox(), newInbox()
	idris, tove, maren := f.operator(0, toIdris), f.operator(1, toTove), f.operator(3, toMaren)
	wren, oskar := f.visitor(toWren), f.visitor(toOskar)
	chatID := f.ask(wren, "Is there room?")
	f.take(idris, chatID)
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "There is")
	require.NoError(t, err)
	require.NoError(t, wren.Call(f.ctx, "draft", talk.DraftCall{ChatID: chatID, Text: "half a thought"}, nil))
	_, err = wren.Say(f.ctx, chatID, uuid.NewString(), "a secret for Idris")
	require.NoError(t, err)

	has := func(part string) func(string) bool { return func(m string) bool { return strings.Contains(m, part) } }
	toIdris.until(t, has("half a thought"))
	toIdris.until(t, has("a secret for Idris"))
	for _, m := range toMaren.until(t, has("a secret for Idris")) {
		require.NotContains(t, m, "half a thought")
	}
	// A second chat marks the end of what the others got before it.
	last := f.ask(oskar, "the last message")
	for _, m := range toTove.until(t, has(last)) {
		require.NotContains(t, m, "a secret for Idris")
		require.NotContains(t, m, "half a thought")
	}
	_, err = idris.Say(f.ctx, chatID, uuid.NewString(), "good crossing")
	require.NoError(t, err)
	var me view.OperatorView
	require.NoError(t, idris.Get(f.ctx, "/api/me", &me))
	for _, m := range toWren.until(t, has("good crossing")) {
		require.NotContains(t, m, me.ID)
		require.NotContains(t, m, "half a thought")
		require.NotContains(t, m, `"type":"place"`)
	}
	require.NoError(t, oskar.Call(f.ctx, "end", talk.ChatCall{ChatID: last}, nil))
	for _, m := range toOskar.until(t, has(`"phase":"ended"`)) {
		require.NotContains(t, m, "a secret for Idris")
	}
	_, _ = tove, maren
}

func TestSendingAgainChangesNothing(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	opening := talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?"}
	first, err := wren.Open(f.ctx, opening)
	require.NoError(t, err)
	again, err := wren.Open(f.ctx, opening)
	require.NoError(t, err)
	require.Equal(t, first.Chat.ID, again.Chat.ID)
	require.Len(t, again.Events, 3)

	id := uuid.NewString()
	one, err := wren.Say(f.ctx, first.Chat.ID, id, "hello")
	require.NoError(t, err)
	two, err := wren.Say(f.ctx, first.Chat.ID, id, "hello")
	require.NoError(t, err)
	require.Equal(t, one.Event, two.Event)
}

// post sends a request as a browser on some page would.
func (f fixture) post(path, body string, headers ...string) (*http.Response, problem.Problem) {
	f.t.Helper()
	r, err := http.NewRequestWithContext(f.ctx, http.MethodPost, f.URL+path, strings.NewReader(body))
	require.NoError(f.t, err)
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	answer, err := http.DefaultClient.Do(r)
	require.NoError(f.t, err)
	defer answer.Body.Close()
	content, err := io.ReadAll(answer.Body)
	require.NoError(f.t, err)
	var p problem.Problem
	if answer.StatusCode >= 400 {
		require.Equal(f.t, "application/problem+json", answer.Header.Get("Content-Type"), string(content))
		require.NoError(f.t, json.NewDecoder(bytes.NewReader(content)).Decode(&p), string(content))
		require.NotContains(f.t, string(content), "SQLSTATE", "an error leaks internals")
	}
	return answer, p
}

func TestAWidgetKeyWorksOnItsOwnSiteOnly(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	page := `{"tab":"` + uuid.NewString() + `","url":"http://kelpwick.example/fares","title":"Fares"}`
	answer, _ := f.post("/widget/"+demo.WidgetKey+"/pulse", page, "Origin", siteOrigin)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Equal(t, siteOrigin, answer.Header.Get("Access-Control-Allow-Origin"))
	_, p := f.post("/widget/"+demo.WidgetKey+"/pulse", page, "Origin", "http://elsewhere.example")
	require.Equal(t, "wrong-site", p.Code)
	_, p = f.post("/widget/"+demo.WidgetKey+"/pulse", page)
	require.Equal(t, "wrong-site", p.Code)
	_, p = f.post("/widget/no-such-key/pulse", page, "Origin", siteOrigin)
	require.Equal(t, "unknown-widget", p.Code)
	_, p = f.post("/widget/no-such-key/admit", `{}`)
	require.Equal(t, "unknown-widget", p.Code)
	for _, bad := range []string{`{`, `[]`, `{"tab":"x"}`, `{"tab":"` + uuid.NewString() + `","title":"` + strings.Repeat("x", 20_000) + `"}`} {
		_, p = f.post("/widget/"+demo.WidgetKey+"/pulse", bad, "Origin", siteOrigin)
		require.Equal(t, "bad-request", p.Code)
	}
	panel, err := http.Get(f.URL + "/panel/" + demo.WidgetKey)
	require.NoError(t, err)
	defer panel.Body.Close()
	require.Contains(t, panel.Header.Get("Content-Security-Policy"), "frame-ancestors 'self' "+siteOrigin)
}

// A token that was forged or belongs to another widget lets nobody in.
func TestTokens(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	back, err := talker.Admit(f.ctx, f.URL, demo.WidgetKey, wren.Token)
	require.NoError(t, err)
	require.Equal(t, chatID, back.Chat.ID, "the visitor finds their chat again")
	head, signature, _ := strings.Cut(wren.Token[strings.Index(wren.Token, ".")+1:], ".")
	for _, token := range []string{"", "x", "a.b.c", wren.Token + "x", "eyJhbGciOiJub25lIn0." + head + ".", strings.Replace(wren.Token, signature, "AAAA", 1)} {
		stranger, err := talker.Admit(f.ctx, f.URL, demo.WidgetKey, token)
		require.NoError(t, err)
		require.Nil(t, stranger.Chat, "token %q opened a chat", token)
	}
}

func TestLogin(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.LoginsPerMinute = 4 })
	try := func(email, password string, headers ...string) (*http.Response, problem.Problem) {
		return f.post("/api/session", `{"email":"`+email+`","password":"`+password+`"}`, headers...)
	}
	_, wrong := try("maren@example.com", "not it")
	_, missing := try("nobody@example.com", "not it")
	require.Equal(t, "bad-login", wrong.Code)
	require.Equal(t, wrong, missing, "the answer must not tell which addresses exist")
	answer, _ := try("MAREN@example.com", demo.Password)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	cookie := answer.Cookies()[0]
	require.True(t, cookie.HttpOnly)
	require.Equal(t, http.SameSiteLaxMode, cookie.SameSite)
	answer, _ = try("maren@example.com", demo.Password, "Origin", "http://evil.example", "Sec-Fetch-Site", "cross-site")
	require.Equal(t, http.StatusForbidden, answer.StatusCode, "another site must not log anybody in")
	_, _ = try("maren@example.com", "guess")
	_, p := try("maren@example.com", demo.Password)
	require.Equal(t, "too-many-logins", p.Code)
}

func TestWithoutLoginNothingIsTold(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	for _, path := range []string{"/api/me", "/api/desk", "/api/figures", "/api/transcripts", "/api/chats/" + uuid.NewString()} {
		answer, err := http.Get(f.URL + path)
		require.NoError(t, err)
		answer.Body.Close()
		require.Equal(t, http.StatusUnauthorized, answer.StatusCode, path)
	}
	answer, err := http.Get(f.URL + "/live/team")
	require.NoError(t, err)
	answer.Body.Close()
	require.Equal(t, http.StatusUnauthorized, answer.StatusCode)
}

func TestLoggingOutEndsTheSessionEverywhere(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren := f.operator(3, newInbox())
	require.NoError(t, maren.Get(f.ctx, "/api/desk", nil))
	require.NoError(t, maren.Delete(f.ctx, "/api/session"))
	requireProblem(t, maren.Get(f.ctx, "/api/desk", nil), "login-first")
}

// That a session is used is stored once a minute, not with every request; one
// that nobody used for a week is over.
func TestASessionInUse(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren := f.operator(3, newInbox())
	require.NoError(t, maren.Get(f.ctx, "/api/desk", nil))
	var token string
	require.NoError(t, f.Store.DB.Raw("select token from operator_sessions order by began_at desc limit 1").Scan(&token).Error)
	version := func() (xmin string) {
		require.NoError(t, f.Store.DB.Raw("select xmin::text from sessions where token = ?", token).Scan(&xmin).Error)
		return xmin
	}
	lastUsed := func(ago time.Duration) {
		t.Helper()
		var data []byte
		require.NoError(t, f.Store.DB.Raw("select data from sessions where token = ?", token).Row().Scan(&data))
		deadline, values, err := scs.GobCodec{}.Decode(data)
		require.NoError(t, err)
		values["seen"] = time.Now().Add(-ago).Unix()
		data, err = scs.GobCodec{}.Encode(deadline, values)
		require.NoError(t, err)
		require.NoError(t, f.Store.DB.Exec("update sessions set data = ? where token = ?", data, token).Error)
	}
	before := version()
	for range 5 {
		require.NoError(t, maren.Get(f.ctx, "/api/desk", nil))
	}
	require.Equal(t, before, version(), "nothing is written")
	lastUsed(2 * time.Minute)
	before = version()
	require.NoError(t, maren.Get(f.ctx, "/api/desk", nil))
	after := version()
	require.NotEqual(t, before, after, "its use is noted")
	require.NoError(t, maren.Get(f.ctx, "/api/desk", nil))
	require.Equal(t, after, version())
	lastUsed(8 * 24 * time.Hour)
	requireProblem(t, maren.Get(f.ctx, "/api/desk", nil), "login-first")
	requireProblem(t, maren.Get(f.ctx, "/api/desk", nil), "login-first")
}

func TestHeadersHealthAndMetrics(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.MetricsToken = metricsToken })
	get := func(path string, headers ...string) (*http.Response, string) {
		r, err := http.NewRequestWithContext(f.ctx, http.MethodGet, f.URL+path, nil)
		require.NoError(t, err)
		for i := 0; i < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		content, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(content)
	}
	console, html := get("/desk")
	policy := console.Header.Get("Content-Security-Policy")
	require.Contains(t, policy, "frame-ancestors 'none'")
	require.NotContains(t, policy, "unsafe")
	require.NotContains(t, html, "__NONCE__")
	require.Equal(t, "nosniff", console.Header.Get("X-Content-Type-Options"))
	again, _ := get("/desk")
	require.NotEqual(t, policy, again.Header.Get("Content-Security-Policy"), "a nonce must be new each time")

	health, _ := get("/healthz")
	require.Equal(t, http.StatusOK, health.StatusCode)
	ready, _ := get("/readyz")
	require.Equal(t, http.StatusOK, ready.StatusCode)
	_, metrics := get("/metrics", "Authorization", "Bearer "+metricsToken)
	require.Contains(t, metrics, `stoop_http_request_seconds_count{method="GET",route="/healthz",status="200"} 1`)
	require.Contains(t, metrics, "centrifuge_node_num_clients")
	outside, _ := get("/metrics")
	require.Equal(t, http.StatusForbidden, outside.StatusCode)
	missing, _ := get("/api/no-such-thing")
	require.Equal(t, http.StatusNotFound, missing.StatusCode)
	document, openapi := get("/api/openapi.json")
	require.Equal(t, http.StatusOK, document.StatusCode)
	require.Contains(t, openapi, `"openapi":"3.1`)
}

func TestAVisitorWhoSendsTooFastIsAskedToWait(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.MessagesPerSecond, c.MessageBurst = 0.001, 3 })
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "one")
	for range 2 {
		_, err := wren.Say(f.ctx, chatID, uuid.NewString(), "more")
		require.NoError(t, err)
	}
	_, err := wren.Say(f.ctx, chatID, uuid.NewString(), "too much")
	require.True(t, requireProblem(t, err, "too-fast").Retry, "what was refused for its speed is sent again later")
}
