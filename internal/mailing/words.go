package mailing

import (
	"context"
	"text/template"

	"stoop/internal/mail"
	"stoop/internal/wording"
)

// toTeam writes to somebody of the team, by the templates of a name and of its subject; part
// makes the mail's own id, the same for each try.
func (room *Room) toTeam(ctx context.Context, email string, words *template.Template, name string, told any, part string) error {
	subject, err := wording.Write(words, name+" subject", told)
	if err != nil {
		return err
	}
	text, err := wording.Write(words, name, told)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: "Stoop", From: "stoop@" + room.ReplyDomain, To: email, Subject: subject, Text: text,
		ID: part + "@" + room.ReplyDomain,
	})
}
