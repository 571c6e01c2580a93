package app

import (
	"context"
	"encoding/json"
	"sync"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// tellTimeout bounds how long telling may wait for settings that were forgotten:
// acts of the same chats wait behind it.
const tellTimeout = 5 * time.Second

// tell spreads what an act added to a chat. While it looks for somebody, the
// members of its departments follow it; once it is taken, its words go to its
// owner, to colleagues in it and to leads only, and the others just learn that
// it is gone from the line.
func (a *App) tell(r store.Result) {
	c, state := r.Chat, r.Chat.State
	ctx, cancel := context.WithTimeout(context.Background(), tellTimeout)
	defer cancel()
	s, err := a.setup(ctx)
	if err != nil {
		a.log.Error("a stored event could not be spread; browsers will ask for it", "chat", c.ID, "error", err)
		return
	}
	events := a.eventViews(c, r.Events)
	moved := ChatMoved{Type: "chat", Chat: a.chatView(c, s), Events: events}
	for _, e := range r.Events {
		if e.Kind == chat.WasPutBack {
			// Whether or not they may see the queue: it is theirs no more.
			a.live.ToOperator(e.Detail.Operator, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
		}
	}
	a.live.ToLeads(moved)
	moved.Events = forOperators(events)
	a.toOperators(s, state, moved)
	for _, e := range r.Events {
		switch e.Kind {
		case chat.Taken, chat.Ended, chat.Returned, chat.CallOver, chat.Joined:
			a.live.ToTeam(ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName})
		case chat.Passed:
			if o := s.actor(e.Detail.Operator); !o.Sees(state) {
				a.live.ToOperator(o.ID, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
			}
		case chat.Left:
			a.live.ToOperator(e.Detail.Operator, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName})
		}
	}
	a.live.ToVisitor(c.VisitorID, VisitorChatMoved{Type: "chat", Chat: a.visitorChatView(c), Events: a.forVisitor(c, events)})
}

// oneMessage is a message for several channels; it is encoded when the first of
// them has somebody who listens.
type oneMessage struct {
	once sync.Once
	of   any
	data []byte
	err  error
}

// Encoded returns the message as JSON.
func (m *oneMessage) Encoded() ([]byte, error) {
	m.once.Do(func() { m.data, m.err = json.Marshal(m.of) })
	return m.data, m.err
}

// toOperators sends to the operators who may see a chat; leads are told by
// ToLeads.
func (a *App) toOperators(s *setup, state chat.State, of any) {
	message := &oneMessage{of: of}
	audience := access.AudienceOf(state)
	for _, id := range audience.Departments {
		a.live.ToDepartment(id, message)
	}
	for _, id := range audience.Operators {
		if !s.actor(id).Leads() { // leads have it already
			a.live.ToOperator(id, message)
		}
	}
}
