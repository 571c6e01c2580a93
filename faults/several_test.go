package faults

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"os/exec"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
	"golang.org/x/time/rate"

	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/devpg"
	"stoop/internal/ports"
	"stoop/internal/problem"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

const (
	dialogues = 100
	// pace is how many exchanges begin in a second, over all: enough that every fault
	// meets some on the way, and not what a small machine, busy with other tests, is
	// drowned by.
	pace = 200
)

// redis is a Redis of this test's own.
type redis struct {
	t       *testing.T
	address string
	command *exec.Cmd
}

func newRedis(t *testing.T) *redis {
	t.Helper()
	port, err := ports.Free()
	require.NoError(t, err)
	r := &redis{t: t, address: fmt.Sprintf("127.0.0.1:%d", port)}
	r.start()
	t.Cleanup(r.stop)
	return r
}

func (r *redis) start() {
	r.t.Helper()
	host, port, err := net.SplitHostPort(r.address)
	require.NoError(r.t, err)
	r.command = exec.Command("redis-server", "--bind", host, "--port", port, "--save", "", "--appendonly", "no", "--dir", r.t.TempDir())
	r.command.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	require.NoError(r.t, r.command.Start())
	require.Eventually(r.t, func() bool {
		c, err := net.Dial("tcp", r.address)
		if err == nil {
			err = c.Close()
		}
		return err == nil
	}, 20*time.Second, 20*time.Millisecond, "Redis did not start")
}

func (r *redis) stop() {
	if r.command.Process.Kill() == nil {
		_ = r.command.Wait() // it says that it was killed
	}
}

// balancer passes connections on to whichever server takes them, in turn.
type balancer struct {
	URL      string
	listener net.Listener
	mu       sync.Mutex
	targets  []string
	next     int
}

func newBalancer(t *testing.T, servers ...running) *balancer {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	b := &balancer{URL: "http://" + listener.Addr().String(), listener: listener}
	for _, s := range servers {
		at, err := url.Parse(s.URL)
		require.NoError(t, err)
		b.targets = append(b.targets, at.Host)
	}
	t.Cleanup(func() { _ = listener.Close() })
	go func() {
		for {
			c, err := listener.Accept()
			if err != nil {
				return
			}
			go b.pass(c)
		}
	}()
	return b
}

func (b *balancer) pass(from net.Conn) {
	defer from.Close()
	for range b.targets {
		b.mu.Lock()
		b.next++
		target := b.targets[b.next%len(b.targets)]
		b.mu.Unlock()
		to, err := net.DialTimeout("tcp", target, time.Second)
		if err != nil {
			continue
		}
		defer to.Close()
		done := make(chan struct{}, 2)
		for _, way := range [][2]net.Conn{{from, to}, {to, from}} {
			go func() {
				_, _ = io.Copy(way[0], way[1]) // either end may go at any time
				done <- struct{}{}
			}()
		}
		<-done
		return
	}
}

// ear is what one side of a chat has heard of the other, as a browser does: live,
// and when there is a gap, or it was away, by asking for what follows its last
// number.
type ear struct {
	mu    sync.Mutex
	last  int64
	texts map[string]bool
	news  chan struct{}
	ask   func(ctx context.Context, after int64) ([]view.EventView, error)
}

func newEar() *ear { return &ear{texts: map[string]bool{}, news: make(chan struct{}, 1)} }

// hears takes events in; a gap makes it ask.
func (e *ear) hears(ctx context.Context, events []view.EventView) {
	e.mu.Lock()
	gap := false
	for _, v := range events {
		switch {
		case v.Number <= e.last:
		case v.Number == e.last+1:
			e.last = v.Number
			e.texts[v.Text] = true
		default:
			gap = true
		}
	}
	e.mu.Unlock()
	select {
	case e.news <- struct{}{}:
	default:
	}
	if gap {
		go e.resume(ctx)
	}
}

func (e *ear) resume(ctx context.Context) {
	e.mu.Lock()
	after, ask := e.last, e.ask
	e.mu.Unlock()
	if ask == nil {
		return
	}
	var events []view.EventView
	err := talker.Persist(ctx, func(ctx context.Context) (err error) {
		events, err = ask(ctx, after)
		return err
	})
	if err == nil { // else it is over
		e.hears(ctx, events)
	}
}

func (e *ear) until(ctx context.Context, text string) bool {
	for {
		e.mu.Lock()
		heard := e.texts[text]
		e.mu.Unlock()
		if heard {
			return true
		}
		select {
		case <-ctx.Done():
			return false
		case <-e.news:
		}
	}
}

