package mailing

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/google/uuid"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/carrier"
	"stoop/internal/files"
	"stoop/internal/mail"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// ReceiveMail takes in what came by mail: an answer to a chat or to a ticket, or what somebody
// writes to an address of the team's own.
func (room *Room) ReceiveMail(ctx context.Context, m mail.Received) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	if line, ok := s.Channels.LineAt(channel.Email, m.To); ok {
		return room.receiveAtLine(ctx, s, line, m)
	}
	local, _, _ := strings.Cut(m.To, "@")
	if rest, isTicket := strings.CutPrefix(local, "ticket+"); isTicket {
		return room.receiveForTicket(ctx, m, rest)
	}
	return room.receiveForChat(ctx, m, strings.TrimPrefix(local, "chat+"))
}

// receiveForChat adds an answer to its chat. When the chat is over, the answer begins a message of
// its own, for the one who had it.
func (room *Room) receiveForChat(ctx context.Context, m mail.Received, local string) error {
	id, proof, _ := strings.Cut(local, ".")
	chatID, err := uuid.Parse(id)
	if err != nil || !room.Key.Proves(proof, "reply", chatID.String()) {
		return mail.ErrUnknownAddress
	}
	c, err := room.Chats.Chat(ctx, chatID.String())
	if errors.Is(err, store.ErrNotFound) {
		return mail.ErrUnknownAddress
	}
	if err != nil || m.Text == "" && len(m.Files) == 0 {
		return err
	}
	if m.Automatic {
		room.Log.Info("an automatic answer by mail was left out: nobody wrote it", "chat", c.ID, "from", m.From)
		return nil
	}
	if err := room.People.MayEnter(ctx, c.VisitorID, ""); err != nil {
		return mail.ErrUnknownAddress // who is shut out is so by mail too
	}
	visitor := access.Visitor{ID: c.VisitorID, WidgetID: c.WidgetID}
	over := chat.Way{Kind: channel.Email, Address: carrier.Small(cmp.Or(c.Email, m.Author, m.From))} // where they wanted the answers, whoever sends this one
	if now := c.State.Over; now != nil && now.Kind == channel.Email {
		over.Line = now.Line // whoever wrote to the team's own address is answered from there
	}
	return room.add(ctx, visitor, m, chatID, over, func(clientID, text string) (string, error) {
		into, err := room.Talk.AnswerByMail(ctx, visitor, c, clientID, text, over)
		c.ID = cmp.Or(into, c.ID)
		return c.ID, err
	})
}

// linesMost bounds how many mails come in at once from one address to the team's own, and from then
// on a minute: what two programs send each other comes to an end, and a person is asked to wait.
const (
	lineMailsAtOnce   = 20
	lineMailsASecond  = rate.Limit(1.0 / 60)
	lineSendersAtOnce = 50_000
)

// receiveAtLine takes in what somebody wrote to an address of the team's own: it goes into the
// chat that they have by mail, or begins a message.
func (room *Room) receiveAtLine(ctx context.Context, s *settings.Settings, line settings.ChannelLine, m mail.Received) error {
	from := carrier.Small(cmp.Or(m.Author, m.From))
	_, domain, _ := strings.Cut(from, "@")
	_, own := s.Channels.LineAt(channel.Email, from)
	switch {
	case m.Automatic || own || strings.EqualFold(domain, room.ReplyDomain):
		room.Log.Info("a mail that a program wrote, or Stoop itself, was left out", "line", line.Name)
		return nil
	case !form.ValidEmail(from):
		return mail.ErrUnknownAddress // nobody could be answered
	case !room.came.Of(line.ID+from, lineMailsASecond, lineMailsAtOnce).AllowN(room.Now(), 1):
		return mail.ErrTooFast
	}
	visitor, err := room.Channels.Sender(ctx, line, from, m.AuthorName)
	if err != nil {
		return err
	}
	if err := room.People.MayEnter(ctx, visitor.ID, ""); err != nil {
		return mail.ErrUnknownAddress
	}
	seed, err := uuid.Parse(line.ID)
	if err != nil {
		return err
	}
	over := chat.Way{Kind: channel.Email, Line: line.ID, Address: from}
	if m.Text == "" {
		m.Text = m.Subject // some write all there
	}
	return room.add(ctx, visitor, m, seed, over, func(clientID, text string) (string, error) {
		return room.Talk.WriteOver(ctx, visitor, carrier.Incoming{ClientID: clientID, Text: text, Over: over, Department: line.DepartmentID, Mail: carrier.MailHead{Subject: m.Subject, ID: m.ID}})
	})
}

// notTaken reports whether a file is not kept however often it is sent.
func notTaken(err error) bool {
	var big *files.TooBigError
	var wrong *files.WrongTypeError
	var refused *problem.Problem
	if errors.As(err, &refused) && refused.Status == http.StatusTooManyRequests {
		return true // they have sent as many as they may
	}
	return errors.As(err, &big) || errors.As(err, &wrong) || errors.Is(err, files.ErrNoContent) || errors.Is(err, files.ErrNotAPicture) || errors.Is(err, files.ErrHugePicture) || errors.Is(err, chat.ErrEnded)
}

// add adds a mail to a chat: its words, in as many messages as they need, what is longer as a file,
// and the files that came along.
func (room *Room) add(ctx context.Context, v access.Visitor, m mail.Received, seed uuid.UUID, over chat.Way, write func(clientID, text string) (chatID string, err error)) error {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return err
	}
	// A mail server that was not sure sends again: the same id counts once.
	id := func(what string, n int, of string) string {
		return uuid.NewSHA1(seed, fmt.Appendf(nil, "%s %s%d %s", m.ID, what, n, of)).String()
	}
	parts, rest := firstParts(m.Text, w.MessageLimit)
	into := ""
	if len(parts) == 0 && len(m.Files) > 0 {
		parts = []string{m.Files[0].Name}
	}
	for i, part := range parts {
		if into, err = write(id("", i, part), part); errors.Is(err, chat.ErrEmpty) {
			room.Log.Info("a mail without a word that can be seen was left out", "from", m.From)
			return nil
		} else if err != nil {
			return err
		}
	}
	if into == "" {
		return nil // there was nothing in it
	}
	if rest != "" {
		if err := room.Talk.ShareOver(ctx, v, into, id("rest", 0, ""), over, files.Claim{Name: "Rest of the mail.txt", Size: int64(len(rest))}, strings.NewReader(rest)); err != nil {
			return err
		}
	}
	left := slices.Clone(m.LeftOut)
	for i, f := range m.Files {
		if !w.VisitorFiles {
			left = append(left, f.Name)
			continue
		}
		err := room.Talk.ShareOver(ctx, v, into, id("file", i, f.Name), over, files.Claim{Name: f.Name, Size: int64(len(f.Content))}, bytes.NewReader(f.Content))
		if notTaken(err) {
			left = append(left, f.Name)
			continue
		}
		if err != nil {
			return err
		}
	}
	if len(left) == 0 {
		return nil
	}
	told := "(Came with files that are not kept: " + strings.Join(left, ", ") + ")"
	_, err = write(id("left", 0, ""), chat.CleanBlock(told, w.MessageLimit))
	return err
}

// mailParts is how many messages of a mail stand in the chat; the rest comes as
// a file.
const mailParts = 3

// firstParts cuts a long text into messages, and what is beyond mailParts.
func firstParts(text string, limit int) (parts []string, rest string) {
	parts = chat.InParts(text, limit)
	if len(parts) > mailParts {
		parts, rest = parts[:mailParts], strings.Join(parts[mailParts:], "\n")
	}
	return parts, rest
}
