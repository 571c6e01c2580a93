package mailing

import (
	"context"
	"strconv"
	"strings"
	"time"

	"stoop/internal/store"
)

// replyAddress is where answers to a chat's mails go.
func (room *Room) replyAddress(chatID string) string {
	return "chat+" + strings.ReplaceAll(chatID, "-", "") + "." + room.Key.Proof("reply", chatID) + "@" + room.ReplyDomain
}

// ReturnLink leads a visitor back to a chat, from wherever they read their mail.
func (room *Room) ReturnLink(widgetKey, chatID string) string {
	until := strconv.FormatInt(room.Now().Add(returnFor).Unix(), 36)
	return room.URL + "/panel/" + widgetKey + "?back=" + chatID + "." + until + "." + room.Key.Proof("return", chatID+"."+until)
}

// returnFor is how long a link in a mail leads back to its chat. Each answer by
// mail carries a new one.
const returnFor = 30 * 24 * time.Hour

// Returning finds the visitor whom a link leads back.
func (room *Room) Returning(ctx context.Context, back string) (visitorID, widgetID string, err error) {
	chatID, rest, _ := strings.Cut(back, ".")
	until, proof, _ := strings.Cut(rest, ".")
	ends, err := strconv.ParseInt(until, 36, 64)
	if err != nil || room.Now().Unix() > ends || !room.Key.Proves(proof, "return", chatID+"."+until) {
		return "", "", store.ErrNotFound
	}
	c, err := room.Chats.Chat(ctx, chatID)
	return c.VisitorID, c.WidgetID, err
}
