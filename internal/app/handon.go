package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// AwayByPasses is why Stoop sets somebody away: they let several offers go by.
const AwayByPasses = "passes"

// OverCapacityError asks an operator who takes a chat by hand whether they mean
// it: it is more than they should hold.
type OverCapacityError struct {
	Load, Capacity int
}

func (e *OverCapacityError) Error() string {
	return fmt.Sprintf("you hold %d of %d chats", e.Load, e.Capacity)
}

// NotTheirsError: who is to get a chat cannot have it.
type NotTheirsError struct {
	Name string
	Why  string // offline, away or full
}

func (e *NotTheirsError) Error() string { return e.Name + " is " + e.Why }

// Take makes an operator the owner of a waiting chat, or of one that is handed
// on to them. When a colleague was faster, the error is a *chat.TakenError. A
// person may take more than their capacity, if they say so by anyway.
func (a *App) Take(ctx context.Context, o access.Actor, chatID string, anyway bool) (ChatView, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return ChatView{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return ChatView{}, err
	}
	if !o.Sees(c.State) {
		if c.Phase == chat.Active && o.MemberOf(c.State.Department) {
			return ChatView{}, &chat.TakenError{By: c.State.Owner, At: c.State.OwnedAt} // it waited for them too
		}
		return ChatView{}, chat.ErrNotYours
	}
	// Handed on to a department, it counts by that one's capacity.
	d := s.departments[or(c.State.Seeking(), c.State.Department)]
	act := store.Act{
		ChatID: chatID, By: chat.Operator(o.ID),
		Decide: func(state chat.State) ([]chat.Event, error) { return state.Take(chat.Operator(o.ID), a.now()) },
		Also: func(ctx context.Context, tx pgx.Tx, _ store.Chat, _ []chat.Event) error {
			return store.ForgetPasses(ctx, tx, o.ID)
		},
	}
	if !c.Message {
		act.Guard = func(ctx context.Context, tx pgx.Tx) error {
			load, _, err := store.LockOperator(ctx, tx, o.ID, a.now())
			if err != nil {
				return err
			}
			if capacity := s.capacityIn(s.operators[o.ID], d); load >= capacity && !anyway {
				return &OverCapacityError{Load: load, Capacity: capacity}
			}
			return nil
		}
	}
	return a.moveAnd(ctx, act)
}

// moveAnd does an act that changes who waits or who has room.
func (a *App) moveAnd(ctx context.Context, act store.Act) (ChatView, error) {
	r, err := a.appender.Append(ctx, act)
	if err != nil {
		return ChatView{}, err
	}
	a.kick()
	s, err := a.setup(ctx)
	if err != nil {
		return ChatView{}, err
	}
	return a.chatView(r.Chat, s), nil
}

// Pass lets an offer go by. Who lets several go by is set away and told.
func (a *App) Pass(ctx context.Context, o access.Actor, chatID string) error {
	return a.passing(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		e, err := state.Pass(chat.Operator(o.ID), a.now())
		return []chat.Event{e}, err
	}})
}

// passing does an act by which an offer goes by, and counts it. A chat handed
// on that was declined does not count.
func (a *App) passing(ctx context.Context, act store.Act) error {
	away, limit := "", 0
	// Read before the act takes its connection: what runs within its transaction
	// asks for no other.
	s, err := a.setup(ctx)
	if err != nil {
		return err
	}
	act.Also = func(ctx context.Context, tx pgx.Tx, c store.Chat, events []chat.Event) error {
		if events[0].Kind != chat.Passed {
			return nil
		}
		d := s.departments[or(c.State.Seeking(), c.State.Department)]
		operator := events[0].Detail.Operator
		setAway, err := store.CountPass(ctx, tx, operator, max(1, d.PassLimit), AwayByPasses)
		if setAway {
			away, limit = operator, d.PassLimit
		}
		return err
	}
	_, err = a.appender.Append(ctx, act)
	if err == nil && away != "" {
		a.live.ToOperator(away, SetAway{Type: "set-away", Passes: limit})
		a.passAll(ctx, away)
		a.TeamMoved(ctx)
	}
	a.kick()
	return err
}

