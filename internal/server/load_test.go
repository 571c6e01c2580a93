package server_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

// With a pool of two connections everything still goes on: nothing holds one
// while it waits for another. Forty visitors who close at once hold nobody up.
func TestAPoolOfTwo(t *testing.T) {
	t.Parallel()
	f := newFloor(t, func(c *server.Config) { c.DatabaseConnections = 2 }, func(d *setup.DepartmentSettings) { d.HandOut, d.Capacity = "offer", 50 }, "Idris", "Tove")
	f.comes("Idris")
	f.comes("Tove")
	idris, tove := f.people["Idris"], f.people["Tove"]
	_, chatID := f.asks(nil)
	offered := f.until(chatID, "offered", func(s chat.State) bool { return s.Offered != nil })
	taker, other := idris, tove
	if offered.Offered.To == f.ids["Tove"] {
		taker, other = tove, idris
	}
	f.take(taker, chatID)
	_, err := taker.Say(f.ctx, chatID, uuid.NewString(), "Yes, there is")
	require.NoError(t, err)
	otherID := f.ids["Tove"]
	if other == idris {
		otherID = f.ids["Idris"]
	}
	require.NoError(t, taker.Post(f.ctx, "/api/chats/"+chatID+"/hand-on", map[string]string{"operatorId": otherID}, nil))
	f.take(other, chatID)
	require.NoError(t, other.Post(f.ctx, "/api/chats/"+chatID+"/put-back", map[string]string{}, nil))
	offered = f.until(chatID, "back in the queue, and offered", func(s chat.State) bool { return s.Offered != nil })

	var visitors []*talker.Visitor
	var wait sync.WaitGroup
	for range 40 {
		v := f.visitor(newInbox())
		visitors = append(visitors, v)
		wait.Go(func() {
			if _, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?"}); err != nil {
				t.Error(err)
			}
		})
	}
	wait.Wait()
	for _, v := range visitors {
		wait.Go(v.Close)
	}
	wait.Wait()
	soon, cancel := context.WithTimeout(f.ctx, 10*time.Second)
	defer cancel()
	late := f.visitor(newInbox())
	_, err = late.Open(soon, talk.Opening{ClientID: uuid.NewString(), Text: "Anybody?"})
	require.NoError(t, err)
	require.NoError(t, f.Store.Ping(soon))
	asked := idris
	if offered.Offered.To == f.ids["Tove"] {
		asked = tove
	}
	require.NoError(t, asked.Post(soon, "/api/chats/"+chatID+"/pass", nil, nil), "everything else goes on, too")
}

// A server that stops does so within seconds, whoever is connected, and says
// nothing went wrong.
func TestStoppingTakesSeconds(t *testing.T) {
	t.Parallel()
	var log strings.Builder
	var mu sync.Mutex
	ctx := context.Background()
	s, err := server.Start(ctx, server.Config{
		DatabaseURL: testpg.New(t), DatabaseConnections: 8, Address: "127.0.0.1:0", TimeZone: "UTC", FilesFolder: t.TempDir(),
		LoginsPerMinute: 1000, VisitorRequestsPerMinute: 1000, MessagesPerSecond: 1000, MessageBurst: 1000,
	}, slog.New(slog.NewTextHandler(locked{&mu, &log}, &slog.HandlerOptions{Level: slog.LevelWarn})), false)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Stop()) })
	require.NoError(t, demo.Seed(ctx, s.Store, []string{siteOrigin}, time.Now()))
	s.Settings.Forget()
	o, err := talker.NewOperator(ctx, s.URL, demo.Logins[4].Email, demo.Password, nil)
	require.NoError(t, err)
	t.Cleanup(o.Close)
	require.NoError(t, o.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
	for range 80 {
		v, err := talker.NewVisitor(ctx, s.URL, demo.WidgetKey, nil)
		require.NoError(t, err)
		t.Cleanup(v.Close)
	}
	begun := time.Now()
	require.NoError(t, s.Stop())
	took := time.Since(begun)
	require.Less(t, took, 20*time.Second, "it hung; usually this takes a fraction of a second")
	mu.Lock()
	defer mu.Unlock()
	require.NotContains(t, log.String(), "closed")
	t.Logf("counted: stopping with 80 visitors and an operator connected took %d ms", took.Milliseconds())
}

