package channel

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/store"
)

// pauses are between the tries to carry something. Words that come an hour late answer nothing
// that anybody still asks: then it is put down that they did not come.
var pauses = []time.Duration{5 * time.Second, 15 * time.Second, time.Minute, 4 * time.Minute, 15 * time.Minute, 30 * time.Minute}

// triedFor is how old something may become that could not be carried: it may have waited for what
// was before it.
const triedFor = time.Hour

// patience is how long a carrier may take for one try.
const patience = 20 * time.Second

var (
	errNoCarrier = &carrier.RefusedError{Why: "Nothing is connected that carries messages of this kind."}
	errStopped   = &carrier.RefusedError{Why: "They want no more text messages."}
)

// carryOne carries something that is due, or puts down why it could not.
func (room *Room) carryOne(ctx context.Context, o outgoing) error {
	w, said, err := room.wordsOf(ctx, o)
	if errors.Is(err, store.ErrNotFound) || err == nil && w.Text == "" && w.Number == 0 {
		return room.done(ctx, o) // erased or taken back meanwhile: there is nothing to carry
	}
	if err != nil {
		return err
	}
	err = room.carry(ctx, o, w, said)
	if ctx.Err() != nil {
		return nil // the server stops: another carries it again
	}
	if err == nil {
		return room.done(ctx, o)
	}
	return room.failed(ctx, o, err)
}

// wordsOf returns what is to be carried, and when it was said; nothing, if it was taken back.
func (room *Room) wordsOf(ctx context.Context, o outgoing) (w carrier.Words, said time.Time, err error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return w, said, err
	}
	w = carrier.Words{ID: o.ID, To: o.Address, Text: o.Words}
	for _, l := range s.Channels.Lines {
		if l.ID == o.LineID {
			w.From = l.Address
		}
	}
	if o.ChatID == nil {
		return w, o.CreatedAt, nil
	}
	if w.ChatID = *o.ChatID; o.Number == 0 {
		return w, o.CreatedAt, nil
	}
	c, err := room.Chats.Chat(ctx, *o.ChatID)
	if err != nil {
		return w, said, err
	}
	e, err := room.Chats.Event(ctx, c.ID, o.Number)
	if err != nil || slices.Contains(c.State.TakenBack, e.Number) {
		return w, said, err
	}
	w.Number, w.Text = e.Number, outwardText(e)
	return w, e.At, nil
}

// outwardText returns words as a text message says them.
func outwardText(e chat.Event) string {
	text := e.Text
	if e.Detail != nil && e.Detail.Translation != nil {
		text = e.Detail.Translation.Text
	}
	return channel.Plain(text)
}

// carry carries words once. To whoever wants none goes nothing, and nothing that was said before
// they wanted none: it may have come into the queue later, and they may want words again by now.
func (room *Room) carry(ctx context.Context, o outgoing, w carrier.Words, said time.Time) error {
	by := room.Carriers[o.Kind]
	if by == nil {
		return errNoCarrier
	}
	if o.Kind == channel.Text && o.Number > 0 {
		stopped, err := room.Tables.stoppedSince(ctx, o.LineID, room.digest(o.LineID, o.Address), said)
		if err != nil {
			return err
		}
		if stopped {
			return errStopped
		}
	}
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return by.Carry(ctx, w)
}

func (room *Room) done(ctx context.Context, o outgoing) error {
	now := room.Now()
	o.DoneAt, o.NextAt = &now, now
	return room.Tables.carried(ctx, o)
}

// failed puts down that a try came to nothing: it is tried again after a pause, or those who wrote
// the words learn that they did not come.
func (room *Room) failed(ctx context.Context, o outgoing, failure error) error {
	now := room.Now()
	o.Why = chat.CleanLine(failure.Error(), whyMost)
	var refused *carrier.RefusedError
	if !errors.As(failure, &refused) && o.Tries <= len(pauses) && now.Sub(o.CreatedAt) < triedFor {
		o.NextAt = now.Add(pauses[o.Tries-1])
		return room.Tables.carried(ctx, o)
	}
	o.DoneAt, o.Failed, o.NextAt = &now, true, now
	if refused == nil {
		room.Log.Warn("words were given up that could not be carried", "kind", o.Kind, "tries", o.Tries, "error", failure)
		o.Why = "It was tried for an hour in vain."
	}
	if err := room.notDelivered(ctx, o, o.Why); err != nil {
		return err // it is carried again when the lease is over, and fails again
	}
	return room.Tables.carried(ctx, o)
}

// whyMost bounds why something could not be carried, in code points.
const whyMost = 300

// notDelivered says in the chat that words did not come.
func (room *Room) notDelivered(ctx context.Context, o outgoing, why string) error {
	if o.ChatID == nil || o.Number == 0 {
		return nil
	}
	e, err := room.Chats.Event(ctx, *o.ChatID, o.Number)
	if err != nil {
		return store.IgnoreMissing(err)
	}
	if e.Detail == nil || e.Detail.Over == nil {
		way := chat.Way{Kind: o.Kind}
		e.Detail = &chat.Detail{Over: &way} // said on the site, and sent after the visitor
	}
	_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: *o.ChatID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.NotDelivered(e, why, room.Now()), nil
	}})
	return chatlog.Overlooked(err)
}

// Received puts down what became of a text message: why it was not delivered, or nothing. What is
// not known any more, or was told before, changes nothing.
func (room *Room) Received(ctx context.Context, id string, delivered bool, why string) error {
	o, err := room.Tables.outgoing(ctx, id)
	if err != nil {
		return store.IgnoreMissing(err)
	}
	if !delivered {
		return room.notDelivered(ctx, o, strings.TrimSpace(why))
	}
	if o.ChatID == nil || o.Number == 0 {
		return nil
	}
	c, err := room.Chats.Chat(ctx, *o.ChatID)
	if err != nil {
		return store.IgnoreMissing(err)
	}
	return chatlog.Overlooked(room.Chats.Receive(ctx, c.ID, chat.Visitor(c.VisitorID), chat.Delivered, o.Number))
}
