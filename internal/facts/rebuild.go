package facts

import (
	"context"
	"fmt"
	"log/slog"

	"github.com/jackc/pgx/v5"

	"stoop/internal/setup/settings"
)

// rebuiltAtOnce is how many chats are measured in one transaction: few enough that
// nobody waits for it, and who is killed loses little.
const rebuiltAtOnce = 500

// Rebuild writes the facts of all ended chats anew from their logs, newest first, and
// tells after each part how far it is. It may run while servers do, and be killed and
// begun again: facts are right at any moment, those that it has not reached by the
// definitions of before. Facts of chats whose logs are gone stay as they are.
func (t Tables) Rebuild(ctx context.Context, s *settings.Settings, log *slog.Logger, progress func(done, total int64)) error {
	var total, done int64
	if err := t.Pool().QueryRow(ctx, "select count(*) from chats where phase = 'ended'").Scan(&total); err != nil {
		return err
	}
	last := "ffffffff-ffff-ffff-ffff-ffffffffffff"
	for {
		ids, err := t.IDs(ctx, "select id::text from chats where phase = 'ended' and id < $1 order by id desc limit $2", last, rebuiltAtOnce)
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			break
		}
		err = pgx.BeginFunc(ctx, t.Pool(), func(tx pgx.Tx) error { return follow(ctx, tx, Rules(s), ids, false, log) })
		if err != nil {
			return fmt.Errorf("rebuilding the facts: %w", err)
		}
		done, last = done+int64(len(ids)), ids[len(ids)-1]
		progress(done, total)
	}
	return t.RecountAll(ctx)
}

// RecountAll counts all quarters of an hour anew, on a connection whose statements may
// take their time.
func (t Tables) RecountAll(ctx context.Context) error {
	err := pgx.BeginFunc(ctx, t.Pool(), func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "set local statement_timeout = 0"); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock($1)", lock); err != nil {
			return err
		}
		return recountAll(ctx, tx)
	})
	if err != nil {
		return fmt.Errorf("counting quarters of an hour: %w", err)
	}
	return nil
}
