package chatlog

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"

	"stoop/core/chat"
)

// Past is a chat that is over, with its whole log.
type Past struct {
	Chat   Chat
	Events []chat.Event
	Marks  chat.Marks
}

// AddPast stores many chats that are over, as they were lived elsewhere, in a
// transaction. They stand before the beginning of the feed: a follower that is there
// already is not led through them, and whoever adds them sees to it that what followers
// would have made of them is there. One that is new finds them.
func AddPast(ctx context.Context, tx pgx.Tx, past []Past) error {
	chats := chatFields(startChange)
	before := []field[Event]{
		of("generation", "smallint", func(Event) int16 { return 0 }),
		of("xid", "xid8", func(Event) uint64 { return 0 }),
	}
	events := append(append([]field[Event]{}, actEvent...), before...)
	var chatRows, eventRows, markRows [][]any
	for _, p := range past {
		d, err := starting(p.Chat, p.Events)
		if err != nil {
			return fmt.Errorf("a chat of the past: %w", err)
		}
		if d.after.Phase != chat.Over {
			return fmt.Errorf("a chat of the past is not over: %s", p.Chat.ID)
		}
		chatRows = append(chatRows, copied(chats, d))
		for _, row := range toRows(p.Chat.ID, p.Events) {
			eventRows = append(eventRows, copied(events, row))
		}
		m := p.Marks
		markRows = append(markRows, []any{p.Chat.ID, m.ByVisitor.Delivered, m.ByVisitor.Seen, m.ByTeam.Delivered, m.ByTeam.Seen})
	}
	for _, table := range []struct {
		name    string
		columns []string
		rows    [][]any
	}{
		{"chats", columnNames(chats), chatRows},
		{"events", columnNames(events), eventRows},
		{"marks", []string{"chat_id", "visitor_delivered", "visitor_seen", "team_delivered", "team_seen"}, markRows},
	} {
		if _, err := tx.CopyFrom(ctx, pgx.Identifier{table.name}, table.columns, pgx.CopyFromRows(table.rows)); err != nil {
			return fmt.Errorf("storing %s of the past: %w", table.name, err)
		}
	}
	return nil
}

// copied returns the values of a row as the driver copies them at once: it tries ids in
// vain before it reads their text.
func copied[R any](fields []field[R], row R) []any {
	values := ones(fields, row)
	for i, f := range fields {
		if f.kind != "uuid" {
			continue
		}
		text, ok := values[i].(string)
		if pointed, is := values[i].(*string); is && pointed != nil {
			text, ok = *pointed, true
		}
		if parsed, err := uuid.Parse(text); ok && err == nil {
			values[i] = pgtype.UUID{Bytes: parsed, Valid: true}
		}
	}
	return values
}

func columnNames[R any](fields []field[R]) []string {
	return column(fields, func(f field[R]) string { return f.name })
}
