package mailing

import (
	"context"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/wording"
)

// MessagesLeft is the follower that lets those know by mail who want to, of
// messages left for their departments.
func (room *Room) MessagesLeft() chatlog.Follower {
	return chatlog.Follower{
		Name: "messages left", FromNow: true, Kinds: []chat.Kind{chat.Started, chat.KeptAsMessage},
		Ready: func(ctx context.Context) error {
			_, err := room.Settings.Get(ctx) // in memory, before the transaction has its connection
			return err
		},
		Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
			for _, e := range entries {
				if e.Kind == chat.Started && e.Intro != nil && e.Intro.Message || e.Kind == chat.KeptAsMessage {
					if err := room.tellOfMessage(ctx, tx, e.ChatID); err != nil {
						return err
					}
				}
			}
			return nil
		},
	}
}

func (room *Room) tellOfMessage(ctx context.Context, tx pgx.Tx, chatID string) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	log, err := chatlog.WholeLog(ctx, tx, chatID)
	if err != nil {
		return err
	}
	state, err := chat.Fold(log)
	if err != nil {
		// One damaged log must not keep all others from being told of.
		room.Log.Error("nobody is told by mail of a message that was left: its log cannot be read", "chat", chatID, "error", err)
		return nil
	}
	if !state.Message || state.Phase != chat.Waiting {
		return nil // somebody was faster
	}
	for _, o := range s.Team {
		if !o.Active || !s.IsMember(o.ID, state.Department) {
			continue
		}
		// A job for each, so that a mail that fails is not sent to the others again.
		// Whether they want it is asked when it is sent.
		if err := room.Jobs.Add(ctx, tx, MessageLeft{ChatID: chatID, OperatorID: o.ID}, room.Now()); err != nil {
			return err
		}
	}
	return nil
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
	p, err := settings.PreferencesOf(o)
	if err != nil || p.MailMessage == nil || !*p.MailMessage {
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
	words := wording.In(p.Language)
	said, err := inWords(words, c, log, c.Last)
	if err != nil {
		return err
	}
	var lines strings.Builder
	for _, e := range said {
		fmt.Fprintln(&lines, e.Text)
	}
	told := struct{ Visitor, Department, Words, Link string }{c.Name, d.Name, lines.String(), room.URL + "/desk"}
	return room.toTeam(ctx, o.Email, words, "left", told, c.ID+".left."+o.ID)
}
