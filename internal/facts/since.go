package facts

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Did is what an operator did in some chats that ended.
type Did struct {
	Ended   int // chats that they held
	Replies int // turns of the visitor that they answered
	OnTime  int // of these, within the target
}

// OperatorsSince returns what operators did in the chats that came since a time and ended,
// by their id. Messages left are none of them.
func (t Tables) OperatorsSince(ctx context.Context, since time.Time) (map[string]Did, error) {
	rows, err := t.Pool().Query(ctx, `select operator_id::text, count(*) filter (where not guest), coalesce(sum(replies), 0), coalesce(sum(on_time), 0)
		from fact_operators where arrived_at >= $1 and live group by 1`, since)
	if err != nil {
		return nil, err
	}
	out := map[string]Did{}
	var id string
	var d Did
	_, err = pgx.ForEachRow(rows, []any{&id, &d.Ended, &d.Replies, &d.OnTime}, func() error {
		out[id] = d
		return nil
	})
	return out, err
}
