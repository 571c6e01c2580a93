package feedback

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Rate puts down what a visitor says of a chat of theirs that is over. The last word
// holds; the same again is as once.
func (room *Room) Rate(ctx context.Context, v access.Visitor, chatID string, rating int, words string) (*view.SurveyView, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return nil, err
	}
	if c.VisitorID != v.ID {
		return nil, store.ErrNotFound
	}
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: v.Party(), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Rate(v.Party(), rating, words, room.Now())
	}})
	if err != nil {
		return nil, err
	}
	return view.Survey(r.Chat.State), nil
}

// Close puts down that a low rating was read, as it stood in the event of that number.
func (room *Room) Close(ctx context.Context, o access.Actor, chatID string, number int64, note string) (view.ChatView, error) {
	if !o.May(access.CloseFeedback) {
		return view.ChatView{}, access.ErrNotAllowed
	}
	by := chat.Operator(o.ID)
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.ReadFeedback(by, number, note, room.Now())
	}})
	if err != nil {
		return view.ChatView{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	return room.View.Chat(r.Chat, s), nil
}
