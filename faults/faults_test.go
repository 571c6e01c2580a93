// Package faults proves what survives when things break: the real server runs
// as a process of its own and is killed at random moments.
package faults

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/e2e/process"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/problem"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

const (
	visitors     = 24
	messagesEach = 60
	kills        = 7
)

// ack is what a sender was told: this message is stored under this number.
type ack struct {
	chatID, clientID, text string
	number                 int64
}

// record is what all senders together were told, in the order of each.
type record struct {
	mu    sync.Mutex
	acks  []ack
	tries int
	more  chan struct{}
}

func (r *record) add(a ack) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.acks = append(r.acks, a)
	select {
	case r.more <- struct{}{}:
	default:
	}
}

func (r *record) tried() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.tries++
}

func (r *record) count() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.acks)
}

// waitFor returns when that many messages were acknowledged.
func (r *record) waitFor(ctx context.Context, n int) bool {
	for r.count() < n {
		select {
		case <-ctx.Done():
			return false
		case <-r.more:
		}
	}
	return true
}

var errStillClosed = errors.New("nobody is in")

// running is a server in a process of its own; what fails of it fails the test.
type running struct {
	*process.Server
	t *testing.T
}

// seeded returns a cluster whose data outlive a crash, and a database with the demo
// data in it.
func seeded(ctx context.Context, t *testing.T) (cluster *devpg.Cluster, database string, data *store.Store) {
	t.Helper()
	cluster, database = testpg.Durable(t)
	data, err := store.Open(database, 4)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	require.NoError(t, data.Migrate(ctx))
	require.NoError(t, demo.Seed(ctx, data, []string{"http://127.0.0.1"}, time.Now()))
	return cluster, database, data
}

func newServer(ctx context.Context, t *testing.T, databaseURL string, env ...string) running {
	t.Helper()
	server, err := process.New(ctx, t.TempDir(), databaseURL, env...)
	require.NoError(t, err)
	require.NoError(t, server.Start(ctx))
	return running{server, t}
}

func (r running) start(ctx context.Context) {
	r.t.Helper()
	require.NoError(r.t, r.Start(ctx))
}

func (r running) kill() {
	r.t.Helper()
	require.NoError(r.t, r.Kill())
}

// Many visitors and operators send at once while the server is killed again
// and again and PostgreSQL crashes once. Then the senders' own records are
// held against the database: every acknowledged message is there once, in the
// order of its sender, and no number is missing.
func TestNothingAcknowledgedIsLostOrDoubled(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 4*time.Minute)
	defer cancel()
	seed := uint64(time.Now().UnixNano())
	random := rand.New(rand.NewPCG(seed, 1))
	t.Logf("random seed %d", seed)

	cluster, database, data := seeded(ctx, t)

	server := newServer(ctx, t, database,
		"STOOP_MESSAGES_PER_SECOND=100000", "STOOP_MESSAGE_BURST=100000", "STOOP_VISITOR_REQUESTS_PER_MINUTE=100000", "STOOP_LOGINS_PER_MINUTE=1000")

	told := &record{more: make(chan struct{}, 1)}
	var talk sync.WaitGroup
	chats := make(chan string, visitors)
	var opening sync.WaitGroup
	for i := range demo.Logins {
		operator, err := talker.NewOperator(ctx, server.URL, demo.Logins[i].Email, demo.Password, nil)
		require.NoError(t, err)
		t.Cleanup(operator.Close)
		require.NoError(t, operator.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
		talk.Go(func() { answer(ctx, t, operator, chats, told, &talk) })
	}

	for i := range visitors {
		opening.Add(1)
		talk.Go(func() { visit(ctx, t, server.URL, i, told, func(chatID string) { chats <- chatID; opening.Done() }) })
	}
	talk.Go(func() { opening.Wait(); close(chats) })
	total := visitors * 2 * messagesEach
	for i := range kills {
		// Somewhere in this part of the whole, and then in the middle of whatever
		// is on its way.
		part := total / (kills + 1)
		require.True(t, told.waitFor(ctx, part*i+random.IntN(part)), "the senders got stuck")
		killed := time.Now()
		server.kill()
		if i == kills/2 {
			require.NoError(t, cluster.Crash())
			require.NoError(t, cluster.Restart(ctx, devpg.Options{}))
		}
		server.start(ctx)
		ready, known := time.Since(killed), told.count()
		require.True(t, told.waitFor(ctx, min(total, known+1)), "the senders got stuck")
		first := time.Since(killed)
		require.True(t, told.waitFor(ctx, min(total, known+2*visitors)), "the senders got stuck")
		t.Logf("counted: after a kill the server answered after %d ms, the first message was acknowledged after %d ms, as many as there are senders after %d ms",
			ready.Milliseconds(), first.Milliseconds(), time.Since(killed).Milliseconds())
	}
	talk.Wait()
	require.NoError(t, ctx.Err(), "the senders got stuck")
	server.kill()
	require.Equal(t, total, judge(t, data, told, fmt.Sprintf("%d kills and 1 crash of PostgreSQL", kills)), "not every message got through in the end")
}

