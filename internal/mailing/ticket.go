package mailing

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/wording"
)

// SendTicketReceipt tells a customer that a ticket was made for them. It is a job.
type SendTicketReceipt struct {
	TicketID string `json:"ticketId"`
}

// Kind names the job to River.
func (SendTicketReceipt) Kind() string { return "send_ticket_receipt" }

// SendTicketWords sends a customer what the team said in a ticket. It is a job.
type SendTicketWords struct {
	TicketID string `json:"ticketId"`
	Number   int64  `json:"number"` // of the event
}

// Kind names the job to River.
func (SendTicketWords) Kind() string { return "send_ticket_words" }

// TicketMade sends the receipt of a ticket, soon, as part of a transaction.
func (room *Room) TicketMade(ctx context.Context, tx pgx.Tx, ticketID string) error {
	return room.Jobs.Add(ctx, tx, SendTicketReceipt{ticketID}, room.Now())
}

// TicketSaid sends what the team said by an event of a ticket, soon, as part of a transaction.
func (room *Room) TicketSaid(ctx context.Context, tx pgx.Tx, ticketID string, number int64) error {
	return room.Jobs.Add(ctx, tx, SendTicketWords{ticketID, number}, room.Now())
}

// ticketTold is what a mail about a ticket tells.
type ticketTold struct {
	answer
	Number int64
	Title  string
	Name   string
}

func (room *Room) sendTicketReceipt(ctx context.Context, j SendTicketReceipt) error {
	t, log, err := room.Tickets.ForMail(ctx, j.TicketID)
	if err != nil || room.Mail == nil || t.State.Email == "" || len(log) == 0 {
		return err
	}
	told, err := room.ticketTold(ctx, t, log, log[0])
	if err != nil {
		return err
	}
	// What follows below is the chat, as they may read it.
	if first := log[0].Opening; first.Chat != "" {
		if err := room.quoteChat(ctx, t, first.Chat, &told); err != nil {
			return err
		}
	}
	return room.mailTicket(ctx, t, told, "ticket receipt", "receipt", true)
}

func (room *Room) sendTicketWords(ctx context.Context, j SendTicketWords) error {
	t, log, err := room.Tickets.ForMail(ctx, j.TicketID)
	if err != nil || room.Mail == nil || t.State.Email == "" {
		return err
	}
	for _, e := range log {
		if e.Number == j.Number && e.Kind == ticket.Said && e.By.Side == chat.TeamSide {
			told, err := room.ticketTold(ctx, t, log, e)
			if err != nil {
				return err
			}
			return room.mailTicket(ctx, t, told, "ticket answer", fmt.Sprint(e.Number), false)
		}
	}
	return nil
}

func (room *Room) mailTicket(ctx context.Context, t ticket.Ticket, told ticketTold, template, part string, automatic bool) error {
	words := wording.In(t.State.Language)
	subject, err := wording.Write(words, "ticket subject", told)
	if err != nil {
		return err
	}
	text, err := wording.Write(words, template, told)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: told.Operator + " · " + told.Site, From: "ticket@" + room.ReplyDomain, To: t.State.Email, ReplyTo: room.ticketAddress(t.ID),
		Subject: subject, Text: text, Automatic: automatic,
		ID: fmt.Sprintf("%s.ticket.%s@%s", t.ID, part, room.ReplyDomain), Thread: t.ID + ".ticket.receipt@" + room.ReplyDomain,
	})
}

// ticketTold returns what a mail about a ticket tells: the words of an event, and what was said
// before.
func (room *Room) ticketTold(ctx context.Context, t ticket.Ticket, log []ticket.Event, e ticket.Event) (ticketTold, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return ticketTold{}, err
	}
	w := siteOf(s, t.State.Widget)
	told := ticketTold{answer: answer{Words: e.Text, Operator: room.Settings.ShownName(e.By.ID), Site: w.Name, Marker: mail.Marker}, Number: t.Number, Title: t.State.Title, Name: t.State.Name}
	if told.Link, err = room.ticketLink(ctx, t, w); err != nil {
		return told, err
	}
	date, err := wording.Write(wording.In(t.State.Language), "date", nil)
	if err != nil {
		return told, err
	}
	for i := len(log) - 1; i >= 0 && len(told.Earlier) < quotedMost; i-- {
		before := log[i]
		if before.Kind != ticket.Said || before.Number >= e.Number {
			continue
		}
		told.Earlier = append(told.Earlier, room.quote(before.By, t.State.Name, before.At, date, before.Text))
	}
	return told, nil
}

