package talk

import (
	"cmp"
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Take makes an operator the owner of a waiting chat, or of one that is handed
// on to them. When a colleague was faster, the error is a *chat.TakenError. A
// person may take more than their capacity, if they say so by anyway.
func (room *Room) Take(ctx context.Context, o access.Actor, chatID string, anyway bool) (view.ChatView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	capacity := 0
	taken, err := room.moveAnd(ctx, chatlog.Act{
		ChatID: chatID, By: chat.Operator(o.ID),
		Decide: func(state chat.State) ([]chat.Event, error) {
			switch {
			case o.Sees(state):
				return state.Take(chat.Operator(o.ID), room.Now())
			case state.Phase == chat.Active && o.MemberOf(state.Department):
				return nil, &chat.TakenError{By: state.Owner, At: state.OwnedAt} // it waited for them too
			}
			return nil, chat.ErrNotYours
		},
		Ahead: func(c chatlog.Chat) []chatlog.Statement {
			if c.Message {
				return nil // it waits for nobody in front of a screen, and counts for no capacity
			}
			// Handed on to a department, it counts by that one's capacity.
			capacity = s.CapacityIn(s.Operators[o.ID], s.Departments[cmp.Or(c.State.Seeking(), c.State.Department)])
			return room.Floor.Taking(o.ID, capacity, anyway)
		},
		Along: []chatlog.Statement{room.Floor.ForgetPasses(o.ID)},
	})
	if errors.Is(err, chatlog.ErrRefused) {
		load, countErr := room.Floor.Load(ctx, o.ID)
		return taken, cmp.Or[error](countErr, &OverCapacityError{Load: max(load, capacity), Capacity: capacity})
	}
	return taken, err
}

// moveAnd does an act that changes who waits or who has room.
func (room *Room) moveAnd(ctx context.Context, act chatlog.Act) (view.ChatView, error) {
	v, err := room.View.After(ctx, room.Chats, act)
	room.Floor.Kick() // whatever became of it: who looks in vain loses nothing
	return v, err
}

// HandOn offers a chat to an operator or to a department, with a note. It stays
// with its owner until somebody takes it, and comes back if nobody does.
func (room *Room) HandOn(ctx context.Context, o access.Actor, chatID, operatorID, departmentID, note string) (view.ChatView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	seconds := s.Departments[c.State.Department].HandOnSeconds
	if departmentID != "" {
		d, ok := s.Departments[departmentID]
		if !ok || d.RemovedAt != nil {
			return view.ChatView{}, store.ErrNotFound
		}
		seconds = d.HandOnSeconds
	}
	act := chatlog.Act{
		ChatID: chatID, By: chat.Operator(o.ID),
		Decide: func(state chat.State) ([]chat.Event, error) {
			now := room.Now()
			e, err := state.HandOn(chat.Operator(o.ID), operatorID, departmentID, note, now.Add(time.Duration(max(seconds, 10))*time.Second), now)
			return []chat.Event{e}, err
		},
	}
	if operatorID != "" {
		to, ok := s.Operators[operatorID]
		if !ok || !to.Active {
			return view.ChatView{}, store.ErrNotFound
		}
		act.Guard = func(ctx context.Context, tx pgx.Tx) error {
			available, err := room.Floor.Available(ctx, tx, operatorID)
			if err == nil && !available {
				err = &AwayError{Name: to.Name}
			}
			return err
		}
	}
	return room.moveAnd(ctx, act)
}

// TakeBack withdraws what an owner has begun to hand on.
func (room *Room) TakeBack(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.TakeBack(chat.Operator(o.ID), room.Now())
	}})
}

// PutBack returns a chat to its queue.
func (room *Room) PutBack(ctx context.Context, o access.Actor, chatID, note string) (view.ChatView, error) {
	return room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		e, err := state.PutBack(chat.Operator(o.ID), note, room.Now())
		return []chat.Event{e}, err
	}})
}

// WrapUp ends an operator's wrap-up of an ended chat.
func (room *Room) WrapUp(ctx context.Context, o access.Actor, chatID string) error {
	_, err := room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.WrapUp(chat.Operator(o.ID), room.Now())
	}})
	return err
}

// Add lets a colleague speak in a chat beside its owner.
func (room *Room) Add(ctx context.Context, o access.Actor, chatID, colleagueID string) (view.ChatView, error) {
	colleague, err := room.Settings.Operator(ctx, colleagueID)
	if err != nil {
		return view.ChatView{}, err
	}
	if !colleague.Active {
		return view.ChatView{}, store.ErrNotFound
	}
	return room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.Add(chat.Operator(o.ID), colleagueID, room.Now())
	}})
}

// LeaveChat takes a colleague out of a chat again.
func (room *Room) LeaveChat(ctx context.Context, o access.Actor, chatID, colleagueID string) (view.ChatView, error) {
	if _, err := room.Chats.Readable(ctx, o, chatID); err != nil {
		return view.ChatView{}, err
	}
	return room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.Leave(chat.Operator(o.ID), colleagueID, room.Now())
	}})
}
