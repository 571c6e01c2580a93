package app

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// CallTeam asks a department for help in a chat.
func (a *App) CallTeam(ctx context.Context, o access.Actor, chatID, departmentID, words string) (ChatView, error) {
	d, err := a.department(ctx, departmentID)
	if err != nil {
		return ChatView{}, err
	}
	if d.RemovedAt != nil {
		return ChatView{}, store.ErrNotFound
	}
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		e, err := s.CallTeam(chat.Operator(o.ID), departmentID, words, a.now())
		return []chat.Event{e}, err
	})
}

// EndCall ends the call for help.
func (a *App) EndCall(ctx context.Context, o access.Actor, chatID string) (ChatView, error) {
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.EndCall(chat.Operator(o.ID), a.now()) })
}

// Join lets somebody speak in a chat whose owner asked for help, or a lead in
// any chat.
func (a *App) Join(ctx context.Context, o access.Actor, chatID string) (ChatView, error) {
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		return s.Join(chat.Operator(o.ID), o.May(access.StepIn), a.now())
	})
}

// TakeOver makes a lead the owner of a colleague's chat.
func (a *App) TakeOver(ctx context.Context, o access.Actor, chatID string) (ChatView, error) {
	if !o.May(access.TakeOver) {
		return ChatView{}, ErrNotAllowed
	}
	return a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.TakeOver(chat.Operator(o.ID), a.now())
	}})
}

// Watch notes that a lead reads along, or does not any more.
func (a *App) Watch(ctx context.Context, o access.Actor, chatID string, begins bool) (ChatView, error) {
	if !o.May(access.Watch) {
		return ChatView{}, ErrNotAllowed
	}
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.Watch(chat.Operator(o.ID), begins, a.now()) })
}
