package app

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// beside does an act of somebody of the team who may read a chat.
func (a *App) beside(ctx context.Context, o access.Actor, chatID, clientID string, decide store.Decide) (ChatView, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return ChatView{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return ChatView{}, err
	}
	if !o.Sees(c.State) {
		return ChatView{}, chat.ErrNotYours
	}
	r, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: chat.Operator(o.ID), ClientID: clientID, Decide: decide})
	if err != nil {
		return ChatView{}, err
	}
	return a.chatView(r.Chat, s), nil
}

// Note adds words that only the team sees.
func (a *App) Note(ctx context.Context, o access.Actor, chatID, clientID, text string) (ChatView, error) {
	return a.beside(ctx, o, chatID, clientID, func(s chat.State) ([]chat.Event, error) {
		e, err := s.Note(chat.Operator(o.ID), clientID, text, a.now())
		return []chat.Event{e}, err
	})
}

// Whisper tells a chat's owner something that the visitor does not see. Leads
// do so.
func (a *App) Whisper(ctx context.Context, o access.Actor, chatID, clientID, text string) (ChatView, error) {
	if !o.May(access.Whisper) {
		return ChatView{}, ErrNotAllowed
	}
	return a.beside(ctx, o, chatID, clientID, func(s chat.State) ([]chat.Event, error) {
		e, err := s.Whisper(chat.Operator(o.ID), clientID, text, a.now())
		return []chat.Event{e}, err
	})
}

// Tag says what a chat is about, or that it is not.
func (a *App) Tag(ctx context.Context, o access.Actor, chatID, tag string, on bool) (ChatView, error) {
	defer a.tags.forget()
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		if on {
			return s.Tag(chat.Operator(o.ID), tag, a.now())
		}
		return s.Untag(chat.Operator(o.ID), tag, a.now())
	})
}

// Summarise puts a chat into one line.
func (a *App) Summarise(ctx context.Context, o access.Actor, chatID, line string) (ChatView, error) {
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.Summarise(chat.Operator(o.ID), line, a.now()) })
}

// Conclusion is what is said of how a chat came out; what is left out stays as
// it is.
type Conclusion struct {
	Outcome *string   `json:"outcome,omitempty" doc:"Empty: none"`
	Sale    *SaleView `json:"sale,omitempty"`
	NoSale  bool      `json:"noSale,omitempty" doc:"There was none after all"`
}

// Conclude says how a chat came out.
func (a *App) Conclude(ctx context.Context, o access.Actor, chatID string, in Conclusion) (ChatView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return ChatView{}, err
	}
	if in.Outcome != nil && *in.Outcome != "" && !contains(s.desk.Outcomes, *in.Outcome) {
		c, err := a.store.Chat(ctx, chatID)
		if err != nil || c.Outcome != *in.Outcome {
			return ChatView{}, refuse([]form.Wrong{{Field: "outcome", Words: "This outcome is no longer in the list. Choose another one."}})
		}
	}
	return a.beside(ctx, o, chatID, "", func(state chat.State) ([]chat.Event, error) {
		outcome, money := state.Outcome, state.Sale
		if in.Outcome != nil {
			outcome = *in.Outcome
		}
		if in.NoSale {
			money = nil
		}
		if in.Sale != nil {
			money = &chat.Money{Cents: in.Sale.Cents, Currency: s.desk.Currency}
		}
		return state.Conclude(chat.Operator(o.ID), outcome, money, a.now())
	})
}

// SetAside marks a chat unread for its owner, or takes the mark away.
func (a *App) SetAside(ctx context.Context, o access.Actor, chatID string, aside bool) (ChatView, error) {
	return a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) { return s.SetAside(chat.Operator(o.ID), aside, a.now()) })
}
