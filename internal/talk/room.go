// Package talk is the room of what people do in a chat: open it, say something,
// correct and withdraw it, share files, note, tag, take a chat, hand it on, talk
// together, end it. One file an act.
package talk

import (
	"context"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/people/register"
	"stoop/internal/remember"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells beside the log. Sending never blocks and never
// fails as far as the sender is concerned.
type Live interface {
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
	// Here reports whether a party has a connection now.
	Here(chat.Party) bool
}

// Floor is where it is decided who gets whom.
type Floor interface {
	// Kick lets the queues be looked at soon.
	Kick()
	// Meet reads what is known of a visitor, who may just have given an email.
	Meet(ctx context.Context, visitorID, email string) (register.Met, error)
	// Decide returns where a chat goes.
	Decide(ctx context.Context, w settings.Widget, m register.Met, intro chat.Intro, department string) (routing.Decision, error)
	// Answers reports whether somebody could take a chat of a department now, and
	// if not, when hours open next.
	Answers(ctx context.Context, department string) (open bool, opensAt *time.Time, err error)
	// WidgetState returns how a widget stands now, and WidgetView all of it.
	WidgetState(ctx context.Context, w settings.Widget) (view.WidgetState, error)
	WidgetView(ctx context.Context, w settings.Widget, wishes ...string) (view.WidgetView, error)
	// Arriving begins to look who could take a chat that is about to be opened, and
	// returns what stores it, handed out at once if that can be.
	Arriving(ctx context.Context) chatlog.Receiver
	// Taking goes ahead of an act by which an operator takes a chat: it is refused
	// when they have as many in hand as they may, unless they want it anyway.
	Taking(operatorID string, capacity int, anyway bool) []chatlog.Statement
	// Load returns how many chats an operator has in hand.
	Load(ctx context.Context, operatorID string) (int, error)
	// Available reports whether an operator is connected and wants chats.
	Available(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error)
	// ForgetPasses begins the count of the offers that an operator let by anew,
	// along with an act.
	ForgetPasses(operatorID string) chatlog.Statement
}

// Helper is what answers before a person does.
type Helper interface {
	// First returns the flow that is the first to answer a chat of a widget, if one is: for
	// a time at which somebody could take it, or nobody could.
	First(ctx context.Context, w settings.Widget, somebodyIn bool) (settings.LiveFlow, bool, error)
	// Kick lets the helper's turn in a chat be taken soon, if it is its turn.
	Kick(chatID string)
}

// Translator is what puts words beside others that the other side reads.
type Translator interface {
	// Kick lets a visitor's words in a chat be translated soon, if some wait for it.
	Kick(chatID string)
}

// People is who is behind a chat.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
	// Proven takes note that a visitor reads what is mailed to the email they gave.
	Proven(ctx context.Context, visitorID string) error
	// EarlierChats returns the other chats of the same person, newest first.
	EarlierChats(ctx context.Context, visitorID, withoutID string) ([]chatlog.Chat, error)
}

// Site is where visitors are.
type Site interface {
	// Invitation returns the invitation of a visitor to which they may write.
	Invitation(ctx context.Context, visitorID, id string) (visits.Accepted, error)
	// Led puts down that a chat came of an invitation.
	Led(ctx context.Context, invitationID, chatID string) error
	// TellPlace tells those who see a chat where its visitor is.
	TellPlace(ctx context.Context, c chatlog.Chat, v visits.Visit)
}

// Outside is the system outside.
type Outside interface {
	// Card returns something that is to be shown in a chat, as it is now.
	Card(ctx context.Context, kind, id string) (chat.Card, error)
}

// Mail takes words to where their reader is.
type Mail interface {
	// SendLater lets words of a chat go to its visitor by mail, as part of the
	// transaction that stores them.
	SendLater(ctx context.Context, tx pgx.Tx, c chatlog.Chat, number int64) error
	// Returning finds the visitor whom a link in a mail leads back.
	Returning(ctx context.Context, back string) (visitorID, widgetID string, err error)
}

// Library is where canned responses are.
type Library interface {
	// UseCanned counts the use of a response.
	UseCanned(ctx context.Context, o access.Actor, id string) error
	// PageTitle returns what a page of a site is called; nothing, if that is not known soon.
	PageTitle(ctx context.Context, address string) string
}

// Tables are what the room asks of the chats' projection.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where people talk. Its methods are safe for concurrent use.
type Room struct {
	Tables     Tables
	Chats      *chatlog.Log
	Settings   *settings.Cache
	View       *view.Views
	Register   register.Tables
	Files      files.Tables
	Contents   files.Store
	Key        signing.Key
	Live       Live
	Floor      Floor
	People     People
	Site       Site
	Mail       Mail
	Library    Library
	Outside    Outside
	Helper     Helper
	Translator Translator
	Log        *slog.Logger
	Now        func() time.Time

	quotas quotas
	tags   remember.Value[tags]
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.quotas = newQuotas() }

// ForgetTags makes the next look at the tags in use count them anew.
func (room *Room) ForgetTags() { room.tags.Forget() }
