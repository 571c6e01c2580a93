package app

import (
	"context"
	"errors"
	"time"

	"stoop/core/chat"
	"stoop/internal/store"
)

// sweepEvery is how often is looked for what should have happened by now.
const sweepEvery = time.Second

// sweeps lets time go on for everybody, until the context ends. Each look goes
// over the state itself, not over what somebody meant to remember: whatever was
// missed, by whatever server, at whatever moment, the next look of any server
// finds it.
func (a *App) sweeps(ctx context.Context) {
	every(ctx, sweepEvery, func() {
		a.inTime(ctx, "who has a connection", a.recount)
		a.inTime(ctx, "offers without an answer", a.lapses)
		a.inTime(ctx, "chats of operators who are gone", a.ownersGone)
		a.inTime(ctx, "visitors who are gone", a.visitorsGone)
		a.inTime(ctx, "wrap-ups that are over", a.wrapUpsOver)
		a.inTime(ctx, "silent visitors", a.silentVisitors)
		a.inTime(ctx, "messages left", a.tellOfMessages)
		a.hoursTurned(ctx)
	})
}

func (a *App) recount(ctx context.Context) error {
	team, err := a.store.Recount(ctx, a.now())
	if err == nil && team {
		a.TeamMoved(ctx)
	}
	return err
}

// lapses ends the offers that were not answered, and brings back chats that
// nobody took who were handed on.
func (a *App) lapses(ctx context.Context) error {
	clocked, err := a.store.Clocked(ctx)
	now := a.now()
	for _, c := range clocked {
		number := int64(0)
		if o := c.State.Offered; o != nil && !o.Until.After(now) {
			number = o.Number
		} else if h := c.State.HandingOn; h != nil && !h.Until.After(now) {
			number = h.Number
		}
		if number == 0 {
			continue
		}
		err = errors.Join(err, overlooked(a.passing(ctx, store.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.Lapse(number, a.now())
		}})))
	}
	return err
}

// ownersGone puts the chats of operators back who lost their connection and did
// not return.
func (a *App) ownersGone(ctx context.Context) error {
	gone, err := a.store.GoneOwners(ctx, a.now().Add(-a.grace))
	for _, id := range gone {
		err = errors.Join(err, a.release(ctx, id, false))
	}
	return err
}

// release puts back what an operator holds, in the order of arrival. Messages
// can wait for who comes back.
func (a *App) release(ctx context.Context, operatorID string, messages bool) error {
	a.passAll(ctx, operatorID)
	held, err := a.store.ChatsHeldBy(ctx, operatorID, messages)
	for _, id := range held {
		err = errors.Join(err, a.timeOut(ctx, store.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.Release(operatorID, a.now())
		}}))
	}
	return err
}

// visitorsGone ends the waiting chats whose visitors did not return, however
// long ago they left: a chat that comes back to its queue is looked at as well.
func (a *App) visitorsGone(ctx context.Context) error {
	abandoned, err := a.store.Abandoned(ctx, a.now())
	for _, id := range abandoned {
		err = errors.Join(err, a.timeOut(ctx, store.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.Miss(a.now()) }}))
	}
	return err
}

func (a *App) wrapUpsOver(ctx context.Context) error {
	over, err := a.store.WrapUpsOver(ctx, a.now())
	for _, id := range over {
		err = errors.Join(err, a.timeOut(ctx, store.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.WrapUp(chat.House, a.now()) }}))
	}
	return err
}

func (a *App) timeOut(ctx context.Context, act store.Act) error {
	_, err := a.appender.Append(ctx, act)
	a.kick()
	return overlooked(err)
}

// overlooked takes it for done when the world has moved on.
func overlooked(err error) error {
	if isRefusal(err) || errors.Is(err, store.ErrNotFound) {
		return nil
	}
	return err
}
