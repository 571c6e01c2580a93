package talk

import (
	"context"
	"slices"

	"stoop/core/access"
	"stoop/core/chat"
)

// VisitorDrafts shows those of the team who are in a chat what its visitor is
// typing, if the widget says so. Drafts are not stored and reach nobody else.
func (room *Room) VisitorDrafts(ctx context.Context, v access.Visitor, chatID, text string) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if c.VisitorID != v.ID {
		return chat.ErrNotYours
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil || !w.DraftsSeen || c.Phase != chat.Active {
		return err
	}
	text = string([]rune(text)[:min(len([]rune(text)), chat.DefaultWordLimit)])
	for _, id := range append(append([]string{c.State.Owner}, c.State.Guests...), c.State.Watchers...) {
		room.Live.ToOperator(id, DraftShown{Type: "draft", ChatID: c.ID, Text: text})
	}
	return nil
}

// OperatorTypes tells a chat's visitor whether the owner is typing.
func (room *Room) OperatorTypes(ctx context.Context, o access.Actor, chatID string, typing bool) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if (c.OwnerID == nil || *c.OwnerID != o.ID) && !slices.Contains(c.State.Guests, o.ID) {
		return chat.ErrNotYours
	}
	room.Live.ToVisitor(c.VisitorID, TypingShown{Type: "typing", ChatID: c.ID, Name: o.Name, Typing: typing})
	return nil
}

// DraftShown is what a visitor is typing, for the chat's owner only.
type DraftShown struct {
	Type   string `json:"type" enum:"draft"`
	ChatID string `json:"chatId"`
	Text   string `json:"text"`
}

// TypingShown tells the visitor that an operator types; never what.
type TypingShown struct {
	Type   string `json:"type" enum:"typing"`
	ChatID string `json:"chatId"`
	Name   string `json:"name"`
	Typing bool   `json:"typing"`
}
