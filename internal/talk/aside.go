package talk

import (
	"context"
	"slices"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// Beside does an act of somebody of the team who may read a chat.
func (room *Room) Beside(ctx context.Context, o access.Actor, chatID, clientID string, decide chatlog.Decide) (view.ChatView, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	if !o.Sees(c.State) {
		return view.ChatView{}, chat.ErrNotYours
	}
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), ClientID: clientID, Decide: decide})
	if err != nil {
		return view.ChatView{}, err
	}
	return room.View.Chat(r.Chat, s), nil
}

// Note adds words that only the team sees.
func (room *Room) Note(ctx context.Context, o access.Actor, chatID, clientID, text string) (view.ChatView, error) {
	return room.Beside(ctx, o, chatID, clientID, func(s chat.State) ([]chat.Event, error) {
		e, err := s.Note(chat.Operator(o.ID), clientID, text, room.Now())
		return []chat.Event{e}, err
	})
}

// Whisper tells a chat's owner something that the visitor does not see. Leads
// do so.
func (room *Room) Whisper(ctx context.Context, o access.Actor, chatID, clientID, text string) (view.ChatView, error) {
	if !o.May(access.Whisper) {
		return view.ChatView{}, access.ErrNotAllowed
	}
	return room.Beside(ctx, o, chatID, clientID, func(s chat.State) ([]chat.Event, error) {
		e, err := s.Whisper(chat.Operator(o.ID), clientID, text, room.Now())
		return []chat.Event{e}, err
	})
}

// Summarise puts a chat into one line.
func (room *Room) Summarise(ctx context.Context, o access.Actor, chatID, line string) (view.ChatView, error) {
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.Summarise(chat.Operator(o.ID), line, room.Now()) })
}

// Conclusion is what is said of how a chat came out; what is left out stays as
// it is.
type Conclusion struct {
	Outcome *string        `json:"outcome,omitempty" doc:"Empty: none"`
	Sale    *view.SaleView `json:"sale,omitempty"`
	NoSale  bool           `json:"noSale,omitempty" doc:"There was none after all"`
}

// Conclude says how a chat came out.
func (room *Room) Conclude(ctx context.Context, o access.Actor, chatID string, in Conclusion) (view.ChatView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	if in.Outcome != nil && *in.Outcome != "" && !slices.Contains(s.Desk.Outcomes, *in.Outcome) {
		c, err := room.Chats.Chat(ctx, chatID)
		if err != nil || c.Outcome != *in.Outcome {
			return view.ChatView{}, form.Refuse([]form.Wrong{{Field: "outcome", Words: "This outcome is no longer in the list. Choose another one."}})
		}
	}
	return room.Beside(ctx, o, chatID, "", func(state chat.State) ([]chat.Event, error) {
		outcome, money := state.Outcome, state.Sale
		if in.Outcome != nil {
			outcome = *in.Outcome
		}
		if in.NoSale {
			money = nil
		}
		if in.Sale != nil {
			money = &chat.Money{Cents: in.Sale.Cents, Currency: s.Desk.Currency}
		}
		return state.Conclude(chat.Operator(o.ID), outcome, money, room.Now())
	})
}

// SetAside marks a chat unread for its owner, or takes the mark away.
func (room *Room) SetAside(ctx context.Context, o access.Actor, chatID string, aside bool) (view.ChatView, error) {
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.SetAside(chat.Operator(o.ID), aside, room.Now()) })
}
