package talk

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// OperatorEnds closes a chat by its owner.
func (room *Room) OperatorEnds(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.end(ctx, chat.Operator(o.ID), chatID)
}

// VisitorEnds closes a chat by its visitor.
func (room *Room) VisitorEnds(ctx context.Context, v access.Visitor, chatID string) error {
	_, err := room.end(ctx, v.Party(), chatID)
	return err
}

func (room *Room) end(ctx context.Context, by chat.Party, chatID string) (view.ChatView, error) {
	return room.Ending(ctx, chatID, by, func(s chat.State, w chat.WrapUp) ([]chat.Event, error) { return s.End(by, w, room.Now()) })
}

// Ending does an act that may end a chat, with the wrap-up of its department and the
// survey of its widget.
func (room *Room) Ending(ctx context.Context, chatID string, by chat.Party, decide func(chat.State, chat.WrapUp) ([]chat.Event, error)) (view.ChatView, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	d, err := room.Settings.Department(ctx, c.State.Department)
	if err != nil && c.State.Department != "" {
		return view.ChatView{}, err
	}
	of, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return view.ChatView{}, err
	}
	w := chat.WrapUp{Time: time.Duration(d.WrapUpSeconds) * time.Second, NeedsOutcome: d.WrapUpRequired, Survey: of.Survey.On}
	return room.moveAnd(ctx, chatlog.Act{
		ChatID: chatID, By: by,
		Decide: func(s chat.State) ([]chat.Event, error) { return decide(s, w) },
	})
}
