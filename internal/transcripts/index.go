package transcripts

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
)

// Index is the follower that makes ended chats found by their words.
func (room *Room) Index() chatlog.Follower {
	return chatlog.Follower{Name: "transcripts", Kinds: transcript.WordsChange, Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
		done := map[string]bool{}
		for _, e := range entries {
			if done[e.ChatID] {
				continue
			}
			done[e.ChatID] = true
			if err := index(ctx, tx, e.ChatID); err != nil {
				return fmt.Errorf("indexing chat %s: %w", e.ChatID, err)
			}
		}
		return nil
	}}
}

// index stores what a chat is found by, if it has ended.
func index(ctx context.Context, tx pgx.Tx, chatID string) error {
	log, err := chatlog.WholeLog(ctx, tx, chatID)
	if err != nil {
		return err
	}
	state, err := chat.Fold(log)
	if err != nil || state.Phase != chat.Over {
		return err
	}
	_, err = tx.Exec(ctx, `insert into chat_search (chat_id, words) values ($1, search_words($2))
		on conflict (chat_id) do update set words = excluded.words`, chatID, transcript.Words(state, log))
	return err
}
