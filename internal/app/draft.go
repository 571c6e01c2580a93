package app

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
)

// VisitorDrafts shows those of the team who are in a chat what its visitor is
// typing, if the widget says so. Drafts are not stored and reach nobody else.
func (a *App) VisitorDrafts(ctx context.Context, v VisitorActor, chatID, text string) error {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if c.VisitorID != v.ID {
		return chat.ErrNotYours
	}
	w, err := a.widget(ctx, c.WidgetID)
	if err != nil || !w.DraftsSeen || c.Phase != chat.Active {
		return err
	}
	text = string([]rune(text)[:min(len([]rune(text)), chat.DefaultWordLimit)])
	for _, id := range append(append([]string{c.State.Owner}, c.State.Guests...), c.State.Watchers...) {
		a.live.ToOperator(id, DraftShown{Type: "draft", ChatID: c.ID, Text: text})
	}
	return nil
}

// OperatorTypes tells a chat's visitor whether the owner is typing.
func (a *App) OperatorTypes(ctx context.Context, o access.Actor, chatID string, typing bool) error {
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
