package app

import (
	"context"

	"stoop/core/chat"
	"stoop/internal/store"
)

// OperatorEnds closes a chat by its owner.
func (a *App) OperatorEnds(ctx context.Context, o store.Operator, chatID string) (ChatView, error) {
	return a.end(ctx, chat.Operator(o.ID), chatID)
}

// VisitorEnds closes a chat by its visitor.
func (a *App) VisitorEnds(ctx context.Context, v VisitorActor, chatID string) error {
	_, err := a.end(ctx, v.party(), chatID)
	return err
}

func (a *App) end(ctx context.Context, by chat.Party, chatID string) (ChatView, error) {
	return a.move(ctx, chatID, by, func(s chat.State) ([]chat.Event, error) { return s.End(by, a.now()) })
}
