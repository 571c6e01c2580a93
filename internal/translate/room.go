// Package translate is the room of what puts words beside others that the other side
// reads: it translates what visitors write in chats that are translated, what operators are
// about to send, and guesses in which language somebody writes.
package translate

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Translator translates. It may be slow, wrong or away.
type Translator interface {
	// Translate returns words in another language; the unknown are words that it left as
	// they were.
	Translate(ctx context.Context, text, from, into string) (translated string, unknown []string, err error)
	// Languages returns the tags of the languages between which it translates.
	Languages() []string
}

// Tables are what the room asks of the chats' projection.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	kicksKept = 1000             // chats whose words are translated at once; others the next look finds
	workers   = 4                // chats at once
	lookEvery = time.Second      // for words that nobody translated
	atOnce    = 100              // chats of one look
	turnLimit = 30 * time.Second // all that a chat waits for
)

// Room is where words are translated. Its methods are safe for concurrent use.
type Room struct {
	Tables     Tables
	Chats      *chatlog.Log
	Settings   *settings.Cache
	View       *view.Views
	Translator Translator // nil: there is none
	Log        *slog.Logger
	Now        func() time.Time

	kicks chan string
	mu    sync.Mutex
	at    map[string]bool // chats at work on this server
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.kicks, room.at = make(chan string, kicksKept), map[string]bool{} }

// Kick lets a visitor's words in a chat be translated soon, if some wait for it.
func (room *Room) Kick(chatID string) {
	select {
	case room.kicks <- chatID:
	default: // the next look finds it
	}
}

// Run translates until the context ends. It looks at the database each second, so that no
// restart forgets words.
func (room *Room) Run(ctx context.Context) {
	if room.Translator == nil {
		return
	}
	var running sync.WaitGroup
	for range workers {
		running.Go(func() {
			for {
				select {
				case <-ctx.Done():
					return
				case id := <-room.kicks:
					room.translateOwed(ctx, id)
				}
			}
		})
	}
	running.Go(func() {
		again.Every(ctx, lookEvery, func() {
			again.InTime(ctx, room.Log, "words that are to be translated", func(ctx context.Context) error {
				ids, err := room.Tables.IDs(ctx, "select id::text from chats where translation_owed order by id limit $1", atOnce)
				for _, id := range ids {
					room.Kick(id)
				}
				return err
			})
		})
	})
	running.Wait()
}

// mine keeps a second worker of this server from the same chat.
func (room *Room) mine(chatID string) (release func(), ok bool) {
	room.mu.Lock()
	defer room.mu.Unlock()
	if room.at[chatID] {
		return nil, false
	}
	room.at[chatID] = true
	return func() {
		room.mu.Lock()
		defer room.mu.Unlock()
		delete(room.at, chatID)
	}, true
}

// translateOwed translates what the visitor of a chat said and nobody has translated. What
// fails stays owed: the next look tries again. That a translator is away its client logs once.
func (room *Room) translateOwed(ctx context.Context, chatID string) {
	release, ok := room.mine(chatID)
	if !ok {
		return // the next look finds what was said meanwhile
	}
	defer release()
	ctx, cancel := context.WithTimeout(ctx, turnLimit)
	defer cancel()
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil || c.State.Translating == nil {
		return
	}
	for _, owed := range c.State.Translating.Owed {
		if err := room.translateOne(ctx, c, owed); err != nil {
			room.Log.Debug("a visitor's words are not translated yet", "chat", chatID, "number", owed.Number, "error", err)
			return
		}
	}
}

func (room *Room) translateOne(ctx context.Context, c chatlog.Chat, owed chat.Owed) error {
	words, err := room.wordsAt(ctx, c.ID, owed.Number)
	if err != nil {
		return err
	}
	from, t := c.State.Translating.Theirs, chat.Translation{Language: c.State.Translating.Ours}
	if words != "" {
		if t.Text, t.Unknown, err = room.Translator.Translate(ctx, words, from, t.Language); err != nil {
			return err
		}
	}
	_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Translated(owed, from, t, room.Now()), nil
	}})
	return err
}

// correctionsWithin bounds in how many events after words their correction is looked for:
// they can be corrected for a minute.
const correctionsWithin = 500

// wordsAt returns the words of an event as they were last corrected, or nothing for what is
// not words.
func (room *Room) wordsAt(ctx context.Context, chatID string, number int64) (string, error) {
	events, err := room.Chats.Events(ctx, chatID, number-1, correctionsWithin)
	if err != nil || len(events) == 0 || events[0].Kind != chat.Said {
		return "", err
	}
	words := events[0].Text
	for _, e := range events {
		if e.Kind == chat.Corrected && e.UpTo == number {
			words = e.Text
		}
	}
	return words, nil
}
