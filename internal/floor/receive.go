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

// arriving is somebody who is about to open a chat: while it is found out who they
// are, it is looked who could take it.
type arriving struct {
	room *Room
	lock *attempt
}

// Arriving begins to look who could take a chat that is about to be opened. Whatever
// becomes of it, it must be told when that is done.
func (room *Room) Arriving(ctx context.Context) chatlog.Receiver {
	return &arriving{room, room.lock.attempt(ctx, room.Tables.Store, room.Now())}
}

// Done implements chatlog.Receiver.
func (a *arriving) Done() { a.lock.end() }

// Receive implements chatlog.Receiver. If nobody hands out at this moment, and the
// chat is the one that is handed out next, that is stored in the same transaction:
// its visitor waits for one commit and not for two. Otherwise the next look at the
// queue finds it.
func (a *arriving) Receive(ctx context.Context, c chatlog.Chat, lastOperator string, state chat.State, events []chat.Event) (stored chatlog.Chat, all []chat.Event, opened bool, err error) {
	room := a.room
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return chatlog.Chat{}, nil, false, err
	}
	look, held, err := a.lock.result()
	if err != nil {
		room.Log.Warn("a chat is not handed out as it comes; the next look does that", "chat", c.ID, "error", err)
	}
	if held {
		stored, all, opened, err = room.startHanded(ctx, s, look, c, lastOperator, state, events)
		if !errors.Is(err, chatlog.ErrNoRoom) {
			if opened {
				room.queueMoved()
			}
			return stored, all, opened, err
		}
	}
	stored, opened, err = room.Chats.Start(ctx, c, events)
	if opened {
		room.Arrived()
	}
	return stored, events, opened, err
}

// startHanded stores a new chat with the step by which it is handed out. When nobody
// can have it now, the error is ErrNoRoom.
func (room *Room) startHanded(ctx context.Context, s *settings.Settings, look looked, c chatlog.Chat, lastOperator string, state chat.State, events []chat.Event) (stored chatlog.Chat, all []chat.Event, opened bool, err error) {
	step, ok := room.stepFor(s, look, c, lastOperator, state)
	if !ok {
		return stored, nil, false, chatlog.ErrNoRoom
	}
	ahead, along, err := room.handing(s, step)
	if err != nil {
		return stored, nil, false, err
	}
	more, err := room.stepping(s, step)(state)
	if err != nil {
		return stored, nil, false, errors.Join(chatlog.ErrNoRoom, err)
	}
	all = slices.Concat(events, more)
	stored, opened, err = room.Chats.StartWith(ctx, c, all, ahead(c), along)
	if errors.Is(err, chatlog.ErrRefused) {
		err = chatlog.ErrNoRoom
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
