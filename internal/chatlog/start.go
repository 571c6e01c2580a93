package chatlog

import (
	"context"
	"fmt"

	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// addStart stores a chat with its first events.
var addStart = "with started as (insert into chats (" + names(chatFields(startChange), "") + ") values (" + parameters(chatFields(startChange), 1) + ")) " +
	insertMany(actEvent, 1+len(chatFields(startChange)))

// Start stores a new chat with its first events, and tells it. The visitor's
// client id makes it idempotent; when the visitor has an open chat already, that
// one is returned with opened false and nothing is stored.
func (a *Log) Start(ctx context.Context, c Chat, events []chat.Event) (stored Chat, opened bool, err error) {
	stored, opened, err = a.Tables.Start(ctx, c, events)
	if opened {
		s := a.shardOf(stored.ID)
		a.wakeFor(events)
		s.held.ContainsOrAdd(stored.ID, &stored) // spares the first act reading it
		s.toTell(func() { a.ready(Result{Chat: stored, Events: events})() })
		a.tellNews(s)
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
	d := &draft{after: c.advance(state, events), events: events}
	if d.state, err = d.after.State.Encode(); err != nil {
		return Chat{}, false, err
	}
	values := append(ones(chatFields(startChange), d), manies(actEvent, toRows(c.ID, events))...)
	if _, err = s.Pool().Exec(ctx, addStart, values...); err == nil {
		return d.after, true, nil
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
