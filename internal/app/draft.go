package app

import (
	"context"

	"stoop/core/chat"
	"stoop/internal/store"
)

// VisitorDrafts shows the owner of a chat what its visitor is typing. Drafts
// are not stored and reach nobody else.
func (a *App) VisitorDrafts(ctx context.Context, v VisitorActor, chatID, text string) error {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if c.VisitorID != v.ID {
		return chat.ErrNotYours
	}
	if c.OwnerID != nil && c.Phase == chat.Active {
		text = string([]rune(text)[:min(len([]rune(text)), chat.DefaultWordLimit)])
		a.live.ToOperator(*c.OwnerID, DraftShown{Type: "draft", ChatID: c.ID, Text: text})
	}
	return nil
}

// OperatorTypes tells a chat's visitor whether the owner is typing.
func (a *App) OperatorTypes(ctx context.Context, o store.Operator, chatID string, typing bool) error {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if (c.OwnerID == nil || *c.OwnerID != o.ID) && !contains(c.State.Guests, o.ID) {
		return chat.ErrNotYours
	}
	a.live.ToVisitor(c.VisitorID, TypingShown{Type: "typing", ChatID: c.ID, Name: o.Name, Typing: typing})
	return nil
}
