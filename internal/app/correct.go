package app

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// OperatorCorrects replaces an operator's own words.
func (a *App) OperatorCorrects(ctx context.Context, o access.Actor, chatID string, number int64, text string) error {
	if err := a.mustNotBeMailed(ctx, chatID); err != nil {
		return err
	}
	return a.correct(ctx, chat.Operator(o.ID), chatID, number, text)
}

// VisitorCorrects replaces a visitor's own words.
func (a *App) VisitorCorrects(ctx context.Context, v VisitorActor, chatID string, number int64, text string) error {
	return a.correct(ctx, v.party(), chatID, number, text)
}

func (a *App) correct(ctx context.Context, by chat.Party, chatID string, number int64, text string) error {
	said, err := a.store.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	w, err := a.widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	_, err = a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Correct(by, said, text, w.MessageLimit, a.now())
	}})
	return err
}

// OperatorWithdraws takes an operator's own words or file back.
func (a *App) OperatorWithdraws(ctx context.Context, o access.Actor, chatID string, number int64) error {
	if err := a.mustNotBeMailed(ctx, chatID); err != nil {
		return err
	}
	return a.withdraw(ctx, chat.Operator(o.ID), chatID, number)
}

// VisitorWithdraws takes a visitor's own words or file back.
func (a *App) VisitorWithdraws(ctx context.Context, v VisitorActor, chatID string, number int64) error {
	return a.withdraw(ctx, v.party(), chatID, number)
}

func (a *App) withdraw(ctx context.Context, by chat.Party, chatID string, number int64) error {
	said, err := a.store.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	return a.takeAway(ctx, by, chatID, number, func(s chat.State) ([]chat.Event, error) { return s.Withdraw(by, said, a.now()) })
}

// mustNotBeMailed refuses to change what has gone out by mail.
func (a *App) mustNotBeMailed(ctx context.Context, chatID string) error {
	c, err := a.store.Chat(ctx, chatID)
	if err == nil && c.Message && !a.live.Here(chat.Visitor(c.VisitorID)) {
		err = chat.ErrTooLate
	}
	return err
}
