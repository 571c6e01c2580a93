package helper

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// First returns the flow that is the first to answer a chat of a widget, if one is: for a
// time at which somebody could take it, or nobody could.
func (room *Room) First(ctx context.Context, w settings.Widget, somebodyIn bool) (settings.LiveFlow, bool, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return settings.LiveFlow{}, false, err
	}
	live, there := s.Flows[w.Helper.Flow]
	return live, there && w.Helper.First(somebodyIn), nil
}

// PersonAsked is a visitor's word that they want a person. If nobody is in, what they
// asked is kept as a message.
func (room *Room) PersonAsked(ctx context.Context, v access.Visitor, chatID string) error {
	c, err := room.Chats.Chat(ctx, chatID)
	switch {
	case err != nil:
		return err
	case c.VisitorID != v.ID:
		return chat.ErrNotYours
	case !c.State.Helping():
		return nil // it has left already
	}
	return room.leave(ctx, c, v.Party(), chat.PersonAsked)
}

// Pause makes the helper silent in a chat that somebody of the team sees. The chat waits
// for a person from then on.
func (room *Room) Pause(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.act(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(s chat.State) ([]chat.Event, error) {
		if !o.Sees(s) {
			return nil, chat.ErrNotYours
		}
		return s.LeaveHelper(chat.Operator(o.ID), chat.HelperPaused, room.Now())
	}})
}

// GiveBack lets the helper go on in a chat that its owner gives back to it: where it was,
// or from the beginning of the flow that the widget has.
func (room *Room) GiveBack(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	live, there := s.Flows[s.Widgets[c.WidgetID].Helper.Flow]
	if !there {
		return view.ChatView{}, errNoFlow
	}
	v, err := room.act(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		id, name, version := live.ID, live.Name, live.Version
		if h := state.Helper; h != nil && h.Flow == live.ID {
			id, name, version = h.Flow, h.Name, h.Version // with what it has
		}
		return state.BeginHelper(chat.Operator(o.ID), id, name, version, false, room.Now())
	}})
	if err == nil {
		room.Kick(chatID)
	}
	return v, err
}

// act does an act that changes who waits.
func (room *Room) act(ctx context.Context, act chatlog.Act) (view.ChatView, error) {
	v, err := room.View.After(ctx, room.Chats, act)
	room.Floor.Kick() // whatever became of it: who looks in vain loses nothing
	return v, err
}