// locked lets several write to one place.
type locked struct {
	mu *sync.Mutex
	to io.Writer
}

func (l locked) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.to.Write(p)
}

// two starts two servers on one database.
func two(t *testing.T, change func(*setup.DepartmentSettings), members ...string) (*ferries, fixture) {
	t.Helper()
	url := testpg.New(t)
	f := newFloor(t, func(c *server.Config) { c.DatabaseURL = url }, change, members...)
	config := server.Config{
		DatabaseURL: url, DatabaseConnections: 8, Address: "127.0.0.1:0", TimeZone: "UTC",
		FilesFolder: t.TempDir(), LoginsPerMinute: 1000, VisitorRequestsPerMinute: 1000, MessagesPerSecond: 1000, MessageBurst: 1000,
	}
	s, err := server.Start(f.ctx, config, slog.New(slog.DiscardHandler), false)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Stop()) })
	return f, fixture{s, t, f.ctx}
}

// Nobody is refused because of what another server has changed meanwhile.
func TestRefusalsAreDecidedOnWhatIsSo(t *testing.T) {
	t.Parallel()
	a, b := two(t, func(d *setup.DepartmentSettings) { d.HandOut = "pick" }, "Idris")
	a.comes("Idris")
	onA := a.people["Idris"]
	onB := b.operator(0, newInbox())
	for range 10 {
		_, chatID := a.asks(nil)
		b.take(onB, chatID)
		_, err := onA.Say(a.ctx, chatID, uuid.NewString(), "Yes")
		require.NoError(t, err)
		require.NoError(t, onA.Post(a.ctx, "/api/chats/"+chatID+"/end", nil, nil))
		_, err = onB.Say(a.ctx, chatID, uuid.NewString(), "Too late")
		requireProblem(t, err, "chat-ended")
	}
}

// What is said on one server is heard on the other within seconds, and so is a
// chat that is given to somebody there.
func TestTwoServersHearEachOther(t *testing.T) {
	t.Parallel()
	a, b := two(t, func(d *setup.DepartmentSettings) { d.Capacity = 20 }, "Idris")
	hears := newInbox()
	idris := b.operator(0, hears)
	b.available(idris, true)
	a.opens()
	visitorHears := newInbox()
	for i := range 5 {
		wren, chatID := a.asks(visitorHears)
		hears.until(t, func(m string) bool { return strings.Contains(m, chatID) && strings.Contains(m, `"kind":"taken"`) })
		words := fmt.Sprintf("word %d", i)
		_, err := wren.Say(a.ctx, chatID, uuid.NewString(), words)
		require.NoError(t, err)
		hears.until(t, func(m string) bool { return strings.Contains(m, words) })
		answer := fmt.Sprintf("answer %d", i)
		_, err = idris.Say(a.ctx, chatID, uuid.NewString(), answer)
		require.NoError(t, err)
		visitorHears.until(t, func(m string) bool { return strings.Contains(m, answer) })
	}
	// A server may die between a commit and its notice: looking finds it.
	_, chatID := a.asks(visitorHears)
	hears.until(t, func(m string) bool { return strings.Contains(m, chatID) && strings.Contains(m, `"kind":"taken"`) })
	c, err := chatlog.On(a.Store).Chat(a.ctx, chatID)
	require.NoError(t, err)
	mute := chatlog.New(a.Store, func(chatlog.Result) func() { return func() {} })
	by := chat.Visitor(c.VisitorID)
	_, err = mute.Append(a.ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.Say(by, "", "told to nobody", 100, time.Now())
		return []chat.Event{e}, err
	}})
	require.NoError(t, err)
	hears.until(t, func(m string) bool { return strings.Contains(m, "told to nobody") })
}
