// Package delivery follows the log: it tells each browser what was appended that
// is for its reader, whichever server appended it.
package delivery

import (
	"context"
	"log/slog"

	"stoop/core/access"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/live"
	"stoop/internal/notice"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Told is who is told. Sending never blocks and never fails as far as
// the sender is concerned: a browser that misses something notices the gap.
type Told interface {
	ToTeam(message any)
	ToLeads(message any)
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
	ToAudience(to access.Audience, message any)
}

// Live is whom the room tells, at once or later.
type Live interface {
	Told
	Gather() (gathered live.Sender, send func())
}

// Floor is where it is decided who gets whom.
type Floor interface {
	// Kick lets the queues be looked at soon.
	Kick()
	// Nodes returns how many servers live.
	Nodes(ctx context.Context) (int, error)
}

// The notices of this room.
const (
	MovedNotice  = "moved"  // there is something new in the feed
	MarkedNotice = "marked" // words of the chats that follow have come further
)

// Room delivers. Its methods are safe for concurrent use.
type Room struct {
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Notices  *notice.Board
	Live     Live
	Near     Live // the browsers of this server alone
	Shared   bool // Live reaches those of all servers
	Floor    Floor
	Log      *slog.Logger

	relay *relay
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.relay = newRelay()
	room.Notices.On(MovedNotice, func(context.Context, string) {
		select {
		case room.relay.woken <- struct{}{}:
		default:
		}
	})
	room.Notices.On(MarkedNotice, func(ctx context.Context, ids string) {
		again.InTime(ctx, room.Log, "telling how far words have come", func(ctx context.Context) error { return room.heardMarks(ctx, ids) })
	})
}
