package chatlog

import (
	"context"
	"fmt"
	"slices"

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
	return a.StartWith(ctx, c, events, nil, nil)
}

// Receiver stores a chat of somebody who has just arrived, and may hand it out with
// that. What it returns are the chat with its events; or else the visitor's open
// chat, with opened false, as by Start.
type Receiver interface {
	Receive(ctx context.Context, c Chat, lastOperator string, state chat.State, events []chat.Event) (stored Chat, all []chat.Event, opened bool, err error)
	// Done is called when the chat was received, or will not be.
	Done()
}

// StartWith is Start with statements ahead and along, as an Act has them.
func (a *Log) StartWith(ctx context.Context, c Chat, events []chat.Event, ahead, along []Statement) (stored Chat, opened bool, err error) {
	d, err := starting(c, events)
	if err != nil {
		return Chat{}, false, err
	}
	a.readyMeanwhile(d)
	stored, opened, err = a.Tables.start(ctx, d, ahead, along)
	if opened {
		s := a.shardOf(stored.ID)
		a.wakeFor(events)
		s.held.ContainsOrAdd(stored.ID, &stored) // spares the first act reading it
		s.toTell(a.teller(d))
		a.tellNews(s)
	}
	return stored, opened, err
}

// Start is that of a Log, told to nobody.
func (s Tables) Start(ctx context.Context, c Chat, events []chat.Event) (stored Chat, opened bool, err error) {
	d, err := starting(c, events)
	if err != nil {
		return Chat{}, false, err
	}
	return s.start(ctx, d, nil, nil)
}

// starting is the draft of a new chat.
func starting(c Chat, events []chat.Event) (*draft, error) {
	state, err := chat.Fold(events)
	if err != nil {
		return nil, err
	}
	if c.Answers == nil {
		c.Answers = form.Answers{}
	}
	d := &draft{after: c.advance(state, events), events: events}
	d.state, err = state.Encode()
	return d, err
}

func (s Tables) start(ctx context.Context, d *draft, ahead, along []Statement) (stored Chat, opened bool, err error) {
	start := Statement{addStart, append(ones(chatFields(startChange), d), manies(actEvent, toRows(d.after.ID, d.events))...)}
	switch err = send(ctx, s.Pool(), slices.Concat(ahead, []Statement{start}, along)); {
	case err == nil:
		return d.after, true, nil
	case isRefusal(err):
		return Chat{}, false, ErrRefused
	}
	if !store.IsUnique(err, "chats_one_open") && !store.IsUnique(err, "chats_visitor_id_start_client_id_key") {
		return Chat{}, false, fmt.Errorf("storing the chat: %w", err)
	}
	var there Chat
	err = s.Query(ctx).
		Where("visitor_id = ? and (start_client_id = ? or phase <> 'ended')", d.after.VisitorID, d.after.StartClientID).
		Order(gorm.Expr("start_client_id = ? desc", d.after.StartClientID)).Take(&there).Error
	return there, false, store.NotFound(err)
}
