package facts

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// Gone says of chats that their transcripts are about to be deleted, and whose they were
// is not known any more. What was counted of them stays. It returns those that were
// counted: the others must wait until they are.
func Gone(ctx context.Context, tx pgx.Tx, chatIDs []string) ([]string, error) {
	// Whoever counts them anew at this moment must not write them as they were.
	if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock($1)", lock); err != nil {
		return nil, err
	}
	rows, err := tx.Query(ctx, "update fact_chats set gone = true, visitor_id = '00000000-0000-0000-0000-000000000000' where chat_id = any($1::uuid[]) returning chat_id::text", chatIDs)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
