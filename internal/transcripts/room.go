// Package transcripts is the room of what was said: the ended chats, searched.
package transcripts

import (
	"time"

	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Tables are what the room asks of the chats, and the index of their words.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where transcripts are read. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Facts    facts.Tables
	Settings *settings.Cache
	View     *view.Views
	Now      func() time.Time
	Zone     *time.Location // in which days are counted, unless another is asked for
}
