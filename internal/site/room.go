// Package site is the room of the watched sites: who is on them, what they look at,
// and who is told of it.
package site

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"stoop/core/access"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/places"
	"stoop/internal/setup/settings"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
	"stoop/internal/view"
)

// Live is whom the room tells.
type Live interface {
	ToLeads(message any)
	ToAudience(to access.Audience, message any)
}

// Floor is where it is known how the team stands.
type Floor interface {
	// WidgetView returns what a page needs to know of its widget.
	WidgetView(ctx context.Context, w settings.Widget, wishes ...string) (view.WidgetView, error)
	// Destination returns the department to which a chat of somebody would go.
	Destination(s *settings.Settings, w settings.Widget, f routing.Facts) string
	// Host returns who of the team could answer somebody in a department now.
	Host(ctx context.Context, departmentID string) (settings.Operator, bool, error)
}

// Near are the pages that this server's browsers have open.
type Near interface {
	ToPage(tab string, message any)
}

// People is who is behind a visit.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
	// Vouched takes note of who a visitor is, for which the site vouches.
	Vouched(ctx context.Context, visitorID, siteID, name, email, phone string) error
}

// Room is where the sites are. Its methods are safe for concurrent use.
type Room struct {
	Visits   visits.Tables
	Guests   *guests.Registry
	Register register.Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Places   *places.Table // may be nil: then nobody is anywhere
	Live     Live
	Near     Near
	Floor    Floor
	People   People
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // of the team
	Node     string         // names this server among those on the database

	joined time.Time // up to when it was read what other servers stored

	mu    sync.Mutex
	board board // guarded by mu
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.board = newBoard() }
