package talk

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/store"
	"stoop/internal/view"
)

// CallTeam asks a department for help in a chat.
func (room *Room) CallTeam(ctx context.Context, o access.Actor, chatID, departmentID, words string) (view.ChatView, error) {
	d, err := room.Settings.Department(ctx, departmentID)
	if err != nil {
		return view.ChatView{}, err
	}
	if d.RemovedAt != nil {
		return view.ChatView{}, store.ErrNotFound
	}
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		e, err := s.CallTeam(chat.Operator(o.ID), departmentID, words, room.Now())
		return []chat.Event{e}, err
	})
}

// EndCall ends the call for help.
func (room *Room) EndCall(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.EndCall(chat.Operator(o.ID), room.Now()) })
}

// Join lets somebody speak in a chat whose owner asked for help, or a lead in
// any chat.
func (room *Room) Join(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		return s.Join(chat.Operator(o.ID), o.May(access.StepIn), room.Now())
	})
}

// TakeOver makes a lead the owner of a colleague's chat.
func (room *Room) TakeOver(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	if !o.May(access.TakeOver) {
		return view.ChatView{}, access.ErrNotAllowed
	}
	return room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.TakeOver(chat.Operator(o.ID), room.Now())
	}})
}

// Watch notes that a lead reads along, or does not any more.
func (room *Room) Watch(ctx context.Context, o access.Actor, chatID string, begins bool) (view.ChatView, error) {
	if !o.May(access.Watch) {
		return view.ChatView{}, access.ErrNotAllowed
	}
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.Watch(chat.Operator(o.ID), begins, room.Now()) })
}
