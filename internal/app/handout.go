package app

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/store"
)

// errNoRoom: an operator has no room any more, or is not there.
var errNoRoom = errors.New("the operator has no room")

// kick lets the queues be looked at soon. Several kicks while a look is under
// way lead to one more.
func (a *App) kick() {
	a.staff.forget()
	select {
	case a.kicks <- struct{}{}:
	default:
	}
}

// router hands out chats whenever something may have changed, and when the first
// of those who wait has waited long enough to overflow, until the context ends.
func (a *App) router(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-a.kicks:
		}
		a.inTime(ctx, "handing out chats", a.HandOut)
	}
}

// HandOut gives waiting chats to operators who have room, and tells those who
// wait how they stand.
func (a *App) HandOut(ctx context.Context) error {
	s, err := a.setup(ctx)
	if err != nil {
		return err
	}
	somebodyWaits, err := a.store.SomebodyWaits(ctx)
	if err != nil {
		return err
	}
	var saw pass
	did := false
	if somebodyWaits {
		err = a.store.UnderRoutingLock(ctx, func(ctx context.Context) error {
			saw, did, err = a.handOutLocked(ctx, s)
			return err
		})
		if err != nil {
			return err
		}
	}
	if did {
		a.notify(ctx, store.QueueChanged)
		saw = pass{}
		if saw.queue, err = a.store.Queue(ctx, s.headStart()); err != nil {
			return err
		}
	}
	a.wakeForOverflow(s, saw.queue)
	return a.announce(ctx, s, saw)
}

// pass is what one look at the floor saw.
type pass struct {
	queue []routing.Waiting
	staff []routing.Staff // nil: not looked at
}

// handOutLocked does one pass and returns what it saw, and whether it did
// anything.
func (a *App) handOutLocked(ctx context.Context, s *setup) (saw pass, did bool, err error) {
	queue, err := a.store.Queue(ctx, s.headStart())
	if err != nil {
		return saw, false, err
	}
	now := a.now()
	staff, err := a.readStaff(ctx, now)
	if err != nil {
		return saw, false, err
	}
	saw = pass{queue, staff}
	turns, err := a.store.Turns(ctx)
	if err != nil {
		return saw, false, err
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
			return saw, did, err
		}
	}
	for _, chatID := range a.stranded(s, floor, queue, now) {
		if err := a.keepAsMessage(ctx, chatID); err != nil {
			return saw, did, err
		}
		did = true
	}
	return saw, did, nil
}

// wakeForOverflow looks at the queues again when the first of them who waits has
// waited long enough to overflow.
func (a *App) wakeForOverflow(s *setup, queue []routing.Waiting) {
	now := a.now()
	var next time.Time
	for _, w := range queue {
		for _, id := range append([]string{w.Department}, w.OpenTo...) {
			d := s.departments[id]
			due := w.Since.Add(time.Duration(d.OverflowAfter) * time.Second)
			if d.OverflowAfter > 0 && len(d.OverflowTo) > 0 && due.After(now) && (next.IsZero() || due.Before(next)) {
				next = due
			}
		}
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.wake != nil {
		a.wake.Stop()
	}
	if !next.IsZero() {
		a.wake = time.AfterFunc(next.Sub(now), a.kick)
	}
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
		act.Also = func(ctx context.Context, tx pgx.Tx, _ store.Chat, _ []chat.Event) error {
			return store.TookTurn(ctx, tx, d.ID, step.Operator)
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

// A chat that comes to nobody by time alone becomes a message: when all who
// could help have been closed by their hours for closedFor, or when nobody of
// them has been in for nobodyFor; the latter bears a pause, and colleagues who
// change over.
const (
	closedFor = time.Minute
	nobodyFor = 5 * time.Minute
)

// stranded returns the waiting chats that it is time to keep as messages.
func (a *App) stranded(s *setup, floor *routing.Floor, queue []routing.Waiting, now time.Time) []string {
	a.mu.Lock()
	defer a.mu.Unlock()
	var due []string
	since := map[string]time.Time{}
	for _, w := range queue {
		if w.Not != "" || !floor.Stranded(w) {
			continue // an operator holds it, or somebody will
		}
		began, known := a.told.stranded[w.Chat]
		if !known {
			began = now
		}
		since[w.Chat] = began
		if s.shutFor(closedFor, floor.Reach(w), now) || now.Sub(began) >= nobodyFor {
			due = append(due, w.Chat)
		}
	}
	a.told.stranded = since
	return due
}

// shutFor reports whether departments have all been closed by their hours for
// some time.
func (s *setup) shutFor(long time.Duration, departments []string, now time.Time) bool {
	for _, id := range departments {
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
