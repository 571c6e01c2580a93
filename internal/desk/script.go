package desk

import (
	"context"
	"slices"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// Script is a chat with its log, or the part of it after a number.
type Script struct {
	Chat   view.ChatView    `json:"chat"`
	Place  view.PlaceView   `json:"place"`
	Events []view.EventView `json:"events"`
}

// Script returns the events of a chat after a number. An earlier chat of
// somebody with whom the operator has a chat now may be read beside that one.
func (room *Room) Script(ctx context.Context, o access.Actor, chatID string, after int64, beside string) (Script, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return Script{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Script{}, err
	}
	if !o.Sees(c.State) && !room.isEarlier(ctx, o, c, beside) {
		return Script{}, chat.ErrNotYours
	}
	events, err := room.Chats.Events(ctx, chatID, after, chatlog.ReadAtOnce)
	if err != nil {
		return Script{}, err
	}
	visits, err := room.Visits.LatestVisits(ctx, []string{c.VisitorID})
	if err != nil {
		return Script{}, err
	}
	return Script{Chat: room.View.Chat(c, s), Place: room.View.Place(c.VisitorID, visits[c.VisitorID]), Events: room.View.Events(o.Reader(), c, events)}, nil
}

// isEarlier reports whether a chat is one of the earlier ones of somebody with
// whom an operator has a chat now.
func (room *Room) isEarlier(ctx context.Context, o access.Actor, c chatlog.Chat, beside string) bool {
	now, err := room.Chats.Chat(ctx, beside)
	if err != nil || now.Phase == chat.Over && now.WrapUntil == nil && !now.NeedsOutcome || !o.Sees(now.State) {
		return false
	}
	earlier, err := room.People.EarlierChats(ctx, now.VisitorID, now.ID)
	return err == nil && slices.ContainsFunc(earlier, func(e chatlog.Chat) bool { return e.ID == c.ID })
}
