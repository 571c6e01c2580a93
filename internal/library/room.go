// Package library is the room of what the team has ready: canned responses, and
// articles.
package library

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"stoop/internal/buckets"
	"stoop/internal/chatlog"
	"stoop/internal/fetch"
	"stoop/internal/files"
	"stoop/internal/httpapi"
	"stoop/internal/notice"
	"stoop/internal/remember"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
)

// Live is whom the room tells. Of what every server remembers, each tells the
// browsers near to it, when it has forgotten it.
type Live interface{ ToTeam(message any) }

// CannedNotice is the notice that canned responses changed.
const CannedNotice = "canned"

// Tables are those of canned responses and articles.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is the library. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	Visits   visits.Tables
	Files    files.Tables
	Contents files.Store
	Notices  *notice.Board
	Live     Live
	Near     Live
	Log      *slog.Logger
	Now      func() time.Time
	URL      string // under which visitors reach Stoop

	People httpapi.Doorkeeper // who of the visitors may enter
	// Wording words answers from passages of articles; nil: the passages themselves are said.
	Wording Wording
	// Fetch gets pages, for their titles.
	Fetch fetch.Client

	askers  buckets.Buckets
	read    readersKept
	looking chan struct{} // held by who looks for what is said again
	canned  remember.Value[library]
	mu      sync.Mutex
	uses    uses
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.looking = make(chan struct{}, 1)
	room.askers = buckets.New(askersKept)
	room.Notices.On(CannedNotice, func(context.Context, string) { room.cannedChanged() })
	room.Notices.OnMissed(func(context.Context) { room.canned.Forget() })
}