// siteOf returns the widget by which a customer came; of somebody who came by none, the first one
// by name speaks for the team.
func siteOf(s *settings.Settings, id string) settings.Widget {
	w, there := s.Widgets[id]
	for _, other := range s.Widgets {
		if !there && other.RemovedAt == nil && (w.ID == "" || other.Name < w.Name) {
			w = other
		}
	}
	return w
}

// ticketLink leads a customer to the panel in which they read their ticket; empty where there is
// no chat of theirs to which it could lead.
func (room *Room) ticketLink(ctx context.Context, t ticket.Ticket, w settings.Widget) (string, error) {
	if t.State.Visitor == "" {
		return "", nil
	}
	for _, id := range t.State.Chats {
		c, err := room.Chats.Chat(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return "", err
		}
		if c.VisitorID == t.State.Visitor && c.WidgetID == w.ID {
			return room.ReturnLink(w.Key, c.ID) + fmt.Sprintf("&ticket=%d", t.Number), nil
		}
	}
	return "", nil
}

// quoteChat puts what was said in a chat below a receipt.
func (room *Room) quoteChat(ctx context.Context, t ticket.Ticket, chatID string, told *ticketTold) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if errors.Is(err, store.ErrNotFound) || err == nil && c.VisitorID != t.State.Visitor {
		return nil
	}
	if err != nil {
		return err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	log, err := room.Chats.Events(ctx, c.ID, 0, chatlog.ReadAtOnce)
	if err != nil {
		return err
	}
	words := wording.In(t.State.Language)
	said, err := inWords(words, c, log, c.Last)
	if err != nil || len(said) == 0 {
		return err
	}
	// answer takes the last words for the new ones: here all are quoted.
	quoted, err := room.answer(words, c, w, append(said, chat.Event{}))
	told.Earlier = quoted.Earlier
	return err
}

// ticketAddress is where answers to a ticket's mails go.
func (room *Room) ticketAddress(id string) string {
	return "ticket+" + strings.ReplaceAll(id, "-", "") + "." + room.Key.Proof("ticket", id) + "@" + room.ReplyDomain
}

// receiveForTicket adds what came by mail to its ticket. What is longer than a ticket takes at
// once comes in parts.
func (room *Room) receiveForTicket(ctx context.Context, m mail.Received, local string) error {
	id, proof, _ := strings.Cut(local, ".")
	ticketID, err := uuid.Parse(id)
	if err != nil || !room.Key.Proves(proof, "ticket", ticketID.String()) {
		return mail.ErrUnknownAddress
	}
	if err := room.Tickets.MayAnswer(ctx, ticketID.String()); err != nil {
		if errors.Is(err, store.ErrNotFound) || errors.Is(err, access.ErrBanned) {
			return mail.ErrUnknownAddress // who is shut out is so by mail too
		}
		return err
	}
	if m.Automatic {
		room.Log.Info("an automatic answer by mail was left out: nobody wrote it", "ticket", ticketID, "from", m.From)
		return nil
	}
	parts := chat.InParts(m.WithoutFiles(), ticket.WordsLimit)
	if len(parts) > ticketParts {
		parts = parts[:ticketParts]
		last := []rune(parts[ticketParts-1])
		parts[ticketParts-1] = strings.TrimSpace(string(last[:min(len(last), ticket.WordsLimit-len(cutShort))])) + cutShort
	}
	for i, part := range parts {
		// A mail server that was not sure sends again: the same id counts once.
		clientID := uuid.NewSHA1(ticketID, fmt.Appendf(nil, "%s %d %s", m.ID, i, part)).String()
		if err := room.Tickets.AnswerByMail(ctx, ticketID.String(), clientID, m.From, part); err != nil {
			return err
		}
	}
	return nil
}

// ticketParts is how many entries of a ticket one mail makes; the rest is left out, and that is
// said.
const (
	ticketParts = 5
	cutShort    = "\n\n(This mail was longer; its end was not taken in.)"
)
