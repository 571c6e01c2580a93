package floor

import (
	"context"
	"errors"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// Kick lets the queues be looked at soon. Several kicks while a look is under
// way lead to one more.
func (room *Room) Kick() {
	room.staff.Forget()
	select {
	case room.kicks <- struct{}{}:
	default:
	}
}

// Arrived lets the queues be looked at at once, because somebody waits now.
func (room *Room) Arrived() {
	room.staff.Forget()
	select {
	case room.arrivals <- struct{}{}:
	default:
	}
}

// queueMoved lets the next look tell, here and on other servers, how the queues stand
// after something was handed out.
func (room *Room) queueMoved() {
	room.handedOut.Store(true)
	room.Kick()
}

// gatherFor is how long it is waited for what else changes: one act often leads to
// several kicks, and whoever is told of it goes first.
const gatherFor = 10 * time.Millisecond

// router hands out chats whenever something may have changed, and when the first
// of those who wait has waited long enough to overflow, until the context ends.
func (room *Room) router(ctx context.Context) {
	gather := time.NewTimer(0)
	defer gather.Stop()
	for {
		arrived := false
		select {
		case <-ctx.Done():
			return
		case <-room.arrivals:
			arrived = true
		case <-room.kicks:
			gather.Reset(gatherFor)
			select {
			case <-ctx.Done():
				return
			case <-room.arrivals:
				arrived = true
			case <-gather.C:
			}
			select {
			case <-room.kicks:
			default:
			}
		}
		again.InTime(ctx, room.Log, "handing out chats", func(ctx context.Context) error { return room.handOut(ctx, arrived) })
	}
}

// HandOut gives waiting chats to operators who have room, or else tells those who
// wait how they stand.
func (room *Room) HandOut(ctx context.Context) error { return room.handOut(ctx, false) }

func (room *Room) handOut(ctx context.Context, arrived bool) error {
	if room.handedOut.Swap(false) {
		room.Notices.Tell(ctx, QueueNotice)
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	somebodyWaits := arrived
	if !arrived {
		if somebodyWaits, err = room.Tables.SomebodyWaits(ctx); err != nil {
			return err
		}
	}
	var saw pass
	did := false
	if somebodyWaits {
		forgotten := room.staff.Times()
		err = room.lock.under(ctx, room.Tables.Store, room.Now(), func(ctx context.Context, look looked) error {
			room.staff.Put(forgotten, &staffOf{room.Now(), teamOf(s, look.standings)})
			saw, did, err = room.handOutLocked(ctx, s, look)
			return err
		})
		if err != nil {
			return err
		}
	}
	if did {
		room.queueMoved()
		return nil
	}
	room.wakeForOverflow(s, saw.queue)
	return room.announce(ctx, s, saw)
}

// pass is what one look at the floor saw.
type pass struct {
	queue []routing.Waiting
	staff []routing.Staff // nil: not looked at
}

// handOutLocked does one pass and returns what it saw, and whether it did
// anything.
func (room *Room) handOutLocked(ctx context.Context, s *settings.Settings, look looked) (saw pass, did bool, err error) {
	now := room.Now()
	routing.Sort(look.queue, s.HeadStart())
	queue, staff := look.queue, teamOf(s, look.standings)
	saw = pass{queue, staff}
	floor := routing.NewFloor(look.departments(s, now), staff)
	for _, step := range floor.Run(queue, now) {
		switch err := room.do(ctx, s, step); {
		case err == nil:
			did = true
		case chatlog.MovedOn(err):
			room.Kick() // the chat or the operator changed meanwhile: look again
		default:
			return saw, did, err
		}
	}
	for _, chatID := range room.stranded(s, floor, queue, now) {
		if err := room.keepAsMessage(ctx, chatID); err != nil {
			return saw, did, err
		}
		did = true
	}
	return saw, did, nil
}

// wakeForOverflow looks at the queues again when the first of them who waits has
// waited long enough to overflow.
func (room *Room) wakeForOverflow(s *settings.Settings, queue []routing.Waiting) {
	now := room.Now()
	var next time.Time
	for _, w := range queue {
		for _, id := range append([]string{w.Department}, w.OpenTo...) {
			d := s.Departments[id]
			due := w.Since.Add(time.Duration(d.OverflowAfter) * time.Second)
			if d.OverflowAfter > 0 && len(d.OverflowTo) > 0 && due.After(now) && (next.IsZero() || due.Before(next)) {
				next = due
			}
		}
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	if room.wake != nil {
		room.wake.Stop()
	}
	if !next.IsZero() {
		room.wake = time.AfterFunc(next.Sub(now), room.Kick)
	}
}

// do carries out one step of handing out.
func (room *Room) do(ctx context.Context, s *settings.Settings, step routing.Step) error {
	act := chatlog.Act{ChatID: step.Chat, By: chat.House, Decide: room.stepping(s, step)}
	if step.Operator != "" {
		var err error
		if act.Ahead, act.Along, err = room.handing(s, step); err != nil {
			return err
		}
	}
	_, err := room.Chats.Append(ctx, act)
	if errors.Is(err, chatlog.ErrRefused) {
		err = chatlog.ErrNoRoom
	}
	return err
}

// stepping decides on a step of handing out.
func (room *Room) stepping(s *settings.Settings, step routing.Step) chatlog.Decide {
	return func(state chat.State) ([]chat.Event, error) {
		now := room.Now()
		switch step.Kind {
		case routing.StepOverflow:
			return state.Overflow(step.Department, step.Reasons, now)
		case routing.StepOffer:
			e, err := state.Offer(step.Operator, now.Add(time.Duration(s.Departments[step.Department].OfferSeconds)*time.Second), step.Reasons, now)
			return []chat.Event{e}, err
		}
		e, err := state.Assign(step.Operator, step.Reasons, now)
		return []chat.Event{e}, err
	}
}

// handing returns what goes to the database ahead of and along with a step that
// gives an operator a chat.
func (room *Room) handing(s *settings.Settings, step routing.Step) (ahead func(chatlog.Chat) []chatlog.Statement, along []chatlog.Statement, err error) {
	o, d := s.Operators[step.Operator], s.Departments[step.Department]
	if !o.Active {
		return nil, nil, chatlog.ErrNoRoom
	}
	return mustHaveRoom(o.ID, room.Now(), s.CapacityIn(o, d)), []chatlog.Statement{tookTurn(d.ID, o.ID)}, nil
}

// stranded returns the waiting chats that it is time to keep as messages.
func (room *Room) stranded(s *settings.Settings, floor *routing.Floor, queue []routing.Waiting, now time.Time) []string {
	room.mu.Lock()
	defer room.mu.Unlock()
	var due []string
	since := map[string]time.Time{}
	for _, w := range queue {
		if w.Not != "" || !floor.Stranded(w) {
			continue // an operator holds it, or somebody will
		}
		began, known := room.told.stranded[w.Chat]
		if !known {
			began = now
		}
		since[w.Chat] = began
		if routing.TimeToKeep(began, now, func(at time.Time) bool { return s.AllShut(floor.Reach(w), at) }) {
			due = append(due, w.Chat)
		}
	}
	room.told.stranded = since
	return due
}

// keepAsMessage keeps a chat that nobody will take any more today.
func (room *Room) keepAsMessage(ctx context.Context, chatID string) error {
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: chat.House, Decide: func(state chat.State) ([]chat.Event, error) {
		return state.KeepAsMessage(chat.House, nil, room.Now())
	}})
	return chatlog.Overlooked(err)
}
