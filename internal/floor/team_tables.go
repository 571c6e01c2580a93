package floor

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/internal/chatlog"
)

// SetAvailable stores an operator's own word on taking new chats.
func (s Tables) SetAvailable(ctx context.Context, operatorID string, available bool) error {
	_, err := s.Pool().Exec(ctx, `insert into availability (operator_id, available) values ($1, $2)
		on conflict (operator_id) do update set available = excluded.available, away_why = '', passes = 0`, operatorID, available)
	return err
}

// SetReachable notes who can be told on a device, and nobody else, and reports whether that
// changed.
func (s Tables) SetReachable(ctx context.Context, operatorIDs []string) (changed bool, err error) {
	var noted int
	err = s.Pool().QueryRow(ctx, `with told as (select unnest($1::uuid[]) as id),
		more as (insert into availability as a (operator_id, reachable) select id, true from told on conflict (operator_id) do update set reachable = true where not a.reachable returning 1),
		fewer as (update availability set reachable = false where reachable and operator_id not in (select id from told) returning 1)
		select (select count(*) from more) + (select count(*) from fewer)`, operatorIDs).Scan(&noted)
	return noted > 0, err
}

// SetAwayFor sets somebody away who is still without a connection, and says why. It reports
// whether they were available.
func (s Tables) SetAwayFor(ctx context.Context, operatorID, why string) (bool, error) {
	done, err := s.Pool().Exec(ctx, "update availability set available = false, away_why = $2 where operator_id = $1 and available and not "+isConnected("operator_id"), operatorID, why)
	return done.RowsAffected() > 0, err
}

// countPass adds to the offers that an operator let by one after the other,
// sets them away when they reach the limit, and reports whether that happened.
func countPass(ctx context.Context, tx pgx.Tx, operatorID string, limit int, why string) (setAway bool, err error) {
	err = tx.QueryRow(ctx, `insert into availability as a (operator_id, passes) values ($1, 1)
		on conflict (operator_id) do update set passes = a.passes + 1,
			available = a.available and a.passes + 1 < $2,
			away_why = case when a.available and a.passes + 1 >= $2 then $3 else a.away_why end
		returning passes >= $2 and away_why = $3`, operatorID, limit, why).Scan(&setAway)
	return setAway, err
}

// ForgetPasses begins the count of an operator's passes anew, along with an act.
func (room *Room) ForgetPasses(operatorID string) chatlog.Statement {
	return chatlog.Statement{SQL: "update availability set passes = 0 where operator_id = $1 and passes > 0", Args: []any{operatorID}}
}
