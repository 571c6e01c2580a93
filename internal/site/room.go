// Package site is the room of the watched sites: which pages are open there, and
// where a visitor is.
package site

import (
	"context"
	"log/slog"
	"time"

	"stoop/core/access"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
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
	WidgetView(ctx context.Context, w settings.Widget) (view.WidgetView, error)
}

// People is who is behind a visit.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
}

// Room is where the sites are. Its methods are safe for concurrent use.
type Room struct {
	Visits   visits.Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Live     Live
	Floor    Floor
	People   People
	Log      *slog.Logger
	Now      func() time.Time
}
