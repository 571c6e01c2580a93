package facts

import (
	"context"
	"fmt"
	"log/slog"
	"slices"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// FollowerName is under which the facts follow the feed.
const FollowerName = "facts"

// lock is the advisory lock under which facts are written: by the follower, and by who
// rebuilds them.
const lock = 0x570_0b04

// atOnce bounds how many logs are held in memory while they are measured.
const atOnce = 100

// Follower keeps the facts of chats that end, and of those that are rated, tagged or
// concluded after it.
func Follower(cache *settings.Cache, log *slog.Logger) chatlog.Follower {
	// The settings are read before a transaction holds a connection: of few there might be
	// none left to read them by.
	var rules measure.Rules
	ready := func(ctx context.Context) error {
		s, err := cache.Get(ctx)
		if err == nil {
			rules = Rules(s)
		}
		return err
	}
	return chatlog.Follower{Name: FollowerName, Kinds: late, Ready: ready, Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
		var chats []string
		for _, e := range entries {
			if !slices.Contains(chats, e.ChatID) {
				chats = append(chats, e.ChatID)
			}
		}
		for some := range slices.Chunk(chats, atOnce) {
			if err := follow(ctx, tx, rules, some, true, log); err != nil {
				return err
			}
		}
		return nil
	}}
}

// follow writes the facts of some chats anew, of those that are over. The quarters of
// an hour that they touch are counted anew if that is wanted; otherwise by whoever
// writes the facts of all.
func follow(ctx context.Context, tx pgx.Tx, rules measure.Rules, chatIDs []string, quarters bool, log *slog.Logger) error {
	if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock($1)", lock); err != nil {
		return err
	}
	of, err := describe(ctx, tx, chatIDs)
	if err != nil {
		return err
	}
	logs, err := chatlog.WholeLogs(ctx, tx, chatIDs)
	if err != nil {
		return err
	}
	var chats, operators [][]any
	var over []string
	for _, one := range of {
		c, err := measure.Of(logs[one.ChatID], rules)
		if err != nil {
			if state, foldErr := chat.Fold(logs[one.ChatID]); foldErr == nil && state.Phase != chat.Over {
				continue
			}
			// One damaged log must not keep all other figures from going on.
			log.Error("a chat is not in any report: its log cannot be read", "chat", one.ChatID, "error", err)
			continue
		}
		over = append(over, one.ChatID)
		chats = append(chats, chatRow(one, c))
		operators = append(operators, operatorRows(one, c)...)
	}
	if len(over) == 0 {
		return nil
	}
	touched, err := touchedBy(ctx, tx, quarters, over)
	if err != nil {
		return err
	}
	for _, table := range []string{"fact_operators", "fact_chats"} {
		if _, err := tx.Exec(ctx, "delete from "+table+" where chat_id = any($1::uuid[])", over); err != nil {
			return err
		}
	}
	if err := add(ctx, tx, chats, operators); err != nil {
		return err
	}
	after, err := touchedBy(ctx, tx, quarters, over)
	if err != nil {
		return err
	}
	return recount(ctx, tx, slices.Concat(touched, after))
}

// describe reads what facts need besides the logs.
func describe(ctx context.Context, tx pgx.Tx, chatIDs []string) ([]Of, error) {
	rows, err := tx.Query(ctx, "select id::text, widget_id::text, visitor_id::text, language from chats where id = any($1::uuid[]) order by id", chatIDs)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Of])
}

// add adds rows of chats and of those who took part in them.
func add(ctx context.Context, tx pgx.Tx, chats, operators [][]any) error {
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"fact_chats"}, chatColumns, pgx.CopyFromRows(chats)); err != nil {
		return fmt.Errorf("storing the facts of chats: %w", err)
	}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"fact_operators"}, operatorColumns, pgx.CopyFromRows(operators)); err != nil {
		return fmt.Errorf("storing the facts of operators: %w", err)
	}
	return nil
}
