// Package staffing is the room of how many people the coming hours need, and of the
// roster that says who is to be there.
package staffing

import (
	"time"

	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Tables hold the roster.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where hours are planned. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Facts    facts.Tables
	Settings *settings.Cache
	Now      func() time.Time
	Zone     *time.Location // in which days are planned
}
