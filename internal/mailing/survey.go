package mailing

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/wording"
)

// askAfter is how long a visitor who was asked in the panel is given to answer there
// before the question goes by mail.
const askAfter = 15 * time.Minute

// Surveys is the follower that asks those by mail who were asked how a chat was and did
// not say, where the widget is set to.
func (room *Room) Surveys() chatlog.Follower {
	return chatlog.Follower{
		Name: "surveys", FromNow: true, Kinds: []chat.Kind{chat.Ended},
		Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
			for _, e := range entries {
				due := e.Event.At.Add(askAfter)
				// What is over longer than that has just been taken in from elsewhere: a
				// history, whose visitors do not wait for mail.
				if e.Detail == nil || !e.Detail.Survey || due.Before(room.Now()) {
					continue
				}
				if err := room.Jobs.Add(ctx, tx, AskForRating{ChatID: e.ChatID}, due); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

// AskForRating asks a visitor by mail how a chat was. It is a job.
type AskForRating struct {
	ChatID string `json:"chatId"`
}

// Kind names the job to River.
func (AskForRating) Kind() string { return "ask_for_rating" }

// askForRating sends the question, unless it was answered or nobody wants it.
func (room *Room) askForRating(ctx context.Context, j AskForRating) error {
	c, err := room.Chats.Chat(ctx, j.ChatID)
	if err != nil || room.Mail == nil || c.Email == "" || c.State.Feedback != nil || room.Now().Sub(c.State.EndedAt) > chat.RateWithin {
		return err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil || !w.Survey.On || !w.Survey.ByMail {
		return err
	}
	words := wording.In(c.Language)
	asked := struct{ Name, Operator, Site, Link, Question string }{c.Name, room.Settings.ShownName(c.State.Owner), w.Name, room.ReturnLink(w.Key, c.ID), w.Survey.Question}
	subject, err := wording.Write(words, "survey subject", asked)
	if err != nil {
		return err
	}
	text, err := wording.Write(words, "survey", asked)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: w.Name, From: "chat@" + room.ReplyDomain, To: c.Email, ReplyTo: room.replyAddress(c.ID),
		Subject: subject, Text: text,
		ID: fmt.Sprintf("%s.survey@%s", c.ID, room.ReplyDomain), Thread: c.ID + "@" + room.ReplyDomain,
	})
}
