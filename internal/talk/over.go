package talk

import (
	"context"
	"errors"
	"io"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/files"
)

// WriteOver adds what a visitor wrote by text message or mail to the chat that they have, or
// begins one: a live one while somebody could take it, and else, or by mail, a message. It returns
// the chat in which the words stand.
func (room *Room) WriteOver(ctx context.Context, v access.Visitor, in carrier.Incoming) (chatID string, err error) {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return "", err
	}
	who, err := room.Register.Visitor(ctx, v.ID)
	if err != nil {
		return "", err
	}
	o := Opening{ClientID: in.ClientID, Text: in.Text, Name: who.Name, Email: who.Email, Phone: who.Phone, over: &in.Over, mail: in.Mail, to: in.Department}
	opened, err := room.start(ctx, v, w, o, in.Over.Kind == channel.Email)
	var closed *ClosedError
	if errors.As(err, &closed) {
		opened, err = room.start(ctx, v, w, o, true)
	}
	return opened.Chat.ID, err
}

// AnswerByMail adds words that a visitor sent by mail to a chat. When that is
// over, they begin a message of their own, for the one who had it. It returns
// the chat in which they stand. Their writer is not here: no live chat begins.
func (room *Room) AnswerByMail(ctx context.Context, v access.Visitor, c chatlog.Chat, clientID, text string, over chat.Way) (chatID string, err error) {
	_, _, err = room.say(ctx, v.Party(), v.WidgetID, c.ID, clientID, text, saying{over: &over})
	if !errors.Is(err, chat.ErrEnded) {
		return c.ID, err
	}
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return "", err
	}
	opened, err := room.start(ctx, v, w, Opening{ClientID: clientID, Text: text, Name: c.Name, Email: c.Email, Phone: c.Phone, over: &over}, true)
	return opened.Chat.ID, err
}

// ShareOver adds a file to a chat that came with a visitor's mail. What they may send in an hour is
// as much as on the site.
func (room *Room) ShareOver(ctx context.Context, v access.Visitor, chatID, clientID string, over chat.Way, claim files.Claim, content io.Reader) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	if err := room.quotas.take(v.ID, "", claim.Size, s.FileRules().MaxBytes); err != nil {
		return err
	}
	_, err = room.receiveFile(ctx, v.Party(), chatID, clientID, claim, content, &over)
	return err
}
