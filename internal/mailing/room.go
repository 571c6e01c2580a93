// Package mailing is the room of what goes and comes by mail: answers to visitors
// who have left, their answers to these, and word to the team of messages left.
package mailing

import (
	"context"
	"io"
	"log/slog"
	"time"

	"stoop/core/access"
	"stoop/core/alert"
	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/buckets"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/jobs"
	"stoop/internal/mail"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
	"stoop/internal/store"
)

// Live tells who is here to read.
type Live interface {
	// Here reports whether a party has a connection now.
	Here(chat.Party) bool
}

// Talk is where answers by mail go.
type Talk interface {
	// AnswerByMail adds words that a visitor sent by mail to a chat, and returns
	// the chat in which they stand.
	AnswerByMail(ctx context.Context, v access.Visitor, c chatlog.Chat, clientID, text string, over chat.Way) (chatID string, err error)
	// WriteOver adds what a visitor wrote to an address of the team's own to their chat, or
	// begins one.
	WriteOver(ctx context.Context, v access.Visitor, in carrier.Incoming) (chatID string, err error)
	// ShareOver adds a file that came with a visitor's mail.
	ShareOver(ctx context.Context, v access.Visitor, chatID, clientID string, over chat.Way, claim files.Claim, content io.Reader) error
}

// Channels are the ways by which people write beside the site.
type Channels interface {
	// Sender returns who writes from an address to a line.
	Sender(ctx context.Context, line settings.ChannelLine, address, name string) (access.Visitor, error)
}

// People is who writes.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
}

// Tickets is what remains to be done after chats.
type Tickets interface {
	// ForMail returns a ticket with its log.
	ForMail(ctx context.Context, id string) (ticket.Ticket, []ticket.Event, error)
	// MayAnswer refuses the customer of a ticket who is banned.
	MayAnswer(ctx context.Context, id string) error
	// AnswerByMail adds to a ticket what its customer wrote by mail.
	AnswerByMail(ctx context.Context, ticketID, clientID, from, text string) error
}

// Alerts is what leads are called for.
type Alerts interface {
	// Raised returns an alert.
	Raised(ctx context.Context, id string) (alert.Raised, error)
}

// Room is where mail goes and comes. Its methods are safe for concurrent use.
type Room struct {
	Chats    *chatlog.Log
	Settings *settings.Cache
	Jobs     *jobs.Queue
	Mail     mail.Sender // without it nothing is sent
	Live     Live
	Talk     Talk
	People   People
	Alerts   Alerts
	Tickets  Tickets
	Channels Channels
	Files    files.Tables
	Contents files.Store
	Key      signing.Key
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // of the times in mails

	URL         string // under which visitors reach Stoop
	ReplyDomain string // behind the @ of addresses that answers go to

	came buckets.Buckets // from each address to the team's own
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.came = buckets.New(lineSendersAtOnce) }

// Workers says who sends what.
func (room *Room) Workers(w *jobs.Workers) {
	work(w, room.sendWords)
	work(w, room.messageLeft)
	work(w, room.askForRating)
	work(w, room.sendTranscript)
	work(w, room.sendReport)
	work(w, room.sendAlert)
	work(w, room.sendPlain)
	work(w, room.sendTicketReceipt)
	work(w, room.sendTicketWords)
}

// work lets a kind of mail be sent. What it was to tell of may be deleted by then: nothing
// is left to send.
func work[T interface{ Kind() string }](w *jobs.Workers, send func(context.Context, T) error) {
	jobs.Work(w, func(ctx context.Context, job T) error { return store.IgnoreMissing(send(ctx, job)) })
}
