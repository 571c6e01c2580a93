package talk

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// Said acknowledges a message: it is durable, under this number.
type Said struct {
	Event view.EventView `json:"event"`
}

// VisitorSays adds a visitor's words to their chat. Words to a message that
// nobody has answered yet make it a live chat, if somebody is there.
func (room *Room) VisitorSays(ctx context.Context, v access.Visitor, chatID, clientID, text string) (Said, error) {
	return room.visitorSays(ctx, v, chatID, clientID, text, nil)
}

func (room *Room) visitorSays(ctx context.Context, v access.Visitor, chatID, clientID, text string, over *chat.Way) (Said, error) {
	said, after, err := room.say(ctx, v.Party(), v.WidgetID, chatID, clientID, text, saying{over: over})
	if err == nil && after.State.Helping() {
		if over != nil {
			return said, room.toPerson(ctx, v, chatID)
		}
		room.Helper.Kick(chatID)
	}
	byMail := over != nil && over.Kind == channel.Email // they do not wait in front of it
	if err == nil && after.Message && after.Phase == chat.Waiting && !byMail {
		err = room.reopen(ctx, v, after)
	}
	return said, err
}

// toPerson lets a person answer who was answered by the helper: it speaks on the site alone.
func (room *Room) toPerson(ctx context.Context, v access.Visitor, chatID string) error {
	_, err := room.moveAnd(ctx, chatlog.Act{ChatID: chatID, By: v.Party(), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.LeaveHelper(v.Party(), chat.PersonAsked, room.Now())
	}})
	return chatlog.Overlooked(err)
}

// OperatorSays adds words of a chat's owner, or of a colleague whom they added, with their
// translation if the visitor is to read one. What answers a message goes to the visitor by email too, unless they read it
// here.
func (room *Room) OperatorSays(ctx context.Context, o access.Actor, chatID, clientID, text string, translation *chat.Translation) (Said, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return Said{}, err
	}
	if missing := canned.Unfilled(text); len(missing) > 0 {
		return Said{}, &UnfilledError{Names: missing}
	}
	var also func(context.Context, pgx.Tx, chatlog.Chat, []chat.Event) error
	if c.Message {
		also = func(ctx context.Context, tx pgx.Tx, c chatlog.Chat, events []chat.Event) error {
			return room.Mail.SendLater(ctx, tx, c, events[0].Number)
		}
	}
	said, _, err := room.say(ctx, chat.Operator(o.ID), c.WidgetID, chatID, clientID, text, saying{translation: translation, also: also})
	return said, err
}

// saying is what goes with words.
type saying struct {
	translation *chat.Translation // of the team's, for the visitor
	over        *chat.Way         // by which the visitor's came, if not on the site
	also        func(context.Context, pgx.Tx, chatlog.Chat, []chat.Event) error
}

func (room *Room) say(ctx context.Context, by chat.Party, widgetID, chatID, clientID, text string, with saying) (Said, chatlog.Chat, error) {
	w, err := room.Settings.Widget(ctx, widgetID)
	if err != nil {
		return Said{}, chatlog.Chat{}, err
	}
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, ClientID: clientID, Also: with.also, Decide: func(s chat.State) ([]chat.Event, error) {
		if with.translation != nil {
			e, err := s.SayTranslated(by, clientID, text, *with.translation, w.MessageLimit, room.Now())
			return []chat.Event{e}, err
		}
		if with.over != nil {
			e, err := s.SayOver(by, clientID, text, with.over, w.MessageLimit, room.Now())
			return []chat.Event{e}, err
		}
		e, err := s.Say(by, clientID, text, w.MessageLimit, room.Now())
		if err != nil {
			return nil, err
		}
		return []chat.Event{e}, nil
	}})
	if err != nil {
		return Said{}, chatlog.Chat{}, err
	}
	if r.Chat.TranslationOwed {
		room.Translator.Kick(chatID)
	}
	return room.saidTo(by, r), r.Chat, nil
}

// saidTo acknowledges an act to who did it.
func (room *Room) saidTo(by chat.Party, r chatlog.Result) Said {
	reader := transcript.Operator
	if by.Side == chat.VisitorSide {
		reader = transcript.Visitor
	}
	return Said{Event: room.View.Events(reader, r.Chat, r.Events)[0]}
}
