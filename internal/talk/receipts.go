package talk

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
)

// VisitorReceives records how far the visitor's browser has the team's words.
func (room *Room) VisitorReceives(ctx context.Context, v access.Visitor, chatID string, kind chat.Kind, upTo int64) error {
	return room.Chats.Receive(ctx, chatID, v.Party(), kind, upTo)
}

// OperatorReceives records how far the owner has the visitor's words.
func (room *Room) OperatorReceives(ctx context.Context, o access.Actor, chatID string, kind chat.Kind, upTo int64) error {
	return room.Chats.Receive(ctx, chatID, chat.Operator(o.ID), kind, upTo)
}
