package app

import (
	"context"
	"errors"

	"stoop/core/chat"
	"stoop/internal/jobs"
	"stoop/internal/store"
)

// The methods in this file are jobs.Handler: what happens when time is over.
// Each looks whether there is still something to do, since a job may come late
// or twice.

// Lapse ends an offer that was not answered.
func (a *App) Lapse(ctx context.Context, j jobs.Lapse) error {
	return overlooked(a.passing(ctx, store.Act{ChatID: j.ChatID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Lapse(j.Number, a.now())
	}}))
}

// OwnerGone puts the chats of an operator back who lost their connection and
// did not return.
func (a *App) OwnerGone(ctx context.Context, j jobs.OwnerGone) error {
	lostAt, err := a.store.Lost(ctx, chat.Operator(j.OperatorID))
	if err != nil || lostAt == nil || a.now().Sub(*lostAt) < a.grace {
		return err // back again, or gone again: then another job comes
	}
	return a.release(ctx, j.OperatorID, false)
}

// release puts back what an operator holds, in the order of arrival. Messages
// can wait for who comes back.
func (a *App) release(ctx context.Context, operatorID string, messages bool) error {
	a.passAll(ctx, operatorID)
	held, err := a.store.ChatsHeldBy(ctx, operatorID, messages)
	if err != nil {
		return err
	}
	for _, id := range held {
		err := a.timeOut(ctx, store.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.Release(operatorID, a.now())
		}})
		if err != nil {
			return err
		}
	}
	return nil
}

// VisitorGone counts a waiting chat as missed whose visitor did not return.
func (a *App) VisitorGone(ctx context.Context, j jobs.VisitorGone) error {
	lostAt, err := a.store.Lost(ctx, chat.Visitor(j.VisitorID))
	if err != nil || lostAt == nil {
		return err
	}
	grace, err := a.visitorGrace(ctx, j.VisitorID)
	if err != nil || a.now().Sub(*lostAt) < grace {
		return err
	}
	waiting, err := a.store.WaitingChatOf(ctx, j.VisitorID)
	if err != nil || waiting == "" {
		return err
	}
	return a.timeOut(ctx, store.Act{ChatID: waiting, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.Miss(a.now()) }})
}

// WrapUpOver ends a wrap-up whose time is over.
func (a *App) WrapUpOver(ctx context.Context, j jobs.WrapUpOver) error {
	return a.timeOut(ctx, store.Act{ChatID: j.ChatID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.WrapUp(chat.House, a.now()) }})
}

// OverflowDue looks at the queues again.
func (a *App) OverflowDue(ctx context.Context, _ jobs.OverflowDue) error { return a.HandOut(ctx) }

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
