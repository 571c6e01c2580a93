package tickets

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/ticket"
)

// ofPerson is which tickets are somebody's: of their browsers, or under their email.
const ofPerson = "(visitor_id = any($1::uuid[]) or $2 <> '' and lower(email) = lower($2))"

// CountOf counts the tickets of a person.
func (room *Room) CountOf(ctx context.Context, visitorIDs []string, email string) (n int64, err error) {
	return n, room.Tables.Pool().QueryRow(ctx, "select count(*) from tickets where "+ofPerson, visitorIDs, email).Scan(&n)
}

// EraseOf deletes the tickets of a person, as part of a transaction.
func (room *Room) EraseOf(ctx context.Context, tx pgx.Tx, visitorIDs []string, email string) error {
	_, err := tx.Exec(ctx, "delete from tickets where "+ofPerson, visitorIDs, email)
	return err
}

// doneBefore is which tickets were done before a time ($1). One that was merged is read in the one
// in which it goes on, so it is kept as long as that one is, however long the chain.
const doneBefore = `status = 'done' and done_at < $1 and id not in (
	with recursive kept(id) as (
		select id from tickets where status <> 'done' or done_at >= $1
		union select t.id from tickets t join kept on t.merged and t.state->'mergedInto'->>'id' = kept.id::text
	) select id from kept)`

// EraseBefore deletes tickets that were done before a time, as part of a transaction, up to so
// many, and returns how many.
func (room *Room) EraseBefore(ctx context.Context, tx pgx.Tx, before time.Time, atMost int) (int64, error) {
	done, err := tx.Exec(ctx, "delete from tickets where id in (select id from tickets where "+doneBefore+" order by done_at limit $2)", before, atMost)
	return done.RowsAffected(), err
}

// CountBefore counts the tickets that were done before a time.
func (room *Room) CountBefore(ctx context.Context, before time.Time) (n int64, err error) {
	return n, room.Tables.Pool().QueryRow(ctx, "select count(*) from tickets where "+doneBefore, before).Scan(&n)
}

// OfPerson returns the tickets of a person, with their logs.
func (room *Room) OfPerson(ctx context.Context, visitorIDs []string, email string) (list []ticket.Ticket, logs [][]ticket.Event, err error) {
	rows, err := room.Tables.Pool().Query(ctx, "select id::text from tickets where "+ofPerson+" order by number", visitorIDs, email)
	if err != nil {
		return nil, nil, err
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, nil, err
	}
	for _, id := range ids {
		t, log, err := room.ForMail(ctx, id)
		if err != nil {
			return nil, nil, err
		}
		list, logs = append(list, t), append(logs, log)
	}
	return list, logs, nil
}
