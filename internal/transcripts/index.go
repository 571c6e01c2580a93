package transcripts

import (
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/search"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
)

// atOnce bounds how many logs are held in memory while they are indexed.
const atOnce = 50

// FollowerName is under which the index of words follows the feed.
const FollowerName = "transcripts"

// Index is the follower that makes ended chats found by their words.
func (room *Room) Index() chatlog.Follower {
	return chatlog.Follower{Name: FollowerName, Kinds: transcript.TextsChange, Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
		var chats []string
		for _, e := range entries {
			if !slices.Contains(chats, e.ChatID) {
				chats = append(chats, e.ChatID)
			}
		}
		for some := range slices.Chunk(chats, atOnce) {
			if err := room.index(ctx, tx, some); err != nil {
				return err
			}
		}
		return nil
	}}
}

// index stores what chats are found by, of those that have ended.
func (room *Room) index(ctx context.Context, tx pgx.Tx, chatIDs []string) error {
	logs, err := chatlog.WholeLogs(ctx, tx, chatIDs)
	if err != nil {
		return err
	}
	var all pgx.Batch
	for id, log := range logs {
		state, err := chat.Fold(log)
		if err != nil {
			// One damaged log must not keep all others from being found; what it was found by
			// may be what was erased.
			room.Log.Error("a chat is not found by any search: its log cannot be read", "chat", id, "error", err)
			all.Queue("delete from chat_search where chat_id = $1", id)
			continue
		}
		if state.Phase == chat.Over {
			all.Queue(`insert into chat_search (chat_id, words) values ($1, $2::text::tsvector)
				on conflict (chat_id) do update set words = excluded.words`, id, search.TSVector(transcript.Texts(state, log)))
		}
	}
	if all.Len() == 0 {
		return nil
	}
	return tx.SendBatch(ctx, &all).Close()
}

// Reindex makes ended chats found by the words that are left of them.
func (room *Room) Reindex(ctx context.Context, tx pgx.Tx, chatIDs []string) error {
	return room.index(ctx, tx, chatIDs)
}
