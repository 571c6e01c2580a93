package floor

import (
	"context"
	"errors"
	"time"

	"stoop/core/chat"
	"stoop/core/push"
	"stoop/internal/again"
	"stoop/internal/chatlog"
)

// lastWords is how far back a server that died may have stored what it had not
// told: it is noticed after some seconds.
const lastWords = 20 * time.Second

// sweepEvery is how often is looked for what should have happened by now.
const sweepEvery = time.Second

// sweeps lets time go on for everybody, until the context ends. Each look goes
// over the state itself, not over what somebody meant to remember: whatever was
// missed, by whatever server, at whatever moment, the next look of any server
// finds it.
func (room *Room) sweeps(ctx context.Context) {
	again.Every(ctx, sweepEvery, func() {
		again.InTime(ctx, room.Log, "who has a connection", room.recount)
		again.InTime(ctx, room.Log, "offers without an answer", room.lapses)
		again.InTime(ctx, room.Log, "chats of operators who are gone", room.ownersGone)
		again.InTime(ctx, room.Log, "visitors who are gone", room.visitorsGone)
		again.InTime(ctx, room.Log, "wrap-ups that are over", room.wrapUpsOver)
		again.InTime(ctx, room.Log, "silent visitors", room.silentVisitors)
		again.InTime(ctx, room.Log, "quiet chats beside the site", room.quietChats)
		again.InTime(ctx, room.Log, "what is said by itself", room.automaticWords)
		room.hoursTurned(ctx)
	})
}

func (room *Room) recount(ctx context.Context) error {
	team, died, err := room.Tables.Recount(ctx, room.Now())
	if died {
		room.Delivery.Missed(time.Now().Add(-lastWords))
	}
	if err == nil && team {
		room.TeamMoved(ctx)
	}
	return err
}

// lapses ends the offers that were not answered, and brings back chats that
// nobody took who were handed on.
func (room *Room) lapses(ctx context.Context) error {
	clocked, err := room.Tables.Clocked(ctx)
	now := room.Now()
	for _, c := range clocked {
		number := int64(0)
		if o := c.State.Offered; o != nil && !o.Until.After(now) {
			number = o.Number
		} else if h := c.State.HandingOn; h != nil && !h.Until.After(now) {
			number = h.Number
		}
		if number == 0 {
			continue
		}
		err = errors.Join(err, chatlog.Overlooked(room.passing(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.Lapse(number, room.Now())
		}})))
	}
	return err
}

// ownersGone puts the chats of operators back who lost their connection and did
// not return; who can be told so on a device has longer.
func (room *Room) ownersGone(ctx context.Context) error {
	now := room.Now()
	gone, err := room.Tables.GoneOwners(ctx, now.Add(-room.Grace), now.Add(-max(room.Grace, push.Grace)))
	for _, id := range gone {
		err = errors.Join(err, room.Release(ctx, id, false))
	}
	return err
}

// Release puts back what an operator holds, in the order of arrival. Messages
// can wait for who comes back.
func (room *Room) Release(ctx context.Context, operatorID string, messages bool) error {
	room.passAll(ctx, operatorID)
	held, err := room.Tables.ChatsHeldBy(ctx, operatorID, messages)
	for _, id := range held {
		err = errors.Join(err, room.timeOut(ctx, chatlog.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.Release(operatorID, room.Now())
		}}))
	}
	return err
}

// visitorsGone ends the waiting chats whose visitors did not return, however
// long ago they left: a chat that comes back to its queue is looked at as well.
func (room *Room) visitorsGone(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	patience := map[string]int{}
	for _, w := range s.Widgets {
		patience[w.ID] = w.GoneSeconds
	}
	abandoned, err := room.Tables.Abandoned(ctx, room.Now(), patience)
	for _, id := range abandoned {
		err = errors.Join(err, room.timeOut(ctx, chatlog.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.Miss(room.Now()) }}))
	}
	return err
}

func (room *Room) wrapUpsOver(ctx context.Context) error {
	over, err := room.Tables.WrapUpsOver(ctx, room.Now())
	for _, id := range over {
		err = errors.Join(err, room.timeOut(ctx, chatlog.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) { return s.WrapUp(chat.House, room.Now()) }}))
	}
	return err
}

func (room *Room) timeOut(ctx context.Context, act chatlog.Act) error {
	_, err := room.Chats.Append(ctx, act)
	room.Kick()
	return chatlog.Overlooked(err)
}
