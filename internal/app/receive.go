package app

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// VisitorReceives records how far the visitor's browser has the team's words.
func (a *App) VisitorReceives(ctx context.Context, v VisitorActor, chatID string, kind chat.Kind, upTo int64) error {
	return a.receive(ctx, v.party(), chatID, kind, upTo)
}

// OperatorReceives records how far the owner has the visitor's words.
func (a *App) OperatorReceives(ctx context.Context, o access.Actor, chatID string, kind chat.Kind, upTo int64) error {
	return a.receive(ctx, chat.Operator(o.ID), chatID, kind, upTo)
}

func (a *App) receive(ctx context.Context, by chat.Party, chatID string, kind chat.Kind, upTo int64) error {
	_, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Receive(by, kind, upTo, a.now())
	}})
	return err
}
