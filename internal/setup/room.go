// Package setup is the room in which admins say how Stoop works: departments and
// their hours, routing rules, widgets, the team, the Desk.
package setup

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/fetch"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is where operators' browsers are.
type Live interface {
	// Reconnect makes an operator's browsers connect anew, so that they follow
	// what they may follow now.
	Reconnect(operatorID string)
}

// Floor is where it is decided who gets whom.
type Floor interface {
	// Team returns the team as it stands, and TeamMoved tells it to everybody.
	Team(ctx context.Context) ([]view.OperatorView, error)
	TeamMoved(ctx context.Context)
	// Staff returns the team as routing sees it.
	Staff(ctx context.Context, now time.Time) ([]routing.Staff, error)
	// Release puts back what an operator holds.
	Release(ctx context.Context, operatorID string, messages bool) error
}

// Library is where articles are.
type Library interface {
	// FAQs returns the titles of a design's FAQs in a language, those of all pages.
	FAQs(ctx context.Context, d widget.Design, language string) ([]view.ArticleTitle, error)
	// LacksArticles returns which of some articles visitors may not read.
	LacksArticles(ctx context.Context, ids []string) ([]string, error)
	// ForVisitors returns all articles that visitors may read.
	ForVisitors(ctx context.Context) ([]view.ArticleTitle, error)
}

// Tables are what the room asks of the chats' projection; its own are those of
// the settings.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where things are set up. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Settings *settings.Cache
	Register register.Tables
	Replica  *store.Replica // where facts are read
	Live     Live
	Floor    Floor
	Library  Library
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // of the hour that rules ask for
	Post     Post
	Fetch    fetch.Client // gets pages to look for the snippet
	URL      string       // under which visitors reach Stoop
	Booking  bool         // there is a system outside in which visitors can look up a booking

	// Changed lets what depends on the settings be read anew.
	Changed func()

	once    sync.Once
	looks   chan struct{} // pages that are being looked at
	replays chan struct{} // held by who lets the past happen again
}
