package tickets

import (
	"context"
	"errors"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/live"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// AnswerByMail adds to a ticket what its customer wrote by mail. One that was merged goes on in
// the other one. Sending again under the same client id changes nothing.
func (room *Room) AnswerByMail(ctx context.Context, ticketID, clientID, from, text string) error {
	_, err := room.answer(ctx, ticketID, clientID, ticket.ByMail, from, text)
	return err
}

// mergesMost bounds how far a chain of merged tickets is followed.
const mergesMost = 50

func (room *Room) answer(ctx context.Context, id, clientID, via, from, text string) (Ticket, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Ticket{}, err
	}
	for range mergesMost {
		t, err := room.Tables.Ticket(ctx, id)
		if err != nil {
			return t, err
		}
		if t.State.MergedInto != nil {
			id = t.State.MergedInto.ID
			continue
		}
		if err := room.mayAnswer(t); err != nil {
			return t, err
		}
		anybody := func(Ticket) error { return nil } // whose it is was proven before
		t, err = room.act(ctx, id, clientID, anybody, func(t Ticket) ([]ticket.Event, error) {
			return t.State.Answer(customer(t), clientID, text, via, from, s.TicketDue, room.Now())
		}, nil)
		var p *problem.Problem
		if errors.As(err, &p) && p.Code == errMerged.Code {
			continue // merged this very moment
		}
		return t, err
	}
	return Ticket{}, store.ErrNotFound
}

// ForMail returns a ticket with its log, for a mail about it.
func (room *Room) ForMail(ctx context.Context, id string) (ticket.Ticket, []ticket.Event, error) {
	t, err := room.Tables.Ticket(ctx, id)
	if err != nil {
		return ticket.Ticket{}, nil, err
	}
	log, err := room.Tables.Log(ctx, id)
	return t.Core(), log, err
}

// MayAnswer refuses the customer of a ticket who is banned in the browser by which they are known.
func (room *Room) MayAnswer(ctx context.Context, id string) error {
	t, err := room.Tables.Ticket(ctx, id)
	if err != nil || t.State.Visitor == "" {
		return err
	}
	return room.People.MayEnter(ctx, t.State.Visitor, "")
}

// OwnTicket is a ticket as its customer reads it in the panel.
type OwnTicket struct {
	ID     string    `json:"id"`
	Number int64     `json:"number"`
	Title  string    `json:"title"`
	Status string    `json:"status" enum:"open,us,customer,done"`
	Said   []OwnSaid `json:"said"`

	CallAt   *time.Time `json:"callAt,omitempty" doc:"When the team calls, if it is to"`
	CallSoon bool       `json:"callSoon,omitempty" doc:"It calls as soon as it can"`
}

// OwnSaid is something that was said in it.
type OwnSaid struct {
	Number int64     `json:"number"`
	At     time.Time `json:"at"`
	Mine   bool      `json:"mine" doc:"The customer said it"`
	Name   string    `json:"name,omitempty" doc:"Of who said it for the team, as shown"`
	Text   string    `json:"text"`
}

// Bounds of what a panel shows.
const (
	ownMost     = 10
	ownSaidMost = 100
	ownFor      = 30 * 24 * time.Hour // since a ticket that is done was touched
)

// Own returns the tickets of a visitor.
func (room *Room) Own(ctx context.Context, v access.Visitor) ([]OwnTicket, error) {
	list, err := room.Tables.OfVisitor(ctx, v.ID, room.Now().Add(-ownFor), ownMost)
	out := []OwnTicket{}
	for _, t := range list {
		own, err := room.own(ctx, v, t)
		if err != nil {
			return nil, err
		}
		out = append(out, own)
	}
	return out, err
}

// own returns a ticket as its customer reads it: of what was merged into it, what they said and
// were told themselves.
func (room *Room) own(ctx context.Context, v access.Visitor, t Ticket) (OwnTicket, error) {
	own := OwnTicket{ID: t.ID, Number: t.Number, Title: t.State.Title, Status: string(t.State.Status), Said: []OwnSaid{}}
	if t.State.Call != nil && t.State.Status != ticket.Done {
		own.CallAt = &t.State.Call.At
		own.CallSoon = t.State.Call.Soon && t.State.Call.Tries == 0 && !t.State.Call.At.After(room.Now())
		if t.State.Chosen != nil && t.State.Call.Tries > 0 {
			own.CallAt = t.State.Chosen
		}
	}
	log, err := room.whole(ctx, t)
	for _, e := range log {
		if e.Kind != ticket.Said || e.in.State.Visitor != v.ID {
			continue
		}
		line := OwnSaid{Number: int64(len(own.Said)) + 1, At: e.At, Mine: e.By.Side != chat.TeamSide, Text: e.Text}
		if !line.Mine {
			line.Name = room.Settings.ShownName(e.By.ID)
		}
		own.Said = append(own.Said, line)
	}
	own.Said = own.Said[max(0, len(own.Said)-ownSaidMost):]
	return own, err
}

// mustOwn refuses a visitor whose ticket it is not.
func mustOwn(t Ticket, v access.Visitor) error {
	if t.State.Visitor != v.ID {
		return store.ErrNotFound
	}
	return nil
}

// OwnAnswer adds what a visitor says in the panel to a ticket of theirs, and returns all of them.
func (room *Room) OwnAnswer(ctx context.Context, v access.Visitor, id, clientID, text string) ([]OwnTicket, error) {
	if err := live.CheckClientID(clientID); err != nil {
		return nil, err
	}
	t, err := room.Tables.Ticket(ctx, id)
	if err == nil {
		err = mustOwn(t, v)
	}
	if err != nil {
		return nil, err
	}
	if _, err = room.answer(ctx, id, clientID, ticket.ByPanel, "", text); err != nil {
		return nil, err
	}
	return room.Own(ctx, v)
}
