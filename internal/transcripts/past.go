package transcripts

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/search"
	"stoop/core/transcript"
)

// AddPast makes chats that are taken in from elsewhere found by their words: their logs,
// by their ids.
func AddPast(ctx context.Context, tx pgx.Tx, logs map[string][]chat.Event) error {
	ids, vectors := make([]string, 0, len(logs)), make([]string, 0, len(logs))
	for id, log := range logs {
		state, err := chat.Fold(log)
		if err != nil {
			return err
		}
		ids, vectors = append(ids, id), append(vectors, search.TSVector(transcript.Texts(state, log)))
	}
	_, err := tx.Exec(ctx, "insert into chat_search (chat_id, words) select id, words::tsvector from unnest($1::uuid[], $2::text[]) as t(id, words)", ids, vectors)
	return err
}