// rounds knows for each dialogue when the last exchange that is complete began, and
// when the next may begin.
type rounds struct {
	mu    sync.Mutex
	began []time.Time
	moved chan struct{}
	next  *rate.Limiter
}

func (r *rounds) done(i int, began time.Time) {
	r.mu.Lock()
	r.began[i] = began
	r.mu.Unlock()
	select {
	case r.moved <- struct{}{}:
	default:
	}
}

// allSince waits until every dialogue has had an exchange that began after a time.
func (r *rounds) allSince(ctx context.Context, since time.Time) bool {
	for {
		r.mu.Lock()
		all := true
		for _, began := range r.began {
			all = all && began.After(since)
		}
		r.mu.Unlock()
		if all {
			return true
		}
		select {
		case <-ctx.Done():
			return false
		case <-r.moved:
		}
	}
}

// Two servers behind a proxy, with one hub through Redis: a hundred visitors talk
// with five operators, each waiting for the other's answer, while one server is
// killed, Redis is away for ten seconds, PostgreSQL restarts, and both servers are
// restarted one after the other. Whoever is cut off connects again and asks, as
// browsers do; whoever is not must hear all by itself.
func TestSeveralServers(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Minute)
	defer cancel()
	cluster, database, data := seeded(ctx, t)
	hub := newRedis(t)
	servers := make([]running, 2)
	for i := range servers {
		servers[i] = newServer(ctx, t, database, "STOOP_REDIS_URL=redis://"+hub.address, "STOOP_MESSAGES_PER_SECOND=100000", "STOOP_MESSAGE_BURST=100000",
			"STOOP_VISITOR_REQUESTS_PER_MINUTE=1000000", "STOOP_LOGINS_PER_MINUTE=1000")
		t.Cleanup(servers[i].kill)
	}
	proxy := newBalancer(t, servers...)

	told := &record{more: make(chan struct{}, 1)}
	turns := &rounds{began: make([]time.Time, dialogues), moved: make(chan struct{}, 1), next: rate.NewLimiter(pace, 1)}
	talking, stop := context.WithCancel(ctx)
	defer stop()
	var dialogue sync.WaitGroup
	operators := hire(ctx, t, proxy.URL)
	for i := range dialogues {
		dialogue.Go(func() { converse(ctx, talking, t, proxy.URL, i, operators[i%len(operators)], told, turns) })
	}
	require.True(t, turns.allSince(ctx, time.Time{}.Add(1)), "not everybody began to talk")

	counted := func(what string, over func()) {
		t.Helper()
		over()
		at := time.Now()
		require.True(t, turns.allSince(ctx, at), "not everybody talks again after "+what)
		t.Logf("counted: after %s all %d dialogues go on after %d ms", what, dialogues, time.Since(at).Milliseconds())
	}
	counted("a server was killed", func() { servers[0].kill() })
	counted("it is back", func() { servers[0].start(ctx) })
	counted("Redis was away for ten seconds", func() {
		hub.stop()
		away := time.NewTimer(10 * time.Second)
		select {
		case <-away.C:
		case <-ctx.Done():
		}
		hub.start()
	})
	counted("PostgreSQL restarted", func() { require.NoError(t, cluster.Restart(ctx, devpg.Options{})) })
	for i, s := range servers {
		counted(fmt.Sprintf("server %d was restarted in good order", i+1), func() {
			require.NoError(t, s.Stop())
			s.start(ctx)
		})
	}
	stop()
	dialogue.Wait()
	judge(t, data, told, "a server killed, Redis away for ten seconds, PostgreSQL and both servers restarted")
}

// colleague is an operator with the chats that they answer.
type colleague struct {
	*talker.Operator
	mu   sync.Mutex
	ears map[string]*ear
}

func (c *colleague) ear(chatID string) *ear {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.ears[chatID]
}

