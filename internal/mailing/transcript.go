package mailing

import (
	"context"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/internal/chatlog"
	"stoop/internal/mail"
)

// SendTranscript sends a chat's transcript. It is a job.
type SendTranscript struct {
	ChatID  string `json:"chatId"`
	To      string `json:"to"`
	Subject string `json:"subject"`
	Text    string `json:"text"`
	ID      string `json:"id"` // the same for each try
}

// Kind names the job to River.
func (SendTranscript) Kind() string { return "send_transcript" }

// Sends reports whether mail can be sent at all.
func (room *Room) Sends() bool { return room.Mail != nil }

// SendTranscript sends a chat's transcript to somebody, soon; while the mail server does
// not answer it is tried again.
func (room *Room) SendTranscript(ctx context.Context, c chatlog.Chat, to, subject, text string) error {
	job := SendTranscript{ChatID: c.ID, To: to, Subject: subject, Text: text, ID: uuid.NewString()}
	return pgx.BeginFunc(ctx, room.Chats.Pool(), func(tx pgx.Tx) error { return room.Jobs.Add(ctx, tx, job, room.Now()) })
}

func (room *Room) sendTranscript(ctx context.Context, j SendTranscript) error {
	c, err := room.Chats.Chat(ctx, j.ChatID)
	if err != nil || room.Mail == nil {
		return err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: w.Name, From: "chat@" + room.ReplyDomain, To: j.To, Subject: j.Subject, Text: j.Text,
		ID: fmt.Sprintf("%s.transcript@%s", j.ID, room.ReplyDomain),
	})
}
