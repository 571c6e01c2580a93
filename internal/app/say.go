package app

import (
	"context"

	"stoop/core/chat"
	"stoop/internal/store"
)

// Said acknowledges a message: it is durable, under this number.
type Said struct {
	Event EventView `json:"event"`
}

// VisitorSays adds a visitor's words to their chat.
func (a *App) VisitorSays(ctx context.Context, v VisitorActor, chatID, clientID, text string) (Said, error) {
	said, err := a.say(ctx, v.party(), v.WidgetID, chatID, clientID, text)
	said.Event = forVisitor([]EventView{said.Event})[0]
	return said, err
}

// OperatorSays adds words of a chat's owner.
func (a *App) OperatorSays(ctx context.Context, o store.Operator, chatID, clientID, text string) (Said, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return Said{}, err
	}
	return a.say(ctx, chat.Operator(o.ID), c.WidgetID, chatID, clientID, text)
}

func (a *App) say(ctx context.Context, by chat.Party, widgetID, chatID, clientID, text string) (Said, error) {
	w, err := a.widget(ctx, widgetID)
	if err != nil {
		return Said{}, err
	}
	r, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, ClientID: clientID, Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.Say(by, clientID, text, w.MessageLimit, a.now())
		if err != nil {
			return nil, err
		}
		return []chat.Event{e}, nil
	}})
	if err != nil {
		return Said{}, err
	}
	return Said{Event: a.eventViews(r.Chat, r.Events)[0]}, nil
}