// hire lets the team log in.
func hire(ctx context.Context, t *testing.T, base string) []*colleague {
	t.Helper()
	team := make([]*colleague, len(demo.Logins))
	for i, login := range demo.Logins {
		c := &colleague{ears: map[string]*ear{}}
		o, err := talker.HookedOperator(ctx, base, login.Email, demo.Password, talker.Hooks{
			Message: func(data []byte) {
				var moved struct {
					Type   string
					Chat   struct{ ID string }
					Events []view.EventView
				}
				if json.Unmarshal(data, &moved) == nil && moved.Type == "chat" {
					if e := c.ear(moved.Chat.ID); e != nil {
						e.hears(ctx, moved.Events)
					}
				}
			},
			Connected: func() {
				c.mu.Lock()
				defer c.mu.Unlock()
				for _, e := range c.ears {
					go e.resume(ctx)
				}
			},
		})
		require.NoError(t, err)
		t.Cleanup(o.Close)
		require.NoError(t, o.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
		c.Operator = o
		team[i] = c
	}
	return team
}

// takes makes a colleague the owner of a chat, who hears it from then on.
func (c *colleague) takes(ctx context.Context, chatID string) error {
	e := newEar()
	e.ask = func(ctx context.Context, after int64) ([]view.EventView, error) {
		var script desk.Script
		err := c.Get(ctx, fmt.Sprintf("/api/chats/%s?after=%d", chatID, after), &script)
		return script.Events, err
	}
	c.mu.Lock()
	c.ears[chatID] = e
	c.mu.Unlock()
	err := talker.Persist(ctx, func(ctx context.Context) error {
		err := c.Post(ctx, "/api/chats/"+chatID+"/take?anyway=true", nil, nil)
		var p *problem.Problem
		if errors.As(err, &p) && p.Code == "chat-taken" {
			return nil // the answer to the first try was lost
		}
		return err
	})
	e.resume(ctx)
	return err
}

// converse is one dialogue: a visitor asks and waits for the answer, again and
// again; their operator answers what they hear.
func converse(ctx, talking context.Context, t *testing.T, base string, i int, c *colleague, told *record, turns *rounds) {
	heard := newEar()
	var v *talker.Visitor
	err := talker.Persist(ctx, func(attempt context.Context) (err error) {
		v, err = talker.HookedVisitor(attempt, base, demo.WidgetKey, talker.Hooks{
			Message: func(data []byte) {
				var moved struct {
					Type   string
					Events []view.EventView
				}
				if json.Unmarshal(data, &moved) == nil && moved.Type == "chat" {
					heard.hears(ctx, moved.Events)
				}
			},
			Connected: func() { go heard.resume(ctx) },
		})
		return err
	})
	if err != nil {
		t.Errorf("visitor %d was not let in: %v", i, err)
		return
	}
	defer v.Close()
	chatID := ""
	for n := 0; turns.next.Wait(talking) == nil; n++ {
		began := time.Now()
		question, answer := fmt.Sprintf("question %d of %d", n, i), fmt.Sprintf("answer %d to %d", n, i)
		clientID := "v" + uuid.NewString()
		err := talker.Persist(ctx, func(ctx context.Context) error {
			told.tried()
			if chatID != "" {
				said, err := v.Say(ctx, chatID, clientID, question)
				if err == nil {
					told.add(ack{chatID, clientID, question, said.Event.Number})
				}
				return err
			}
			first, err := v.Open(ctx, talk.Opening{ClientID: clientID, Text: question})
			if err == nil {
				chatID = first.Chat.ID
				told.add(ack{chatID, clientID, question, 2})
			}
			return err
		})
		if err != nil {
			t.Errorf("visitor %d, question %d: %v", i, n, err)
			return
		}
		if n == 0 {
			heard.mu.Lock()
			heard.ask = func(ctx context.Context, after int64) ([]view.EventView, error) {
				resumed, err := v.Resume(ctx, chatID, after)
				return resumed.Events, err
			}
			heard.mu.Unlock()
			heard.resume(ctx)
			if err := c.takes(ctx, chatID); err != nil {
				t.Errorf("chat %d was not taken: %v", i, err)
				return
			}
		}
		if !c.ear(chatID).until(ctx, question) {
			t.Errorf("question %d of %d was not heard", n, i)
			return
		}
		if err := answerWith(ctx, c, chatID, answer, told); err != nil {
			t.Errorf("operator, answer %d to %d: %v", n, i, err)
			return
		}
		if !heard.until(ctx, answer) {
			t.Errorf("answer %d to %d was not heard", n, i)
			return
		}
		turns.done(i, began)
	}
}

func answerWith(ctx context.Context, c *colleague, chatID, answer string, told *record) error {
	clientID := "o" + uuid.NewString()
	return talker.Persist(ctx, func(ctx context.Context) error {
		told.tried()
		said, err := c.Say(ctx, chatID, clientID, answer)
		if err == nil {
			told.add(ack{chatID, clientID, answer, said.Event.Number})
		}
		return err
	})
}
