// Package tickets is the room of what remains to be done after a chat: making tickets, answering
// them, passing them on, finding them again, and counting them. What may happen in one says
// core/ticket.
package tickets

import (
	"context"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/internal/buckets"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells.
type Live interface {
	ToTeam(message any)
	ToVisitor(visitorID string, message any)
}

// Post sends to customers.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// TicketMade sends the receipt of a ticket, soon, as part of a transaction.
	TicketMade(ctx context.Context, tx pgx.Tx, ticketID string) error
	// TicketSaid sends what the team said by an event of a ticket, soon, as part of a transaction.
	TicketSaid(ctx context.Context, tx pgx.Tx, ticketID string, number int64) error
}

// People is who writes.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
}

// TicketsMoved tells the team, and the visitor whose it is, that a ticket was made or changed.
type TicketsMoved struct {
	Type string `json:"type" enum:"tickets"`
	ID   string `json:"id" doc:"Of the ticket"`
}

// Room is where tickets are. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Replica  *store.Replica
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Live     Live
	Post     Post
	People   People
	// Telephone rings customers; nil: operators call by themselves.
	Telephone Telephone
	Log       *slog.Logger
	Now       func() time.Time
	Zone      *time.Location // in which a day begins for the team

	senders buckets.Buckets
}

// A customer adds so many answers at once to their tickets, and then one after so long: a loop of
// mails ends here.
const (
	answersAtOnce = 20
	answerEvery   = 2 * time.Minute
	sendersKept   = 10_000
)

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.senders = buckets.New(sendersKept) }

// moved tells browsers that a ticket was made or changed. What it is they ask for themselves.
func (room *Room) moved(t Ticket) {
	room.Live.ToTeam(TicketsMoved{Type: "tickets", ID: t.ID})
	if t.State.Visitor != "" {
		room.Live.ToVisitor(t.State.Visitor, TicketsMoved{Type: "tickets", ID: t.ID})
	}
}

// mine returns a ticket that somebody of the team may see.
func (room *Room) mine(ctx context.Context, o access.Actor, id string) (Ticket, error) {
	t, err := room.Tables.Ticket(ctx, id)
	if err == nil && !sees(o, t) {
		return Ticket{}, store.ErrNotFound
	}
	return t, err
}

// nameOf returns what somebody of the team is called; nothing for nobody.
func (room *Room) nameOf(id string) string {
	if id == "" {
		return ""
	}
	return room.Settings.OperatorName(id)
}

func sees(o access.Actor, t Ticket) bool {
	return o.SeesTicket(t.State.Department, t.State.Owner, t.State.OpenedBy.ID)
}
