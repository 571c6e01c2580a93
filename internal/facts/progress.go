package facts

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/internal/store"
)

// Loading is how far it is to take chats in from elsewhere: until then, figures tell of a
// part of them.
type Loading struct {
	Done  int64 `json:"done"`
	Total int64 `json:"total"`
}

// loading is the name of that in the table of progress.
const loading = "past"

// SayLoading notes how far it is; done and total alike mean that it is over.
func (t Tables) SayLoading(ctx context.Context, l Loading) error {
	if l.Done >= l.Total {
		_, err := t.Pool().Exec(ctx, "delete from progress where name = $1", loading)
		return err
	}
	_, err := t.Pool().Exec(ctx, "insert into progress (name, done, total) values ($1, $2, $3) on conflict (name) do update set done = excluded.done, total = excluded.total, at = now()", loading, l.Done, l.Total)
	return err
}

// Loading returns how far it is, or nil when nothing is taken in. What was not heard of
// for a minute has died.
func (t Tables) Loading(ctx context.Context) (*Loading, error) {
	var l Loading
	err := t.Pool().QueryRow(ctx, "select done, total from progress where name = $1 and at > now() - interval '1 minute'", loading).Scan(&l.Done, &l.Total)
	if err == pgx.ErrNoRows {
		return nil, nil
	}
	return &l, store.IgnoreNoRows(err)
}
