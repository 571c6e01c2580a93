package app

import (
	"context"

	"stoop/core/chat"
	"stoop/internal/store"
)

// Take makes an operator the owner of a waiting chat. When a colleague was
// faster, the error is a *chat.TakenError.
func (a *App) Take(ctx context.Context, o store.Operator, chatID string) (ChatView, error) {
	return a.move(ctx, chatID, chat.Operator(o.ID), func(s chat.State) ([]chat.Event, error) {
		return s.Take(chat.Operator(o.ID), a.now())
	})
}

// move does an act that is not a message and returns the chat after it.
func (a *App) move(ctx context.Context, chatID string, by chat.Party, decide store.Decide) (ChatView, error) {
	r, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, Decide: decide})
	if err != nil {
		return ChatView{}, err
	}
	w, err := a.widget(ctx, r.Chat.WidgetID)
	return a.chatView(r.Chat, w), err
}
