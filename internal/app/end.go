package app

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// OperatorEnds closes a chat by its owner.
func (a *App) OperatorEnds(ctx context.Context, o access.Actor, chatID string) (ChatView, error) {
	return a.end(ctx, chat.Operator(o.ID), chatID)
}

// VisitorEnds closes a chat by its visitor.
func (a *App) VisitorEnds(ctx context.Context, v VisitorActor, chatID string) error {
	_, err := a.end(ctx, v.party(), chatID)
	return err
}

func (a *App) end(ctx context.Context, by chat.Party, chatID string) (ChatView, error) {
	return a.ending(ctx, chatID, by, func(s chat.State, w chat.WrapUp) ([]chat.Event, error) { return s.End(by, w, a.now()) })
}

// ending does an act that may end a chat, with the wrap-up of its department.
func (a *App) ending(ctx context.Context, chatID string, by chat.Party, decide func(chat.State, chat.WrapUp) ([]chat.Event, error)) (ChatView, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return ChatView{}, err
	}
	d, err := a.department(ctx, c.State.Department)
	if err != nil && c.State.Department != "" {
		return ChatView{}, err
	}
	w := chat.WrapUp{Time: time.Duration(d.WrapUpSeconds) * time.Second, NeedsOutcome: d.WrapUpRequired}
	return a.moveAnd(ctx, store.Act{
		ChatID: chatID, By: by,
		Decide: func(s chat.State) ([]chat.Event, error) { return decide(s, w) },
	})
}
