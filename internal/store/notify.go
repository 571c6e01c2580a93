package store

import (
	"context"
	"strings"
	"time"
)

// channel is that over which servers on one database tell each other that
// something changed. A notice is sent when its transaction commits.
const channel = "stoop"

// SettingsChanged is the notice that something of the set-up changed. What other
// notices there are, the rooms say that send them.
const SettingsChanged = "settings"

// EverythingChanged is heard when notices may have been missed: nothing that is
// remembered can be relied on.
const EverythingChanged = "everything"

// Notify tells all servers that something changed.
func (s *Store) Notify(ctx context.Context, notice string) error {
	_, err := s.pool.Exec(ctx, "select pg_notify($1, $2)", channel, s.signed(notice))
	return err
}

// signed puts the server's own name behind a notice.
func (s *Store) signed(notice string) string { return notice + " " + s.Node }

// Listen calls heard for every notice of others until the context ends. Each
// time it has begun to listen, it calls heard with EverythingChanged: what was
// said before that is not known. It needs a connection of its own.
func (s *Store) Listen(ctx context.Context, heard func(notice string), failed func(error)) {
	for ctx.Err() == nil {
		if err := s.listenOnce(ctx, heard); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(500 * time.Millisecond):
		}
	}
}

func (s *Store) listenOnce(ctx context.Context, heard func(string)) error {
	c, err := s.Connect(ctx)
	if err != nil {
		return err
	}
	defer c.Close(context.WithoutCancel(ctx))
	if _, err := c.Exec(ctx, "listen "+channel); err != nil {
		return err
	}
	heard(EverythingChanged)
	for {
		n, err := c.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		at := strings.LastIndexByte(n.Payload, ' ')
		if at < 0 {
			heard(n.Payload)
		} else if n.Payload[at+1:] != s.Node {
			heard(n.Payload[:at])
		}
	}
}
