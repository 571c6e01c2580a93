// Package people is the room of who is behind a chat: the contact with its notes,
// earlier chats of the same person, and who is shut out.
package people

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/notice"
	"stoop/internal/people/register"
	"stoop/internal/remember"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is where the connections of visitors are.
type Live interface {
	// Close ends a visitor's connections, who may not come back.
	Close(visitorID string)
}

// Talk is where chats go on.
type Talk interface {
	// Ending does an act that may end a chat, with the wrap-up of its department.
	Ending(ctx context.Context, chatID string, by chat.Party, decide func(chat.State, chat.WrapUp) ([]chat.Event, error)) (view.ChatView, error)
	// Beside does an act of somebody of the team who may read a chat.
	Beside(ctx context.Context, o access.Actor, chatID, clientID string, decide chatlog.Decide) (view.ChatView, error)
	// WriteTo writes to somebody who is not there, by email.
	WriteTo(ctx context.Context, o access.Actor, to register.Visitor, clientID, text string) (chatID string, err error)
	// TagsInUse returns the tags in use, the most used first.
	TagsInUse(ctx context.Context) ([]string, error)
}

// Outside is the system outside.
type Outside interface {
	// Learn lets the record of a contact be read, whose email is theirs.
	Learn(contactID, email string)
}

// BansNotice is the notice that bans changed.
const BansNotice = "bans"

// Tables are those of bans, and of notes about contacts.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where people are known. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	Register register.Tables
	Visits   visits.Tables
	Files    files.Tables
	Notices  *notice.Board
	Live     Live
	Talk     Talk
	Outside  Outside
	Now      func() time.Time

	bans remember.Value[holding]
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.Notices.On(BansNotice, func(context.Context, string) { room.bans.Forget() })
	room.Notices.OnMissed(func(context.Context) { room.bans.Forget() })
}
