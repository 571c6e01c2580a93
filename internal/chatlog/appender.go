// Package chatlog is the heart: the log of each chat, in which everything that
// happens is one event, and the projection of it. It appends what rooms decide
// on, once and in order, and says so afterwards.
package chatlog

import (
	"context"
	"errors"
	"hash/maphash"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/store"
)

const (
	// shards is how many batches may be on their way to the database at once.
	// A chat always belongs to the same one.
	shards = 4
	// batchLimit bounds a batch, so that one slow commit cannot gather a
	// statement without end.
	batchLimit = 256
	// heldChats is how many chats each shard remembers between two appends.
	heldChats = 4096
	// commitTimeout is how long a commit may hang before its acts are answered
	// with an error; their senders then repeat them under the same client id.
	commitTimeout = 30 * time.Second
	// staleTries bounds how often an act is decided anew because another
	// server appended to the same chat in between.
	staleTries = 20
)

// ErrStale is returned when a chat keeps changing under an act.
var ErrStale = errors.New("the chat changed too often while this was being stored")

// ErrRefused is returned for acts that a statement before them refused.
var ErrRefused = errors.New("the database says that this does not hold any more")

// ErrClosed is returned for acts after the appender was closed.
var ErrClosed = errors.New("the server is stopping")

// Decide says what an act leads to in a state: events that follow it, or the
// reason why not. No events and no error means that nothing changes.
type Decide func(chat.State) ([]chat.Event, error)

// Act is something to be done in a chat.
type Act struct {
	ChatID   string
	By       chat.Party
	ClientID string // makes the act idempotent; may be empty
	Decide   Decide

	// Ahead and Along are sent to the database together with the events, before
	// and after them, and commit with them or not at all. Ahead is given the chat as
	// it was decided on; who calls must_hold in it refuses the act by that: the error
	// is ErrRefused.
	Ahead func(Chat) []Statement
	Along []Statement

	// Guard, if set, runs in the transaction of the act before anything is
	// written; its error refuses the act. Also runs in it afterwards, for what
	// must be durable together with the events. They cost ways to the database.
	Guard func(context.Context, pgx.Tx) error
	Also  func(context.Context, pgx.Tx, Chat, []chat.Event) error
}

// commitsAlone reports whether an act has more in its transaction than its events.
func (a Act) commitsAlone() bool {
	return a.inTransaction() || a.Ahead != nil || len(a.Along) > 0
}

func (a Act) inTransaction() bool { return a.Guard != nil || a.Also != nil }

// Result is what an act led to, after it is durable.
type Result struct {
	Chat     Chat         // the chat after the act
	Events   []chat.Event // what the act added; with Repeated, what it had added the first time
	Repeated bool
	Marked   bool // only how far words have come is new
}

// Log writes events to the logs of chats. Acts that arrive while the
// database commits are gathered and committed together (group commit). Each event
// takes the number behind the last one that the decision was made on, and each
// number exists once: two servers that act on the same chat cannot both win.
// It is safe for concurrent use.
type Log struct {
	Tables
	ready  Ready
	seed   maphash.Seed
	shards [shards]shard
	mu     sync.RWMutex // held for reading by acts under way
	closed bool
	spread sync.WaitGroup // of those who commit and tell for others
	marks  *marks
	behind *projection // chats whose rows are to follow
	// OnMarks, if set, is told of which chats marks were stored.
	OnMarks func(chatIDs []string)

	waking sync.Mutex
	wakes  map[string]waker // of followers, by name
}

func (a *Log) shardOf(chatID string) *shard { return &a.shards[maphash.String(a.seed, chatID)%shards] }

// Ready makes ready what is to be told of an act, and returns what tells it. It
// may be called while the act is being stored, and its result be dropped.
type Ready func(Result) (tell func())

// New returns a log. What ready returns is called for every act that added
// events, after its commit, for one chat in the order of its log. The acts that
// follow do not wait for it.
func New(s *store.Store, ready Ready) *Log {
	a := &Log{Tables: On(s), ready: ready, seed: maphash.MakeSeed(), marks: newMarks(), behind: newProjection()}
	for i := range a.shards {
		a.shards[i].held, _ = lru.New[string, *Chat](heldChats) // fails for sizes below one only
		a.shards[i].apart = map[string][]*pending{}
	}
	return a
}

// Append does an act and returns when it is durable. An error of Decide is
// returned as it is; any other error leaves open whether the act was stored,
// and the caller may repeat it under the same ClientID.
func (a *Log) Append(ctx context.Context, act Act) (Result, error) {
	a.mu.RLock()
	defer a.mu.RUnlock()
	if a.closed {
		return Result{}, ErrClosed
	}
	if err := ctx.Err(); err != nil {
		return Result{}, err
	}
	p := &pending{act: act, ready: make(chan struct{})}
	s := a.shardOf(act.ChatID)
	s.mu.Lock()
	s.queue = append(s.queue, p)
	working := s.atWork
	s.atWork = true
	s.mu.Unlock()
	if !working {
		a.work(s, p)
	}
	<-p.ready
	return p.result, p.err
}

// Close waits for the acts under way, and until they are told, and refuses
// further ones.
func (a *Log) Close() {
	a.mu.Lock()
	a.closed = true
	a.mu.Unlock()
	a.storeMarks()
	a.behind.end()
	a.project()
	a.spread.Wait()
}
