package app

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/jobs"
	"stoop/internal/store"
)

// errNoRoom: an operator has no room any more, or is not there.
var errNoRoom = errors.New("the operator has no room")

// kick lets the queues be looked at soon. Several kicks while a look is under
// way lead to one more.
func (a *App) kick() {
	select {
	case a.kicks <- struct{}{}:
	default:
	}
}

// router hands out chats whenever something may have changed, until the context
// ends.
func (a *App) router(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-a.kicks:
		}
		if err := a.HandOut(ctx); err != nil && ctx.Err() == nil {
			a.log.Error("the queues could not be handed out; they are looked at again within seconds", "error", err)
		}
	}
}

// HandOut gives waiting chats to operators who have room, and tells those who
// wait how they stand.
func (a *App) HandOut(ctx context.Context) error {
	queue, err := a.store.Queue(ctx)
	if err != nil {
		return err
	}
	did := false
	if len(queue) > 0 {
		var watched []string
		err = a.store.UnderRoutingLock(ctx, func(ctx context.Context, tx pgx.Tx) error {
			did, watched, err = a.handOutLocked(ctx, tx)
			return err
		})
		if err != nil {
			return err
		}
		a.nowWatched(watched)
	}
	if did {
		a.notify(ctx, store.QueueChanged)
		if queue, err = a.store.Queue(ctx); err != nil {
			return err
		}
	}
	return a.announce(ctx, queue)
}

// handOutLocked does one pass. It returns whether it did anything, and the waits
// whose overflow has a clock now.
func (a *App) handOutLocked(ctx context.Context, tx pgx.Tx) (did bool, watched []string, err error) {
	queue, err := a.store.Queue(ctx) // again: it may have been handed out by another server
	if err != nil {
		return false, nil, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return false, nil, err
	}
	now := a.now()
	staff, err := a.store.Staff(ctx, now)
	if err != nil {
		return false, nil, err
	}
	turns, err := a.store.Turns(ctx)
	if err != nil {
		return false, nil, err
	}
	departments := s.coreDepartments(now)
	for i := range departments {
		for j := range departments[i].Members {
			m := &departments[i].Members[j]
			m.Turn = turns[departments[i].ID+m.Operator]
		}
	}
	floor := routing.NewFloor(departments, staff)
	for _, step := range floor.Run(queue, now) {
		switch err := a.do(ctx, s, step); {
		case err == nil:
			did = true
		case isRefusal(err):
			a.kick() // the chat or the operator changed meanwhile: look again
		default:
			return did, nil, err
		}
	}
	shut := map[string]bool{}
	for _, w := range queue {
		if _, known := shut[w.Department]; !known {
			shut[w.Department] = s.shutFor(closedFor, w.Department, now)
		}
		key, err := a.watch(ctx, tx, s.departments[w.Department], w, now)
		if err != nil {
			return did, nil, err
		}
		watched = append(watched, key)
		if shut[w.Department] && w.Not == "" {
			if err := a.keepAsMessage(ctx, w.Chat); err != nil {
				return did, nil, err
			}
			did = true
		}
	}
	return did, watched, nil
}

// do carries out one step of handing out.
func (a *App) do(ctx context.Context, s *setup, step routing.Step) error {
	act := store.Act{ChatID: step.Chat, By: chat.House}
	d := s.departments[step.Department]
	switch step.Kind {
	case routing.StepOverflow:
		act.Decide = func(state chat.State) ([]chat.Event, error) {
			return state.Overflow(step.Department, step.Reasons, a.now())
		}
	case routing.StepOffer:
		act.Decide = func(state chat.State) ([]chat.Event, error) {
			now := a.now()
			e, err := state.Offer(step.Operator, now.Add(time.Duration(d.OfferSeconds)*time.Second), step.Reasons, now)
			return []chat.Event{e}, err
		}
	case routing.StepAssign:
		act.Decide = func(state chat.State) ([]chat.Event, error) {
			e, err := state.Assign(step.Operator, step.Reasons, a.now())
			return []chat.Event{e}, err
		}
	}
	if step.Operator != "" {
		act.Guard = a.mustHaveRoom(s, step.Operator, d)
		act.Also = func(ctx context.Context, tx pgx.Tx, _ store.Chat, events []chat.Event) error {
			if err := store.TookTurn(ctx, tx, d.ID, step.Operator); err != nil || step.Kind != routing.StepOffer {
				return err
			}
			return a.jobs.Add(ctx, tx, jobs.Lapse{ChatID: step.Chat, Number: events[0].Number}, *events[0].Detail.Until)
		}
	}
	_, err := a.appender.Append(ctx, act)
	return err
}

// mustHaveRoom refuses an act that would give an operator more chats than they
// may hold, or one who is not there. Whoever gives chats to the same operator
// waits meanwhile.
func (a *App) mustHaveRoom(s *setup, operatorID string, d store.Department) func(context.Context, pgx.Tx) error {
	return func(ctx context.Context, tx pgx.Tx) error {
		load, offered, err := store.LockOperator(ctx, tx, operatorID, a.now())
		if err != nil {
			return err
		}
		available, err := store.AvailableNow(ctx, tx, operatorID)
		if err != nil {
			return err
		}
		if !available || load+offered >= s.capacityIn(s.operators[operatorID], d) {
			return errNoRoom
		}
		return nil
	}
}

// isRefusal reports whether an act failed because the world had moved on.
func isRefusal(err error) bool {
	var taken *chat.TakenError
	var offered *chat.OfferedError
	return errors.As(err, &taken) || errors.As(err, &offered) ||
		errors.Is(err, errNoRoom) || errors.Is(err, chat.ErrEnded) || errors.Is(err, chat.ErrIsMessage) || errors.Is(err, store.ErrStale)
}

// closedFor is how long a team must be closed before a chat that still waits
// becomes a message.
const closedFor = time.Minute

// shutFor reports whether a department and all that may help it have been
// closed by their hours for some time.
func (s *setup) shutFor(long time.Duration, department string, now time.Time) bool {
	for _, id := range s.reach(department, now) {
		if s.open(s.departments[id], now) || s.open(s.departments[id], now.Add(-long)) {
			return false
		}
	}
	return true
}

// keepAsMessage keeps a chat that nobody will take any more today.
func (a *App) keepAsMessage(ctx context.Context, chatID string) error {
	_, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: chat.House, Decide: func(state chat.State) ([]chat.Event, error) {
		return state.KeepAsMessage(chat.House, nil, a.now())
	}})
	return overlooked(err)
}

// watch sets the clock for a chat that overflows after some seconds, once for
// each wait, and returns the name of the wait; nothing if it needs no clock.
func (a *App) watch(ctx context.Context, tx pgx.Tx, d store.Department, w routing.Waiting, now time.Time) (string, error) {
	key := w.Chat + w.Since.String()
	due := w.Since.Add(time.Duration(d.OverflowAfter) * time.Second)
	if d.OverflowAfter == 0 || len(d.OverflowTo) == 0 || !due.After(now) {
		return "", nil
	}
	if a.isWatched(key) {
		return key, nil
	}
	return key, a.jobs.Add(ctx, tx, jobs.OverflowDue{ChatID: w.Chat, Since: w.Since.UTC()}, due)
}

func (a *App) isWatched(key string) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.told.watched[key]
}

// nowWatched remembers the waits of a pass whose clocks are durable. After a
// restart they are set again, which changes nothing.
func (a *App) nowWatched(keys []string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.told.watched = make(map[string]bool, len(keys))
	for _, key := range keys {
		a.told.watched[key] = true
	}
}
