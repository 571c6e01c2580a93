package retention

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/files"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
)

// The kinds of what is kept.
const (
	Chats       = "chats"
	Form        = "form"
	Files       = "files"
	Visits      = "visits"
	DoneTickets = "tickets"
	Person      = "person" // in the list of deletions
)

// step deletes some of a kind that was kept long enough, in a transaction, and returns how
// many, and of which chats something was erased.
type step func(ctx context.Context, tx pgx.Tx, before time.Time) (n int64, chats []string, err error)

// Each step is small, so that nobody waits for it, and who is killed loses little.
const (
	chatsAtOnce  = 100
	visitsAtOnce = 2000
	stepFor      = 30 * time.Second
)

// purgingLock is the advisory lock under which one server deletes.
const purgingLock = 0x570_0b08

// kind is a kind of what is kept, with how it goes.
type kind struct {
	name string
	days int
	step step
}

// kinds are in the order in which they go: what goes with a chat needs not go before.
// Settled says that all chats that are old enough were counted, if they can be.
func (room *Room) kinds(r settings.Retention, settled bool) []kind {
	return []kind{
		{Chats, r.Chats, func(ctx context.Context, tx pgx.Tx, before time.Time) (int64, []string, error) {
			return room.purgeChats(ctx, tx, before, settled)
		}},
		{Form, r.Form, room.purgeForm},
		{Files, r.Files, room.purgeFiles},
		{Visits, r.Visits, func(ctx context.Context, tx pgx.Tx, before time.Time) (int64, []string, error) {
			n, err := visits.Forget(ctx, tx, before, visitsAtOnce)
			return n, nil, err
		}},
		{DoneTickets, r.Tickets, func(ctx context.Context, tx pgx.Tx, before time.Time) (int64, []string, error) {
			n, err := room.Tickets.EraseBefore(ctx, tx, before, chatsAtOnce)
			return n, nil, err
		}},
	}
}

// Purge deletes what was kept as long as is set, step by step. Of several servers one does
// it at a time.
func (room *Room) Purge(ctx context.Context) error {
	// Read anew, not as it is remembered: what an admin has just decided to keep would be gone.
	r, err := settings.RetentionDocument.Read(ctx, room.Settings.Tables)
	if err != nil {
		return err
	}
	lags, err := facts.On(room.Tables.Store).Lags(ctx)
	if err != nil {
		return err
	}
	var failed []error // of one kind what fails keeps no other from going
	for _, k := range room.kinds(r, !lags) {
		if k.days == 0 {
			continue
		}
		before := room.Now().AddDate(0, 0, -k.days)
		for more := true; more && ctx.Err() == nil; {
			if more, err = room.once(ctx, k, before); err != nil {
				failed, more = append(failed, fmt.Errorf("deleting old %s: %w", k.name, err)), false
			}
		}
	}
	return errors.Join(failed...)
}

// once does one step, and puts down how many went.
func (room *Room) once(ctx context.Context, k kind, before time.Time) (more bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, stepFor)
	defer cancel()
	var chats []string
	err = pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		var mine bool
		if err := tx.QueryRow(ctx, "select pg_try_advisory_xact_lock($1)", purgingLock).Scan(&mine); err != nil || !mine {
			return err
		}
		n, of, err := k.step(ctx, tx, before)
		if err != nil || n == 0 {
			return err
		}
		more, chats = true, of
		return note(ctx, tx, k.name, room.Now(), n, nil)
	})
	if err == nil {
		room.erased(ctx, chats)
	}
	return more, err
}

// note puts down what was deleted; what goes on one day by itself is one line.
func note(ctx context.Context, tx pgx.Tx, kind string, now time.Time, n int64, by *string) error {
	if by == nil {
		done, err := tx.Exec(ctx, "update deletions set count = count + $3, at = $2 where id = (select id from deletions where kind = $1 and by_id is null and at > $2::timestamptz - interval '1 hour' order by at desc limit 1)", kind, now, n)
		if err != nil || done.RowsAffected() > 0 {
			return err
		}
	}
	_, err := tx.Exec(ctx, "insert into deletions (kind, at, count, by_id) values ($1, $2, $3, $4)", kind, now, n, by)
	return err
}

// purgeChats deletes chats. Those that are not counted yet wait until they are; once all are
// that can be, the others go too: their logs cannot be read.
func (room *Room) purgeChats(ctx context.Context, tx pgx.Tx, before time.Time, settled bool) (int64, []string, error) {
	old, err := chatlog.EndedBefore(ctx, tx, before, chatsAtOnce)
	if err != nil || len(old) == 0 {
		return 0, nil, err
	}
	counted, err := facts.Gone(ctx, tx, old)
	if err != nil {
		return 0, nil, err
	}
	gone := counted
	if settled {
		gone = old
	}
	n, err := chatlog.Erase(ctx, tx, gone)
	return n, gone, err
}

// purgeForm takes away what visitors told of themselves, from where the search finds it too.
func (room *Room) purgeForm(ctx context.Context, tx pgx.Tx, before time.Time) (int64, []string, error) {
	old, err := chatlog.WithFormBefore(ctx, tx, before, chatsAtOnce)
	if err != nil || len(old) == 0 {
		return 0, nil, err
	}
	if err := chatlog.EraseForm(ctx, tx, old); err != nil {
		return 0, nil, err
	}
	if err := register.EraseForm(ctx, tx, old); err != nil {
		return 0, nil, err
	}
	return int64(len(old)), old, room.Transcripts.Reindex(ctx, tx, old)
}

func (room *Room) purgeFiles(ctx context.Context, tx pgx.Tx, before time.Time) (int64, []string, error) {
	old, err := files.Before(ctx, tx, before, room.Now(), chatsAtOnce)
	if err != nil || len(old) == 0 {
		return 0, nil, err
	}
	places := make([]chatlog.FileAt, len(old))
	for i, f := range old {
		places[i] = chatlog.FileAt{ChatID: *f.ChatID, Number: f.Number}
	}
	return int64(len(old)), nil, chatlog.FilesGone(ctx, tx, places)
}
