package talk

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
)

// VisitorReceives records how far the visitor's browser has the team's words.
func (room *Room) VisitorReceives(ctx context.Context, v access.Visitor, chatID string, kind chat.Kind, upTo int64) error {
	return room.receive(ctx, v.Party(), chatID, kind, upTo)
}

// OperatorReceives records how far the owner has the visitor's words.
func (room *Room) OperatorReceives(ctx context.Context, o access.Actor, chatID string, kind chat.Kind, upTo int64) error {
	return room.receive(ctx, chat.Operator(o.ID), chatID, kind, upTo)
}

func (room *Room) receive(ctx context.Context, by chat.Party, chatID string, kind chat.Kind, upTo int64) error {
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Receive(by, kind, upTo, room.Now())
	}})
	return err
}
