package chatlog

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// Start stores a new chat with its first events, and tells it. The visitor's
// client id makes it idempotent; when the visitor has an open chat already, that
// one is returned with opened false and nothing is stored.
func (a *Log) Start(ctx context.Context, c Chat, events []chat.Event) (stored Chat, opened bool, err error) {
	stored, opened, err = a.Tables.Start(ctx, c, events)
	if opened {
		s := a.shardOf(stored.ID)
		a.wakeFor(events)
		s.held.ContainsOrAdd(stored.ID, stored) // spares the first act reading it
		a.tellLater(s, func() { a.tell(Result{Chat: stored, Events: events}) })
	}
	return stored, opened, err
}

// Start is that of a Log, told to nobody.
func (s Tables) Start(ctx context.Context, c Chat, events []chat.Event) (stored Chat, opened bool, err error) {
	state, err := chat.Fold(events)
	if err != nil {
		return Chat{}, false, err
	}
	if c.Answers == nil {
		c.Answers = form.Answers{}
	}
	c = c.advance(state, events)
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
		rows := make([]Event, len(events))
		for i, e := range events {
			rows[i] = toRow(c.ID, e)
		}
		return tx.Create(&rows).Error
	})
	if err == nil {
		return c, true, nil
	}
	if !store.IsUnique(err, "chats_one_open") && !store.IsUnique(err, "chats_visitor_id_start_client_id_key") {
		return Chat{}, false, fmt.Errorf("storing the chat: %w", err)
	}
	var there Chat
	err = s.Query(ctx).
		Where("visitor_id = ? and (start_client_id = ? or phase <> 'ended')", c.VisitorID, c.StartClientID).
		Order(gorm.Expr("start_client_id = ? desc", c.StartClientID)).Take(&there).Error
	return there, false, store.NotFound(err)
}
