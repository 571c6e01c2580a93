package app

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/chat"
	"stoop/internal/jobs"
	"stoop/internal/store"
)

// Said acknowledges a message: it is durable, under this number.
type Said struct {
	Event EventView `json:"event"`
}

// VisitorSays adds a visitor's words to their chat. Words to a message that
// nobody has answered yet make it a live chat, if somebody is there.
func (a *App) VisitorSays(ctx context.Context, v VisitorActor, chatID, clientID, text string) (Said, error) {
	said, after, err := a.say(ctx, v.party(), v.WidgetID, chatID, clientID, text, nil)
	if err == nil && after.Message && after.Phase == chat.Waiting {
		err = a.reopen(ctx, v, after)
	}
	said.Event = a.forVisitor(after, []EventView{said.Event})[0]
	return said, err
}

// readWithin is how long a visitor who has the panel open is given to read an
// answer to their message before it goes by mail too.
const readWithin = 30 * time.Second

// UnfilledError: words still hold placeholders of a canned response.
type UnfilledError struct{ Names []string }

func (e *UnfilledError) Error() string {
	return "placeholders without a value: " + strings.Join(e.Names, ", ")
}

// mailOf is the job that sends words of a chat by mail.
func (a *App) mailOf(c store.Chat, number int64) jobs.SendWords {
	return jobs.SendWords{ChatID: c.ID, Number: number}
}

// mailAt is when an answer to a message goes by mail: at once, or a little later
// if its visitor may read it here.
func (a *App) mailAt(c store.Chat) time.Time {
	if a.live.Here(chat.Visitor(c.VisitorID)) {
		return a.now().Add(readWithin)
	}
	return a.now()
}

// OperatorSays adds words of a chat's owner, or of a colleague whom they added.
// What answers a message goes to the visitor by email too, unless they read it
// here.
func (a *App) OperatorSays(ctx context.Context, o access.Actor, chatID, clientID, text string) (Said, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return Said{}, err
	}
	if missing := canned.Unfilled(text); len(missing) > 0 {
		return Said{}, &UnfilledError{Names: missing}
	}
	var also func(context.Context, pgx.Tx, store.Chat, []chat.Event) error
	if c.Message {
		also = func(ctx context.Context, tx pgx.Tx, c store.Chat, events []chat.Event) error {
			return a.jobs.Add(ctx, tx, a.mailOf(c, events[0].Number), a.mailAt(c))
		}
	}
	said, _, err := a.say(ctx, chat.Operator(o.ID), c.WidgetID, chatID, clientID, text, also)
	return said, err
}

func (a *App) say(ctx context.Context, by chat.Party, widgetID, chatID, clientID, text string, also func(context.Context, pgx.Tx, store.Chat, []chat.Event) error) (Said, store.Chat, error) {
	w, err := a.widget(ctx, widgetID)
	if err != nil {
		return Said{}, store.Chat{}, err
	}
	r, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, ClientID: clientID, Also: also, Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.Say(by, clientID, text, w.MessageLimit, a.now())
		if err != nil {
			return nil, err
		}
		return []chat.Event{e}, nil
	}})
	if err != nil {
		return Said{}, store.Chat{}, err
	}
	return Said{Event: a.eventViews(r.Chat, r.Events)[0]}, r.Chat, nil
}
