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
	Replica  *store.Replica // where facts are read
	Settings *settings.Cache
	Now      func() time.Time
	Zone     *time.Location // in which days are planned
}

// reading returns where facts are read: they need not be of this very moment.
func (room *Room) reading() facts.Tables { return facts.On(room.Replica.Reader()) }
