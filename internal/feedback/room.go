// Package feedback is the room of what visitors say of a chat after it: the survey,
// the low ratings that a lead reads, and what all of it adds up to.
package feedback

import (
	"time"

	"stoop/internal/chatlog"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Tables are what the room asks of the chats.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where feedback is given and read. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	People   httpapi.Doorkeeper
	Now      func() time.Time
	Zone     *time.Location // in which days are counted
}
