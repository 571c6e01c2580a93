// Package reports is the room of what all chats of a period add up to: how many came,
// when, how fast they were answered, by whom, what about, and what they brought.
package reports

import (
	"log/slog"
	"time"

	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Room is where reports are read. Its methods are safe for concurrent use.
type Room struct {
	Facts    facts.Tables
	Replica  *store.Replica // where facts are read
	Settings *settings.Cache
	Post     Post
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // in which days are counted, unless another is asked for
}

// reading returns where facts are read: they need not be of this very moment.
func (room *Room) reading() facts.Tables { return facts.On(room.Replica.Reader()) }
