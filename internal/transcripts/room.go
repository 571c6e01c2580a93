// Package transcripts is the room of what was said: the ended chats, searched.
package transcripts

import (
	"context"
	"log/slog"
	"time"

	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/files"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Tables are what the room asks of the chats, and the index of their words.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Post is what sends mail.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// SendTranscript sends a chat's transcript to somebody, soon.
	SendTranscript(ctx context.Context, c chatlog.Chat, to, subject, text string) error
}

// Room is where transcripts are read. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Facts    facts.Tables
	Replica  *store.Replica // where is searched
	Settings *settings.Cache
	View     *view.Views
	Contents files.Store // where exports are kept
	Post     Post
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // in which days are counted, unless another is asked for
}

// searching returns where is searched and read at length: it need not be of this very
// moment.
func (room *Room) searching() Tables { return On(room.Replica.Reader()) }
