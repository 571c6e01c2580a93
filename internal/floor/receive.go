package floor

import (
	"context"
	"errors"
	"slices"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// Receive stores a new chat that waits. If nobody hands out at this moment, and the
// chat is the one that is handed out next, that is stored in the same transaction:
// its visitor waits for one commit and not for two. Otherwise the next look at the
// queue finds it. When the visitor has an open chat already, that one is returned
// with opened false, as by chatlog.Log.Start.
func (room *Room) Receive(ctx context.Context, c chatlog.Chat, lastOperator string, state chat.State, events []chat.Event) (stored chatlog.Chat, all []chat.Event, opened bool, err error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return chatlog.Chat{}, nil, false, err
	}
	if state.Seeking() == "" {
		stored, opened, err = room.Chats.Start(ctx, c, events)
		return stored, events, opened, err
	}
	handed := false
	_, lockErr := room.lock.ifFree(ctx, room.Tables.Store, room.Now(), func(ctx context.Context, look looked) error {
		step, ok := room.stepFor(s, look, c, lastOperator, state)
		if !ok {
			return nil
		}
		more, decideErr := room.stepping(s, step)(state)
		ahead, along, roomErr := room.handing(s, step)
		if decideErr != nil || roomErr != nil {
			return nil // the next look sees how it stands then
		}
		all = slices.Concat(events, more)
		stored, opened, err = room.Chats.StartWith(ctx, c, all, ahead(c), along)
		handed = !errors.Is(err, chatlog.ErrRefused)
		return nil
	})
	if lockErr != nil {
		room.Log.Warn("a chat is not handed out as it comes; the next look does that", "chat", c.ID, "error", lockErr)
	}
	if !handed {
		all = events
		stored, opened, err = room.Chats.Start(ctx, c, events)
	}
	switch {
	case err != nil || !opened:
	case handed:
		room.queueMoved()
	default:
		room.Arrived()
	}
	return stored, all, opened, err
}

// stepFor returns the step by which a chat is handed out that is about to join the
// queue, if that is what is to be done next and nothing else.
func (room *Room) stepFor(s *settings.Settings, look looked, c chatlog.Chat, lastOperator string, state chat.State) (routing.Step, bool) {
	now := room.Now()
	queue := append(look.queue, waiting(routing.Waiting{
		Chat: c.ID, Visitor: c.VisitorID, Department: state.Seeking(), Priority: state.Priority, Arrived: state.Arrived, Since: state.Since,
		Language: c.Language, Last: lastOperator,
	}, state))
	routing.Sort(queue, s.HeadStart())
	steps := routing.NewFloor(look.departments(s, now), teamOf(s, look.standings)).Run(queue, now)
	if len(steps) != 1 || steps[0].Chat != c.ID || steps[0].Operator == "" {
		return routing.Step{}, false
	}
	return steps[0], true
}
