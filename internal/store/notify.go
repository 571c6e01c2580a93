package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// channel is that over which servers on one database tell each other that
// something changed. A notice is sent when its transaction commits.
const channel = "stoop"

// The notices.
const (
	SettingsChanged = "settings"
	TeamChanged     = "team"  // who is there, or who wants chats
	QueueChanged    = "queue" // who waits
	CannedChanged   = "canned"
)

// Notify tells all servers that something changed.
func (s *Store) Notify(ctx context.Context, notice string) error {
	_, err := s.pool.Exec(ctx, "select pg_notify($1, $2)", channel, notice)
	return err
}

// Listen calls heard for every notice until the context ends, and for
// SettingsChanged each time it had to connect anew: notices may have been
// missed. It needs a connection of its own.
func (s *Store) Listen(ctx context.Context, heard func(notice string), failed func(error)) {
	for ctx.Err() == nil {
		if err := s.listenOnce(ctx, heard); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(500 * time.Millisecond):
			heard(SettingsChanged)
		}
	}
}

func (s *Store) listenOnce(ctx context.Context, heard func(string)) error {
	c, err := pgx.ConnectConfig(ctx, s.pool.Config().ConnConfig.Copy())
	if err != nil {
		return err
	}
	defer c.Close(context.WithoutCancel(ctx))
	if _, err := c.Exec(ctx, "listen "+channel); err != nil {
		return err
	}
	for {
		n, err := c.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		heard(n.Payload)
	}
}
