// Package acting is the room of rules that act: it sees when a rule's occasion is there, does
// what the rule says, and keeps a log of what each did.
package acting

import (
	"context"
	"encoding/json"
	"log/slog"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"stoop/core/acting"
	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/tickets"
	"stoop/internal/view"
)

// Floor is where chats are handed out.
type Floor interface {
	// Kick lets it be looked whether a chat can be handed out.
	Kick()
}

// Tickets is where tickets are made.
type Tickets interface {
	// MakeByRule makes a ticket of a chat, and returns its number.
	MakeByRule(ctx context.Context, in tickets.ByRule) (int64, error)
}

// Post is where mail goes.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// SendPlainOnce sends words to somebody, soon; with the same id it is the same mail.
	SendPlainOnce(ctx context.Context, id, to, subject, text string) error
}

// Hooks are where other systems are told.
type Hooks interface {
	// TellByRule lets a webhook be told that a rule acted, and reports whether it is there.
	TellByRule(ctx context.Context, webhookID, id string, chat view.ChatView, rule, name, when string) (bool, error)
	// Names returns the names of the webhooks, by id.
	Names(ctx context.Context) (map[string]string, error)
}

// Tables are those of what rules did.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	lookEvery  = time.Second
	workEvery  = 300 * time.Millisecond
	sweepEvery = 10 * time.Minute
	lookedKept = 50_000
	liveMost   = 5000                // chats at one look
	actUntil   = 24 * time.Hour      // what is older was taken in from elsewhere
	lease      = 30 * time.Second    // within which what was begun is done, or done again
	triesMost  = 8                   // then it is put down as failed
	keptFor    = 90 * 24 * time.Hour // what rules did
	unheldFor  = time.Hour           // what was for other chats
)

// looked is an occasion that needs no second look.
type looked struct {
	rule, chat string
	since      int64
}

// Room is where rules act. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Floor    Floor
	Tickets  Tickets
	Post     Post
	Hooks    Hooks
	Log      *slog.Logger
	Now      func() time.Time
	Zone     *time.Location // of the hours that conditions ask for
	URL      string         // under which the console is reached
	Changed  func()         // lets what depends on the set-up be read anew

	looked *lru.Cache[looked, struct{}]
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.looked, _ = lru.New[looked, struct{}](lookedKept) // fails for sizes below one only
}

// rules returns the rules that are on.
func (room *Room) rules(ctx context.Context) ([]acting.ActingRule, error) {
	d, err := settings.ActingDocument.Read(ctx, room.Settings.Tables)
	if err != nil {
		return nil, err
	}
	var on []acting.ActingRule
	for _, r := range d.Rules {
		if r.On {
			on = append(on, r)
		}
	}
	return on, nil
}

// Follower puts down the occasions that begin with an event, each once.
func (room *Room) Follower() chatlog.Follower {
	var rules []acting.ActingRule
	return chatlog.Follower{
		Name: "acting", FromNow: true, Kinds: acting.Kinds,
		Ready: func(ctx context.Context) (err error) {
			rules, err = room.rules(ctx)
			return err
		},
		Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
			for _, e := range entries {
				if room.Now().Sub(e.Event.At) > actUntil {
					continue
				}
				for _, w := range acting.Begun(e.Event) {
					for _, r := range rules {
						if r.When != w {
							continue
						}
						if err := add(ctx, tx, r, e.ChatID, w.Of(e.Event), room.Now()); err != nil {
							return err
						}
					}
				}
			}
			return nil
		},
	}
}

// Run lets rules act until the context ends.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	running.Go(func() {
		again.Every(ctx, lookEvery, func() { again.InTime(ctx, room.Log, "what rules are due", room.Look) })
	})
	running.Go(func() {
		again.Every(ctx, sweepEvery, func() { again.InTime(ctx, room.Log, "the log of rules", room.sweep) })
	})
	running.Go(func() { again.Every(ctx, workEvery, func() { room.work(ctx) }) })
	running.Wait()
}

// work does what is due, one after the other.
func (room *Room) work(ctx context.Context) {
	for more := true; more && ctx.Err() == nil; {
		again.InTime(ctx, room.Log, "what a rule does", func(ctx context.Context) (err error) {
			more = false // when it fails, after a moment
			more, err = room.next(ctx)
			return err
		})
	}
}

// Look puts down the occasions that are there after some seconds. It looks at the chats as
// they stand, so that no restart forgets one.
func (room *Room) Look(ctx context.Context) error {
	all, err := room.rules(ctx)
	if err != nil {
		return err
	}
	var timed []acting.ActingRule
	for _, r := range all {
		if r.When.Timed() {
			timed = append(timed, r)
		}
	}
	if len(timed) == 0 {
		return nil
	}
	rows, err := room.Tables.Pool().Query(ctx, "select id::text, state from chats where phase in ('waiting', 'active') and not message order by started_at desc limit $1", liveMost)
	if err != nil {
		return err
	}
	type live struct {
		id    string
		state chat.State
	}
	chats, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (c live, err error) {
		var state []byte
		if err = r.Scan(&c.id, &state); err == nil {
			err = json.Unmarshal(state, &c.state)
		}
		return c, err
	})
	if err != nil {
		return err
	}
	now := room.Now()
	for _, c := range chats {
		for _, r := range timed {
			since, is := r.When.Since(c.state)
			key := looked{r.ID, c.id, since.UnixNano()}
			if !is || now.Sub(since) < time.Duration(r.Seconds)*time.Second || room.looked.Contains(key) {
				continue
			}
			if err := add(ctx, room.Tables.Pool(), r, c.id, since, now); err != nil {
				return err
			}
			room.looked.Add(key, struct{}{})
		}
	}
	return nil
}

// sweep forgets what was done long ago.
func (room *Room) sweep(ctx context.Context) error {
	now := room.Now()
	// What was for other chats is known for as long as it could be looked at once more.
	_, err := room.Tables.Pool().Exec(ctx, `delete from rule_runs r where done_at < $1 or done_at < $2 and not held
		and (occasion in ('arrives', 'message', 'ends', 'rated-low') or exists (select from chats c where c.id = r.chat_id and c.phase = 'ended'))`, now.Add(-keptFor), now.Add(-unheldFor))
	return err
}
