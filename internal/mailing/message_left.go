package mailing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/setup/settings"
)

// tellOfMessages lets those know by mail who want to, of messages left for
// their departments. Each is told of once, over all servers.
func (room *Room) tellOfMessages(ctx context.Context) error {
	left, err := room.Tables.UntoldMessages(ctx)
	for _, c := range left {
		err = errors.Join(err, room.tellOfMessage(ctx, c))
	}
	return err
}

func (room *Room) tellOfMessage(ctx context.Context, c UntoldMessage) error {
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return err
	}
	return room.Tables.TellOnce(ctx, c.ID, func(tx pgx.Tx) error {
		for _, o := range s.Operators {
			p, err := settings.PreferencesOf(o)
			if err != nil {
				return err
			}
			if !o.Active || p.MailMessage == nil || !*p.MailMessage || !s.IsMember(o.ID, c.DepartmentID) {
				continue
			}
			// A job for each, so that a mail that fails is not sent to the others again.
			if err := room.Jobs.Add(ctx, tx, MessageLeft{ChatID: c.ID, OperatorID: o.ID}, room.Now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// MessageLeft tells an operator by mail of a message that was left. It is a job.
type MessageLeft struct {
	ChatID     string `json:"chatId"`
	OperatorID string `json:"operatorId"`
}

// Kind names the job to River.
func (MessageLeft) Kind() string { return "message_left" }

// messageLeft sends a message that was left to somebody who wants it by mail.
func (room *Room) messageLeft(ctx context.Context, j MessageLeft) error {
	if room.Mail == nil {
		return nil
	}
	c, err := room.Chats.Chat(ctx, j.ChatID)
	if err != nil || !c.Message || c.Phase != chat.Waiting {
		return err
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, j.OperatorID)
	if err != nil {
		return err
	}
	d, err := room.Settings.Department(ctx, c.State.Department)
	if err != nil {
		return err
	}
	log, err := room.Chats.Events(ctx, c.ID, 0, chatlog.ReadAtOnce)
	if err != nil {
		return err
	}
	var words strings.Builder
	for _, e := range inWords(c, log, c.Last) {
		fmt.Fprintln(&words, e.Text)
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: "Stoop", From: "stoop@" + room.ReplyDomain, To: o.Email,
		Subject: fmt.Sprintf("Message from %s for %s", cmp.Or(c.Name, "a visitor"), d.Name),
		Text:    fmt.Sprintf("%s\nReply on the Desk:\n%s/desk\n", words.String(), room.URL),
		ID:      fmt.Sprintf("%s.left.%s@%s", c.ID, o.ID, room.ReplyDomain),
	})
}
