package chatlog

import (
	"context"
	"maps"
	"slices"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
)

const (
	// marksEvery is how long marks are gathered before they are stored.
	marksEvery = 200 * time.Millisecond
	// marksKept is how many chats' marks a server remembers.
	marksKept = 16_384
)

// marks are what this server knows of how far words have come. They are stored
// soon and gathered, without waiting for the disk: a crash may lose the last
// moment of them, and the next receipt brings it back.
type marks struct {
	mu    sync.Mutex
	known *lru.Cache[string, chat.Marks]
	fresh map[string]chat.Marks // to be stored
	timer *time.Timer
}

func newMarks() *marks {
	known, _ := lru.New[string, chat.Marks](marksKept) // fails for sizes below one only
	return &marks{known: known, fresh: map[string]chat.Marks{}}
}

// of returns the marks of a chat, given what was stored when it was read.
func (m *marks) of(chatID string, stored chat.Marks) chat.Marks {
	m.mu.Lock()
	defer m.mu.Unlock()
	known, _ := m.known.Peek(chatID)
	return known.With(stored)
}

// move notes how far a side has come, and reports whether that is news.
func (m *marks) move(chatID string, stored chat.Marks, side chat.Side, kind chat.Kind, upTo int64, store func()) (chat.Marks, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	known, _ := m.known.Get(chatID)
	after, news := known.With(stored).Moved(side, kind, upTo)
	if !news {
		return after, false
	}
	m.known.Add(chatID, after)
	m.fresh[chatID] = after
	if m.timer == nil {
		m.timer = time.AfterFunc(marksEvery, store)
	}
	return after, true
}

// take returns what is to be stored.
func (m *marks) take() map[string]chat.Marks {
	m.mu.Lock()
	defer m.mu.Unlock()
	fresh := m.fresh
	m.fresh, m.timer = map[string]chat.Marks{}, nil
	return fresh
}

// back returns what could not be stored, to be tried again.
func (m *marks) back(fresh map[string]chat.Marks, store func()) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for id, marks := range fresh {
		m.fresh[id] = m.fresh[id].With(marks)
	}
	if m.timer == nil {
		m.timer = time.AfterFunc(10*marksEvery, store)
	}
}

// Receive notes how far a party's browser has the other side's words: kind is
// Delivered or Seen. That is told, and takes no number of the log.
func (a *Log) Receive(ctx context.Context, chatID string, by chat.Party, kind chat.Kind, upTo int64) error {
	a.mu.RLock()
	defer a.mu.RUnlock()
	if a.closed {
		return ErrClosed
	}
	s := a.shardOf(chatID)
	var c Chat
	if held, known := s.held.Peek(chatID); known && upTo <= held.Last {
		c = *held
	} else { // another server may have moved it on
		var err error
		if c, err = a.Chat(ctx, chatID); err != nil {
			return err
		}
	}
	upTo, err := c.State.Receive(by, upTo)
	if err != nil {
		return err
	}
	after, news := a.marks.move(chatID, c.Marks(), by.Side, kind, upTo, a.storeMarks)
	if news {
		s.toTell(func() { a.ready(Result{Chat: c.withMarks(after), Marked: true})() })
		a.tellNews(s)
	}
	return nil
}

// Marked takes note of marks that another server stored with a chat, and returns
// the chat with the highest that are known.
func (a *Log) Marked(c Chat) Chat {
	a.marks.mu.Lock()
	defer a.marks.mu.Unlock()
	known, _ := a.marks.known.Get(c.ID)
	higher := known.With(c.Marks())
	a.marks.known.Add(c.ID, higher)
	return c.withMarks(higher)
}

// storeMarks stores what was gathered; what cannot be stored is tried again.
func (a *Log) storeMarks() {
	fresh := a.marks.take()
	if len(fresh) == 0 {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), commitTimeout)
	defer cancel()
	if err := a.Tables.StoreMarks(ctx, fresh); err != nil {
		a.marks.back(fresh, a.storeMarks) // the database is away, which others tell
		return
	}
	if a.OnMarks != nil {
		a.OnMarks(slices.Collect(maps.Keys(fresh)))
	}
}

// StoreMarks stores how far words have come; what is stored already and higher
// stays.
func (s Tables) StoreMarks(ctx context.Context, fresh map[string]chat.Marks) error {
	// In one order, so that two servers never wait for each other's rows.
	ids := slices.Sorted(maps.Keys(fresh))
	var numbers [4][]int64
	for _, id := range ids {
		m := fresh[id]
		for i, n := range []int64{m.ByVisitor.Delivered, m.ByVisitor.Seen, m.ByTeam.Delivered, m.ByTeam.Seen} {
			numbers[i] = append(numbers[i], n)
		}
	}
	// Both statements are one transaction: they are sent as one.
	batch := &pgx.Batch{}
	batch.Queue("select set_config('synchronous_commit', 'off', true)")
	batch.Queue(`insert into marks as m (chat_id, visitor_delivered, visitor_seen, team_delivered, team_seen)
		select t.* from unnest($1::uuid[], $2::bigint[], $3::bigint[], $4::bigint[], $5::bigint[]) as t(id, visitor_delivered, visitor_seen, team_delivered, team_seen)
			join chats on chats.id = t.id -- one that is gone must not keep back the others
			order by t.id
		on conflict (chat_id) do update set
			visitor_delivered = greatest(m.visitor_delivered, excluded.visitor_delivered), visitor_seen = greatest(m.visitor_seen, excluded.visitor_seen),
			team_delivered = greatest(m.team_delivered, excluded.team_delivered), team_seen = greatest(m.team_seen, excluded.team_seen)`,
		ids, numbers[0], numbers[1], numbers[2], numbers[3])
	return s.Pool().SendBatch(ctx, batch).Close()
}
