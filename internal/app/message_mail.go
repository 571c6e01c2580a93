package app

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"stoop/core/chat"
	"stoop/internal/jobs"
	"stoop/internal/mail"
	"stoop/internal/store"
)

// tellOfMessages lets those know by mail who want to, of messages left for
// their departments. Each is told of once, over all servers.
func (a *App) tellOfMessages(ctx context.Context) error {
	left, err := a.store.UntoldMessages(ctx)
	for _, c := range left {
		err = errors.Join(err, a.tellOfMessage(ctx, c))
	}
	return err
}

func (a *App) tellOfMessage(ctx context.Context, c store.UntoldMessage) error {
	s, err := a.readSetup(ctx)
	if err != nil {
		return err
	}
	return a.store.TellOnce(ctx, c.ID, func(tx store.Tx) error {
		for _, o := range s.operators {
			p, err := preferencesOf(o)
			if err != nil {
				return err
			}
			if !o.Active || p.MailMessage == nil || !*p.MailMessage || !s.isMember(o.ID, c.DepartmentID) {
				continue
			}
			// A job for each, so that a mail that fails is not sent to the others again.
			if err := a.jobs.Add(ctx, tx, jobs.MessageLeft{ChatID: c.ID, OperatorID: o.ID}, a.now()); err != nil {
				return err
			}
		}
		return nil
	})
}

// MessageLeft sends a message that was left to somebody who wants it by mail.
// It is a job.
func (a *App) MessageLeft(ctx context.Context, j jobs.MessageLeft) error {
	if a.mail == nil {
		return nil
	}
	c, err := a.store.Chat(ctx, j.ChatID)
	if err != nil || !c.Message || c.Phase != chat.Waiting {
		return err
	}
	o, err := a.store.OperatorByID(ctx, j.OperatorID)
	if err != nil {
		return err
	}
	d, err := a.department(ctx, c.State.Department)
	if err != nil {
		return err
	}
	log, err := a.store.Events(ctx, c.ID, 0, resumeLimit)
	if err != nil {
		return err
	}
	var words strings.Builder
	for _, e := range wordsUpTo(c, log, c.Last) {
		fmt.Fprintln(&words, e.Text)
	}
	return a.mail.Send(ctx, mail.Message{
		FromName: "Stoop", From: "stoop@" + a.replies, To: o.Email,
		Subject: fmt.Sprintf("Message from %s for %s", or(c.Name, "a visitor"), d.Name),
		Text:    fmt.Sprintf("%s\nReply on the Desk:\n%s/desk\n", words.String(), a.url),
		ID:      fmt.Sprintf("%s.left.%s@%s", c.ID, o.ID, a.replies),
	})
}
