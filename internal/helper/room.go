// Package helper is the room of what answers before a person does: it takes the turns of
// flows in chats, and is where admins write them.
package helper

import (
	"context"
	"log/slog"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/answer"
	"stoop/core/chat"
	"stoop/core/flow"
	"stoop/core/routing"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Floor is where it is decided who gets whom.
type Floor interface {
	// Kick lets the queues be looked at soon.
	Kick()
	// FactsOf gathers what is known of a chat that has begun.
	FactsOf(ctx context.Context, c chatlog.Chat) (routing.Facts, error)
	// Answers reports whether somebody could take a chat of a department now, and if not,
	// when hours open next.
	Answers(ctx context.Context, department string) (open bool, opensAt *time.Time, err error)
}

// Library is where articles are.
type Library interface {
	// Answer looks for the answer to a question among the articles.
	Answer(ctx context.Context, question string, languages []string) (answer.Answered, error)
}

// Outside is the system outside.
type Outside interface {
	// Lookup returns somebody's own booking by its number and the name that it is in.
	Lookup(ctx context.Context, visitorID, address, number, name string) (chat.Card, error)
}

// Tables are what the room asks of the chats' projection.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	kicksKept = 1000             // chats whose turn is to be taken at once; others the next look finds
	workers   = 4                // turns that are taken at once
	lookEvery = time.Second      // for turns that nobody took
	turnLimit = 15 * time.Second // a turn with all that it looks up
	lookLimit = 5 * time.Second  // one look for an answer or a booking
	flowsKept = 200              // former versions that are remembered
)

// Quiet is how long a chat with the helper alone stays open in which nobody says anything.
const Quiet = 30 * time.Minute

// Room is where the helper answers. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Register register.Tables
	Floor    Floor
	Library  Library
	Outside  Outside
	Log      *slog.Logger
	Now      func() time.Time
	// Changed lets what depends on the settings be read anew.
	Changed func()

	kicks  chan string
	former *lru.Cache[former, flow.Flow]
	mu     sync.Mutex
	taking map[string]bool // chats whose turn is being taken by this server
}

// former is a version of a flow.
type former struct {
	id      string
	version int64
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.kicks, room.taking = make(chan string, kicksKept), map[string]bool{}
	room.former, _ = lru.New[former, flow.Flow](flowsKept) // fails for sizes below one only
}

// Kick lets the helper's turn in a chat be taken soon, if it is its turn.
func (room *Room) Kick(chatID string) {
	select {
	case room.kicks <- chatID:
	default: // the next look finds it
	}
}

// Run takes the helper's turns until the context ends. It looks at the database each
// second, so that no restart forgets one.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	for range workers {
		running.Go(func() {
			for {
				select {
				case <-ctx.Done():
					return
				case id := <-room.kicks:
					again.InTime(ctx, room.Log, "the helper's turn in a chat", func(ctx context.Context) error { return room.takeTurn(ctx, id) })
				}
			}
		})
	}
	running.Go(func() {
		again.Every(ctx, lookEvery, func() {
			again.InTime(ctx, room.Log, "visitors whom the helper owes an answer", room.owed)
			again.InTime(ctx, room.Log, "visitors who have waited long enough for the helper", room.waitedLong)
			again.InTime(ctx, room.Log, "quiet chats with the helper", room.quiet)
		})
	})
	running.Wait()
}
