// Package floor is the room in which it is decided who gets whom: who is there,
// where an arriving chat goes, who is handed out to whom, how long that takes,
// and what happens when a time is over.
package floor

import (
	"context"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/notice"
	"stoop/internal/people/register"
	"stoop/internal/remember"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells. Sending never blocks and never fails as far as
// the sender is concerned: a browser that misses something asks.
type Live interface {
	ToOperator(operatorID string, message any)
}

// Near are the browsers of this server. How the floor stands each server works
// out and tells its own.
type Near interface {
	ToTeam(message any)
	ToVisitor(visitorID string, message any)
	ToWidget(widgetID string, message any)
}

// Delivery is told when another server died: what it had still to say is in the
// log.
type Delivery interface {
	Missed(since time.Time)
}

// Talk is where chats end.
type Talk interface {
	// Ending does an act that may end a chat, with the wrap-up of its department.
	Ending(ctx context.Context, chatID string, by chat.Party, decide func(chat.State, chat.WrapUp) ([]chat.Event, error)) (view.ChatView, error)
}

// Site is where visitors are.
type Site interface {
	// AnnouncePlace tells those who see a visitor's chat where the visitor is.
	AnnouncePlace(ctx context.Context, visitorID string)
}

// Facts is what chats that ended add up to.
type Facts interface {
	// OperatorsSince returns what operators did in the chats that came since a time and
	// ended, by their id.
	OperatorsSince(ctx context.Context, since time.Time) (map[string]facts.Did, error)
}

// The notices of this room.
const (
	TeamNotice  = "team"  // who is there, or who wants chats
	QueueNotice = "queue" // who waits
)

// Tables are those of servers and their connections; members' turns and what is
// counted of operators stand beside what is set up of them.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is the floor. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Register register.Tables
	Visits   visits.Tables
	Facts    Facts
	Notices  *notice.Board
	Live     Live
	Near     Near
	Delivery Delivery
	Talk     Talk
	Site     Site
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // in which a day begins for the team
	Grace    time.Duration  // how long an operator without a connection keeps their chats
	Node     string         // names this server among those on the database

	lock      *lock
	kicks     chan struct{} // something may have changed
	arrivals  chan struct{} // somebody waits
	handedOut atomic.Bool   // other servers have not been told yet
	beating   sync.RWMutex  // a beat is under way; see betweenBeats
	staff     remember.Value[staffOf]
	automatic *lru.Cache[AutomaticChat, struct{}] // looked at, with nothing to say

	mu          sync.Mutex
	connections map[string]chat.Party // of this server, by connection
	stopping    bool
	wake        *time.Timer // for the next chat that overflows
	told        told
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.kicks, room.arrivals = make(chan struct{}, 1), make(chan struct{}, 1)
	room.lock, room.connections, room.told = newLock(), map[string]chat.Party{}, newTold()
	room.automatic, _ = lru.New[AutomaticChat, struct{}](automaticKept) // fails for sizes below one only
	if room.Grace == 0 {
		room.Grace = OperatorGrace
	}
	room.Notices.On(TeamNotice, func(ctx context.Context, _ string) {
		again.InTime(ctx, room.Log, "telling who is there", room.TellTeam)
		room.Kick()
	})
	room.Notices.On(QueueNotice, func(context.Context, string) { room.Kick() })
}

// Run keeps the floor going until the context ends: it says that this server
// lives, hands out chats, and lets time pass. Begin with Arrive.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	running.Go(func() { room.beat(ctx) })
	running.Go(func() { room.router(ctx) })
	running.Go(func() { room.sweeps(ctx) })
	room.Kick()
	running.Wait()
}

// Arrive says for the first time that this server lives.
func (room *Room) Arrive(ctx context.Context) error { return room.Tables.Beat(ctx, room.Node, nil) }

// Leaving begins the end: connections that close from now on are those of a
// server that takes its leave as a whole.
func (room *Room) Leaving() {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.stopping = true
	if room.wake != nil {
		room.wake.Stop()
	}
}

// Close takes this server's leave from the others, after Run has ended.
func (room *Room) Close(ctx context.Context) {
	room.lock.close()
	if err := room.Tables.RemoveNode(ctx, room.Node); err != nil {
		room.Log.Warn("this server could not take its leave; the others notice", "error", err)
	}
}
