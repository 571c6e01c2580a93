// Package retention is the room of what is kept, and for how long: it deletes what was kept
// long enough, forgets somebody who asks for it, and hands out all that is kept of them.
package retention

import (
	"context"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/ticket"
	"stoop/internal/again"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/notice"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/transcripts/export"
)

// Transcripts is where chats are found and written down.
type Transcripts interface {
	// Reindex makes ended chats found by the words that are left of them.
	Reindex(ctx context.Context, tx pgx.Tx, chatIDs []string) error
	// Whole returns a chat as it is written down, with the team's notes or without.
	Whole(ctx context.Context, chatID string, notes bool) (export.Transcript, error)
}

// People is where contacts are noted about.
type People interface {
	// NotesAbout returns what the team wrote down about a contact.
	NotesAbout(ctx context.Context, contactID string) ([]string, error)
	// CountNotes counts that.
	CountNotes(ctx context.Context, contactID string) (int64, error)
}

// Channels are the ways by which people write beside the site.
type Channels interface {
	// Agreed returns the addresses from which people write, to which they may be written.
	Agreed(ctx context.Context, visitorIDs []string) ([]carrier.Agreed, error)
}

// Tickets is where tickets are.
type Tickets interface {
	// CountOf counts the tickets of a person: of their browsers, or under their email.
	CountOf(ctx context.Context, visitorIDs []string, email string) (int64, error)
	// OfPerson returns them with their logs.
	OfPerson(ctx context.Context, visitorIDs []string, email string) ([]ticket.Ticket, [][]ticket.Event, error)
	// EraseOf deletes them.
	EraseOf(ctx context.Context, tx pgx.Tx, visitorIDs []string, email string) error
	// CountBefore counts the tickets that were done before a time.
	CountBefore(ctx context.Context, before time.Time) (int64, error)
	// EraseBefore deletes up to so many of them, and returns how many.
	EraseBefore(ctx context.Context, tx pgx.Tx, before time.Time, atMost int) (int64, error)
}

// Tables are those of deletions.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room keeps and deletes. Its methods are safe for concurrent use.
type Room struct {
	Tables      Tables
	Settings    *settings.Cache
	Chats       *chatlog.Log
	Register    register.Tables
	Visits      visits.Tables
	Files       files.Tables
	Contents    files.Store
	Transcripts Transcripts
	People      People
	Tickets     Tickets
	Channels    Channels
	Notices     *notice.Board
	Log         *slog.Logger
	Now         func() time.Time
	Zone        *time.Location // of the times in what is handed out
}

// ErasedNotice is the notice that of some chats something was erased, with their ids.
const ErasedNotice = "erased"

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.Notices.On(ErasedNotice, func(_ context.Context, ids string) { room.Chats.Forget(strings.Fields(ids)...) })
	room.Notices.OnMissed(func(context.Context) { room.Chats.ForgetAll() })
}

// erased lets all servers forget what they remember of chats of which something was erased.
func (room *Room) erased(ctx context.Context, chatIDs []string) {
	room.Chats.Forget(chatIDs...)
	for some := range slices.Chunk(chatIDs, chatsAtOnce) { // a notice has its limit
		room.Notices.Tell(ctx, ErasedNotice+" "+strings.Join(some, " "))
	}
}

// purgeEvery is how often is deleted what was kept long enough.
const purgeEvery = 10 * time.Minute

// Run deletes what was kept long enough, until the context ends.
func (room *Room) Run(ctx context.Context) {
	again.Every(ctx, purgeEvery, func() {
		if err := room.Purge(ctx); err != nil && ctx.Err() == nil {
			room.Log.Error("what was kept long enough could not be deleted; it is tried again", "error", err)
		}
	})
}
