package talk

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
)

// OperatorCorrects replaces an operator's own words.
func (room *Room) OperatorCorrects(ctx context.Context, o access.Actor, chatID string, number int64, text string, translation *chat.Translation) error {
	if err := room.mustNotBeMailed(ctx, chatID); err != nil {
		return err
	}
	return room.correct(ctx, chat.Operator(o.ID), chatID, number, text, translation)
}

// VisitorCorrects replaces a visitor's own words.
func (room *Room) VisitorCorrects(ctx context.Context, v access.Visitor, chatID string, number int64, text string) error {
	return room.correct(ctx, v.Party(), chatID, number, text, nil)
}

func (room *Room) correct(ctx context.Context, by chat.Party, chatID string, number int64, text string, translation *chat.Translation) error {
	said, err := room.Chats.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		if translation != nil {
			return s.CorrectTranslated(by, said, text, *translation, w.MessageLimit, room.Now())
		}
		return s.Correct(by, said, text, w.MessageLimit, room.Now())
	}})
	if err == nil && r.Chat.TranslationOwed {
		room.Translator.Kick(chatID)
	}
	return err
}

// OperatorWithdraws takes an operator's own words or file back.
func (room *Room) OperatorWithdraws(ctx context.Context, o access.Actor, chatID string, number int64) error {
	if err := room.mustNotBeMailed(ctx, chatID); err != nil {
		return err
	}
	return room.withdraw(ctx, chat.Operator(o.ID), chatID, number)
}

// VisitorWithdraws takes a visitor's own words or file back.
func (room *Room) VisitorWithdraws(ctx context.Context, v access.Visitor, chatID string, number int64) error {
	return room.withdraw(ctx, v.Party(), chatID, number)
}

func (room *Room) withdraw(ctx context.Context, by chat.Party, chatID string, number int64) error {
	said, err := room.Chats.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	return room.takeAway(ctx, by, chatID, number, func(s chat.State) ([]chat.Event, error) { return s.Withdraw(by, said, room.Now()) })
}

// mustNotBeMailed refuses to change what has gone out by mail.
func (room *Room) mustNotBeMailed(ctx context.Context, chatID string) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if err == nil && c.Message && !room.Live.Here(chat.Visitor(c.VisitorID)) {
		err = chat.ErrTooLate
	}
	return err
}
