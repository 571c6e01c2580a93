package mailing

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/internal/files"
	"stoop/internal/mail"
	"stoop/internal/store"
)

// ReceiveMail adds an answer that came by mail to its chat. When the chat is
// over, the answer begins a message of its own, for the one who had it.
func (room *Room) ReceiveMail(ctx context.Context, m mail.Received) error {
	local, _, _ := strings.Cut(m.To, "@")
	if rest, isTicket := strings.CutPrefix(local, "ticket+"); isTicket {
		return room.receiveForTicket(ctx, m, rest)
	}
	id, proof, _ := strings.Cut(strings.TrimPrefix(local, "chat+"), ".")
	chatID, err := uuid.Parse(id)
	if err != nil || !room.Key.Proves(proof, "reply", chatID.String()) {
		return mail.ErrUnknownAddress
	}
	c, err := room.Chats.Chat(ctx, chatID.String())
	if errors.Is(err, store.ErrNotFound) {
		return mail.ErrUnknownAddress
	}
	if err != nil || m.Text == "" {
		return err
	}
	if m.Automatic {
		room.Log.Info("an automatic answer by mail was left out: nobody wrote it", "chat", c.ID, "from", m.From)
		return nil
	}
	if err := room.People.MayEnter(ctx, c.VisitorID, ""); err != nil {
		return mail.ErrUnknownAddress // who is shut out is so by mail too
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	visitor := access.Visitor{ID: c.VisitorID, WidgetID: c.WidgetID}
	text, rest := firstParts(m.Text, w.MessageLimit)
	for i, part := range text {
		// A mail server that was not sure sends again: the same id counts once.
		clientID := uuid.NewSHA1(chatID, fmt.Appendf(nil, "%s %d %s", m.ID, i, part)).String()
		if c.ID, err = room.Talk.AnswerByMail(ctx, visitor, c, clientID, part); err != nil {
			return err
		}
	}
	if rest == "" {
		return nil
	}
	clientID := uuid.NewSHA1(chatID, fmt.Appendf(nil, "%s rest", m.ID)).String()
	return room.Talk.ShareByMail(ctx, visitor, c.ID, clientID, files.Claim{Name: "Rest of the mail.txt"}, strings.NewReader(rest))
}

// mailParts is how many messages of a mail stand in the chat; the rest comes as
// a file.
const mailParts = 3

// firstParts cuts a long text into messages, and what is beyond mailParts.
func firstParts(text string, limit int) (parts []string, rest string) {
	parts = inParts(text, limit)
	if len(parts) > mailParts {
		parts, rest = parts[:mailParts], strings.Join(parts[mailParts:], "\n")
	}
	return parts, rest
}

// inParts cuts a long text at the limit of a message, in code points.
func inParts(text string, limit int) []string {
	var parts []string
	for runes := []rune(text); len(runes) > 0; {
		n := min(len(runes), limit)
		if part := strings.TrimSpace(string(runes[:n])); part != "" {
			parts = append(parts, part)
		}
		runes = runes[n:]
	}
	return parts
}
