package mailing

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/internal/mail"
)

// SendPlain sends words that were written beforehand, such as how to put the chat on a
// site. It is a job.
type SendPlain struct {
	To      string `json:"to"`
	Subject string `json:"subject"`
	Text    string `json:"text"`
	ID      string `json:"id"` // the same for each try
}

// Kind names the job to River.
func (SendPlain) Kind() string { return "send_plain" }

// SendPlain sends words to somebody who need not be in the team, soon; while the mail
// server does not answer it is tried again.
func (room *Room) SendPlain(ctx context.Context, to, subject, text string) error {
	return room.SendPlainOnce(ctx, uuid.NewString(), to, subject, text)
}

// SendPlainOnce sends words as SendPlain does; with the same id it is the same mail.
func (room *Room) SendPlainOnce(ctx context.Context, id, to, subject, text string) error {
	job := SendPlain{To: to, Subject: subject, Text: text, ID: id}
	return pgx.BeginFunc(ctx, room.Chats.Pool(), func(tx pgx.Tx) error { return room.Jobs.Add(ctx, tx, job, room.Now()) })
}

func (room *Room) sendPlain(ctx context.Context, j SendPlain) error {
	if room.Mail == nil {
		return nil
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: "Stoop", From: "stoop@" + room.ReplyDomain, To: j.To, Subject: j.Subject, Text: j.Text,
		ID: fmt.Sprintf("%s.plain@%s", j.ID, room.ReplyDomain),
	})
}
