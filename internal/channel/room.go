// Package channel is the room of the ways by which people write to the team beside the site: text
// messages come in, words go out by whatever carries them, and a conversation goes on by another
// way when its visitor wants that.
package channel

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/buckets"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Talk is where words go that came in.
type Talk interface {
	// WriteOver adds what a visitor wrote from elsewhere to their chat, or begins one.
	WriteOver(ctx context.Context, v access.Visitor, in carrier.Incoming) (chatID string, err error)
}

// People is who writes.
type People interface {
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
}

// Live tells who is on the site.
type Live interface {
	// Here reports whether a party has a connection now.
	Here(chat.Party) bool
}

// Post leads back from a mail or a text message.
type Post interface {
	// ReturnLink leads a visitor back to a chat on the site.
	ReturnLink(widgetKey, chatID string) string
}

// Tables are those of channels.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	lookEvery  = 500 * time.Millisecond
	sweepEvery = 10 * time.Minute
	carriers   = 4                   // at once, on each server
	lease      = 30 * time.Second    // within which what was claimed is done, or done again
	doneKept   = 30 * 24 * time.Hour // what went out
	// confirmedKept is how long it is kept to whom a keyword was confirmed.
	confirmedKept = 24 * time.Hour
	cameKept      = 7 * 24 * time.Hour // what came in: a gateway tries no longer
	carryUntil    = 24 * time.Hour     // what is older was taken in from elsewhere
	numbersKept   = 50_000             // of which it is remembered how much they send
)

// Room is where words go in and out by other ways. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Register register.Tables
	Carriers map[channel.Kind]carrier.Carrier // a kind without one is not sent
	Talk     Talk
	People   People
	Live     Live
	Post     Post
	Key      signing.Key
	// TextsKey is what a gateway of text messages says to be one; without it none is listened to.
	TextsKey string
	Log      *slog.Logger
	Now      func() time.Time
	Changed  func() // lets what depends on the set-up be read anew

	came buckets.Buckets // from each number
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.came = buckets.New(numbersKept) }

// Follower puts the team's words in chats that are on another way into the queue of what goes out.
func (room *Room) Follower() chatlog.Follower {
	return chatlog.Follower{
		Name: "channels", FromNow: true, Kinds: []chat.Kind{chat.Said, chat.Shared, chat.Automatic},
		Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
			for _, e := range entries {
				out := e.Detail != nil && e.Detail.Over != nil && e.By.Side != chat.VisitorSide
				if !out || room.Now().Sub(e.Event.At) > carryUntil {
					continue
				}
				if err := putWords(ctx, tx, *e.Detail.Over, e.ChatID, e.Number, room.Now()); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

// Run carries what is to go out until the context ends.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	running.Go(func() {
		again.Drain(ctx, lookEvery, carriers, room.Log, "words for another way", func() (func() error, error) { return room.next(ctx) })
	})
	running.Go(func() {
		again.Every(ctx, sweepEvery, func() { again.InTime(ctx, room.Log, "what came and went by channels", room.Sweep) })
	})
	running.Wait()
}

// next returns how what is due first is carried; nil, if nothing is due.
func (room *Room) next(ctx context.Context) (func() error, error) {
	o, found, err := room.Tables.claim(ctx, room.Now(), lease)
	if err != nil || !found {
		return nil, err
	}
	return func() error { return room.carryOne(ctx, o) }, nil
}

// Sweep deletes what was done long ago, and what chats do not tell any more.
func (room *Room) Sweep(ctx context.Context) error {
	now, db := room.Now(), room.Tables.DB.WithContext(ctx)
	if err := db.Exec("delete from channel_out where done_at < ?", now.Add(-doneKept)).Error; err != nil {
		return err
	}
	// What was said to nobody in particular, such as that STOP was heard.
	if err := db.Exec("delete from channel_out where chat_id is null and done_at < ?", now.Add(-confirmedKept)).Error; err != nil {
		return err
	}
	// Whose address a chat does not tell any more is not kept here either.
	if err := db.Exec("delete from channel_out o using chats c where c.id = o.chat_id and c.form_gone and o.done_at is not null").Error; err != nil {
		return err
	}
	// Nothing that was said before they wanted none is on its way any more.
	if err := db.Exec("delete from channel_stops where started_at < ?", now.Add(-carryUntil-triedFor)).Error; err != nil {
		return err
	}
	if err := db.Exec("delete from channel_codes where made_at < ?", now.Add(-codeLasts)).Error; err != nil {
		return err
	}
	return db.Exec("delete from channel_in where at < ?", now.Add(-cameKept)).Error
}