// visit is one visitor who writes their messages one after the other, each
// until it is acknowledged.
func visit(ctx context.Context, t *testing.T, url string, i int, told *record, opened func(chatID string)) {
	var v *talker.Visitor
	err := talker.Persist(ctx, func(ctx context.Context) (err error) {
		v, err = talker.NewVisitor(ctx, url, demo.WidgetKey, nil)
		return err
	})
	if err != nil {
		t.Errorf("visitor %d was not let in: %v", i, err)
		opened("")
		return
	}
	defer v.Close()
	chatID := ""
	defer func() {
		if chatID == "" { // nobody must wait for this chat
			opened("")
		}
	}()
	for n := range messagesEach {
		clientID, text := fmt.Sprintf("v%d-%d", i, n), fmt.Sprintf("visitor %d says %d", i, n)
		err := talker.Persist(ctx, func(ctx context.Context) error {
			told.tried()
			if chatID == "" {
				first, err := v.Open(ctx, talk.Opening{ClientID: clientID, Text: text})
				if err == nil {
					chatID = first.Chat.ID
					told.add(ack{chatID, clientID, text, 2})
					opened(chatID)
				}
				var closed *problem.Problem
				if errors.As(err, &closed) && closed.Code == "closed" {
					return errStillClosed // the operators have not come back yet
				}
				return err
			}
			said, err := v.Say(ctx, chatID, clientID, text)
			if err == nil {
				told.add(ack{chatID, clientID, said.Event.Text, said.Event.Number})
			}
			return err
		})
		if err != nil {
			t.Errorf("visitor %d, message %d: %v", i, n, err)
			return
		}
	}
}

// answer is an operator who takes the chats that are theirs and writes in each.
func answer(ctx context.Context, t *testing.T, o *talker.Operator, chats <-chan string, told *record, talk *sync.WaitGroup) {
	for chatID := range chats {
		if chatID == "" {
			continue
		}
		if err := talker.Persist(ctx, func(ctx context.Context) error {
			return o.Post(ctx, "/api/chats/"+chatID+"/take?anyway=true", nil, nil)
		}); err != nil {
			t.Errorf("taking a chat: %v", err)
			return
		}
		talk.Go(func() { reply(ctx, t, o, chatID, told) })
	}
}

func reply(ctx context.Context, t *testing.T, o *talker.Operator, chatID string, told *record) {
	for n := range messagesEach {
		clientID, text := fmt.Sprintf("o-%d", n), fmt.Sprintf("operator says %d", n)
		err := talker.Persist(ctx, func(ctx context.Context) error {
			told.tried()
			said, err := o.Say(ctx, chatID, clientID, text)
			if err == nil {
				told.add(ack{chatID, clientID, said.Event.Text, said.Event.Number})
			}
			return err
		})
		if err != nil {
			t.Errorf("operator, message %d: %v", n, err)
			return
		}
	}
}

// judge holds what the senders were told against what is stored, and returns how
// much that is.
func judge(t *testing.T, data *store.Store, told *record, faults string) int {
	lost, doubled, misplaced, gaps := 0, 0, 0, 0
	logs := map[string][]chat.Event{}
	for _, a := range told.acks {
		if _, there := logs[a.chatID]; there {
			continue
		}
		log, err := chatlog.On(data).Events(context.Background(), a.chatID, 0, 1_000_000)
		require.NoError(t, err)
		logs[a.chatID] = log
	}
	for _, log := range logs {
		for i, e := range log {
			if e.Number != int64(i+1) {
				gaps++
			}
		}
		_, err := chat.Fold(log)
		require.NoError(t, err, "a stored log breaks the rules")
	}
	lastNumber := map[string]int64{}
	for _, a := range told.acks {
		found := 0
		for _, e := range logs[a.chatID] {
			if e.ClientID == a.clientID {
				found++
				if e.Number != a.number || e.Text != a.text {
					misplaced++
				}
			}
		}
		switch {
		case found == 0:
			lost++
		case found > 1:
			doubled++
		}
		sender := a.chatID + a.clientID[:1]
		if a.number <= lastNumber[sender] {
			misplaced++
		}
		lastNumber[sender] = a.number
	}
	t.Logf("counted: %d chats, %d messages acknowledged in %d tries, %s: lost = %d, doubled = %d, out of order = %d, gaps = %d",
		len(logs), len(told.acks), told.tries, faults, lost, doubled, misplaced, gaps)
	require.Zero(t, lost)
	require.Zero(t, doubled)
	require.Zero(t, misplaced)
	require.Zero(t, gaps)
	require.Greater(t, told.tries, len(told.acks), "no fault hit a message on its way: the test shows nothing")
	return len(told.acks)
}
