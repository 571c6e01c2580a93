// Package desk is the room of what an operator's console shows: the snapshot that
// it starts from, a chat with its log, the figures of the status strip, and how
// its owner wants it.
package desk

import (
	"context"
	"time"

	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Floor is where it is known who is there.
type Floor interface {
	// Team returns the team as it stands.
	Team(ctx context.Context) ([]view.OperatorView, error)
	// Within returns how many chats of today are decided against the answer target, and
	// how many of these were taken within it.
	Within(ctx context.Context) (within, decided int64, err error)
}

// People is who is behind a chat.
type People interface {
	// EarlierChats returns the other chats of the same person, newest first.
	EarlierChats(ctx context.Context, visitorID, withoutID string) ([]chatlog.Chat, error)
}

// Tables are what the room asks of the chats' projection.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is the Desk. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Visits   visits.Tables
	Floor    Floor
	People   People
	Now      func() time.Time
	Zone     *time.Location // in which a day begins for the team
}