// passAll lets all offers of an operator go by who is not available any more.
// That is no fault of theirs and does not count.
func (a *App) passAll(ctx context.Context, operatorID string) {
	offered, err := a.store.ChatsOfferedTo(ctx, operatorID)
	for _, id := range offered {
		_, passErr := a.appender.Append(ctx, store.Act{ChatID: id, By: chat.Operator(operatorID), Decide: func(state chat.State) ([]chat.Event, error) {
			e, err := state.Pass(chat.Operator(operatorID), a.now())
			if errors.Is(err, chat.ErrNoOffer) {
				return nil, nil // answered or lapsed meanwhile
			}
			return []chat.Event{e}, err
		}})
		err = errors.Join(err, overlooked(passErr))
	}
	if err != nil {
		a.log.Error("the offers of somebody who went away could not be ended; they end by their time", "error", err)
	}
}

// HandOn offers a chat to an operator or to a department, with a note. It stays
// with its owner until somebody takes it, and comes back if nobody does.
func (a *App) HandOn(ctx context.Context, o access.Actor, chatID, operatorID, departmentID, note string) (ChatView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return ChatView{}, err
	}
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return ChatView{}, err
	}
	seconds := s.departments[c.State.Department].HandOnSeconds
	if departmentID != "" {
		d, ok := s.departments[departmentID]
		if !ok || d.RemovedAt != nil {
			return ChatView{}, store.ErrNotFound
		}
		seconds = d.HandOnSeconds
	}
	act := store.Act{
		ChatID: chatID, By: chat.Operator(o.ID),
		Decide: func(state chat.State) ([]chat.Event, error) {
			now := a.now()
			e, err := state.HandOn(chat.Operator(o.ID), operatorID, departmentID, note, now.Add(time.Duration(max(seconds, 10))*time.Second), now)
			return []chat.Event{e}, err
		},
	}
	if operatorID != "" {
		to, ok := s.operators[operatorID]
		if !ok || !to.Active {
			return ChatView{}, store.ErrNotFound
		}
		act.Guard = func(ctx context.Context, tx pgx.Tx) error {
			available, err := store.AvailableNow(ctx, tx, operatorID)
			if err == nil && !available {
				err = &NotTheirsError{Name: to.Name, Why: "away"}
			}
			return err
		}
	}
	return a.moveAnd(ctx, act)
}

// TakeBack withdraws what an owner has begun to hand on.
func (a *App) TakeBack(ctx context.Context, o access.Actor, chatID string) (ChatView, error) {
	return a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.TakeBack(chat.Operator(o.ID), a.now())
	}})
}

// PutBack returns a chat to its queue.
func (a *App) PutBack(ctx context.Context, o access.Actor, chatID, note string) (ChatView, error) {
	return a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		e, err := state.PutBack(chat.Operator(o.ID), note, a.now())
		return []chat.Event{e}, err
	}})
}

// WrapUp ends an operator's wrap-up of an ended chat.
func (a *App) WrapUp(ctx context.Context, o access.Actor, chatID string) error {
	_, err := a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.WrapUp(chat.Operator(o.ID), a.now())
	}})
	return err
}

// Add lets a colleague speak in a chat beside its owner.
func (a *App) Add(ctx context.Context, o access.Actor, chatID, colleagueID string) (ChatView, error) {
	colleague, err := a.operator(ctx, colleagueID)
	if err != nil {
		return ChatView{}, err
	}
	if !colleague.Active {
		return ChatView{}, store.ErrNotFound
	}
	return a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.Add(chat.Operator(o.ID), colleagueID, a.now())
	}})
}

// LeaveChat takes a colleague out of a chat again.
func (a *App) LeaveChat(ctx context.Context, o access.Actor, chatID, colleagueID string) (ChatView, error) {
	if _, _, err := a.readable(ctx, o, chatID); err != nil {
		return ChatView{}, err
	}
	return a.moveAnd(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		return state.Leave(chat.Operator(o.ID), colleagueID, a.now())
	}})
}
