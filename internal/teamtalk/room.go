// Package teamtalk is the room in which the team talks among themselves. It is
// kept apart from visitors' chats: nothing of it is in a transcript, a search or
// a report.
package teamtalk

import (
	"time"

	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Live is whom the room tells.
type Live interface {
	ToOperator(operatorID string, message any)
}

// Tables are those of the team's rooms and their messages.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where the team talks. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Settings *settings.Cache
	Live     Live
	Now      func() time.Time
}
