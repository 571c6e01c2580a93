package talk

import (
	"context"
	"errors"
	"io"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/files"
)

// AnswerByMail adds words that a visitor sent by mail to a chat. When that is
// over, they begin a message of their own, for the one who had it. It returns
// the chat in which they stand. Their writer is not here: no live chat begins.
func (room *Room) AnswerByMail(ctx context.Context, v access.Visitor, c chatlog.Chat, clientID, text string) (chatID string, err error) {
	_, _, err = room.say(ctx, v.Party(), v.WidgetID, c.ID, clientID, text, nil, nil)
	if !errors.Is(err, chat.ErrEnded) {
		return c.ID, err
	}
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return "", err
	}
	opened, err := room.start(ctx, v, w, Opening{ClientID: clientID, Text: text, Name: c.Name, Email: c.Email, Phone: c.Phone}, true)
	return opened.Chat.ID, err
}

// ShareByMail adds a file to a chat that came with a visitor's mail.
func (room *Room) ShareByMail(ctx context.Context, v access.Visitor, chatID, clientID string, claim files.Claim, content io.Reader) error {
	_, err := room.receiveFile(ctx, v.Party(), chatID, clientID, claim, content)
	return err
}
