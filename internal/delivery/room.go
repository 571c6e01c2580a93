// Package delivery follows the log: it tells each browser what was appended that
// is for its reader, whichever server appended it.
package delivery

import (
	"context"
	"log/slog"

	"stoop/core/access"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/notice"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells. Sending never blocks and never fails as far as
// the sender is concerned: a browser that misses something notices the gap.
type Live interface {
	ToTeam(message any)
	ToLeads(message any)
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
	ToAudience(to access.Audience, message any)
}

// Floor is where it is decided who gets whom.
type Floor interface {
	// Kick lets the queues be looked at soon.
	Kick()
	// Nodes returns how many servers live.
	Nodes(ctx context.Context) (int, error)
}

// MovedNotice is the notice that logs went on; chats and numbers follow.
const MovedNotice = "moved"

// Tables are what the room asks of the chats' projection.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room delivers. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Notices  *notice.Board
	Live     Live
	Floor    Floor
	Log      *slog.Logger

	relay relay
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.relay = newRelay()
	room.Notices.On(MovedNotice, func(ctx context.Context, moved string) {
		again.InTime(ctx, room.Log, "telling what was said on another server", func(ctx context.Context) error { return room.catchUp(ctx, moved) })
	})
}
