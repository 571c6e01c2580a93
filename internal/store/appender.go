package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"gorm.io/gorm"

	"stoop/core/chat"
)

const (
	// shards is how many batches may be on their way to the database at once.
	// A chat always belongs to the same one.
	shards = 4
	// batchLimit bounds a batch, so that one slow commit cannot gather a
	// statement without end.
	batchLimit = 256
	// heldChats is how many chats each shard remembers between two appends.
	heldChats = 4096
	// commitTimeout is how long a commit may hang before its acts are answered
	// with an error; their senders then repeat them under the same client id.
	commitTimeout = 30 * time.Second
	// staleTries bounds how often an act is decided anew because another
	// server appended to the same chat in between.
	staleTries = 20
)

// ErrStale is returned when a chat keeps changing under an act.
var ErrStale = errors.New("the chat changed too often while this was being stored")

// ErrClosed is returned for acts after the appender was closed.
var ErrClosed = errors.New("the server is stopping")

// Decide says what an act leads to in a state: events that follow it, or the
// reason why not. No events and no error means that nothing changes.
type Decide func(chat.State) ([]chat.Event, error)

// Act is something to be done in a chat.
type Act struct {
	ChatID   string
	By       chat.Party
	ClientID string // makes the act idempotent; may be empty
	Decide   Decide
}

// Result is what an act led to, after it is durable.
type Result struct {
	Chat     Chat         // the chat after the act
	Events   []chat.Event // what the act added; with Repeated, what it had added the first time
	Repeated bool
}

// Appender writes events to the logs of chats. Acts that arrive while the
// database commits are gathered and committed together (group commit), in one
// statement that compares each chat's last number with the one that the
// decision was made on: two servers that act on the same chat cannot both win.
// It is safe for concurrent use.
type Appender struct {
	store  *Store
	tell   func(Result)
	seed   maphash.Seed
	queues [shards]chan *pending
	done   chan struct{}
	wait   sync.WaitGroup
	once   sync.Once
}

type pending struct {
	act    Act
	tries  int
	result Result
	err    error
	ready  chan struct{}
}

// NewAppender starts an appender. tell is called for every act that added
// events, after its commit, for one chat in the order of its log; it must not
// block.
func NewAppender(s *Store, tell func(Result)) *Appender {
	a := &Appender{store: s, tell: tell, seed: maphash.MakeSeed(), done: make(chan struct{})}
	for i := range a.queues {
		a.queues[i] = make(chan *pending, batchLimit)
		a.wait.Go(func() { a.work(a.queues[i]) })
	}
	return a
}

// Append does an act and returns when it is durable. An error of Decide is
// returned as it is; any other error leaves open whether the act was stored,
// and the caller may repeat it under the same ClientID.
func (a *Appender) Append(ctx context.Context, act Act) (Result, error) {
	p := &pending{act: act, ready: make(chan struct{})}
	queue := a.queues[maphash.String(a.seed, act.ChatID)%shards]
	select {
	case queue <- p:
	case <-a.done:
		return Result{}, ErrClosed
	case <-ctx.Done():
		return Result{}, ctx.Err()
	}
	select {
	case <-p.ready:
		return p.result, p.err
	case <-ctx.Done():
		return Result{}, ctx.Err()
	case <-a.done:
		// What was queued when the appender closed is still finished.
		a.wait.Wait()
		select {
		case <-p.ready:
			return p.result, p.err
		default:
			return Result{}, ErrClosed
		}
	}
}

// Close finishes what is queued and stops. Closing again does nothing.
func (a *Appender) Close() {
	a.once.Do(func() { close(a.done) })
	a.wait.Wait()
}

func (a *Appender) work(queue chan *pending) {
	held, _ := lru.New[string, Chat](heldChats)
	for {
		select {
		case p := <-queue:
			a.commit(held, gather(queue, p))
		case <-a.done:
			select {
			case p := <-queue:
				a.commit(held, gather(queue, p))
			default:
				return
			}
		}
	}
}

func gather(queue chan *pending, first *pending) []*pending {
	batch := []*pending{first}
	for len(batch) < batchLimit {
		select {
		case p := <-queue:
			batch = append(batch, p)
		default:
			return batch
		}
	}
	return batch
}

// commit does a batch, and again those acts whose chat another server had
// moved on meanwhile.
func (a *Appender) commit(held *lru.Cache[string, Chat], batch []*pending) {
	for len(batch) > 0 {
		batch = a.commitOnce(held, batch)
	}
}

// draft is a chat with the acts of one batch applied but not stored yet.
type draft struct {
	before Chat
	after  Chat
	events []chat.Event
	acts   []*pending
}

func (a *Appender) commitOnce(held *lru.Cache[string, Chat], batch []*pending) (again []*pending) {
	ctx, cancel := context.WithTimeout(context.Background(), commitTimeout)
	defer cancel()
	drafts := map[string]*draft{}
	for _, p := range batch {
		d, err := a.draftFor(ctx, held, drafts, p.act.ChatID)
		if err != nil {
			p.finish(err)
			continue
		}
		a.decide(ctx, d, p)
	}
	var rows []*draft
	for _, d := range drafts {
		if len(d.events) > 0 {
			rows = append(rows, d)
		} else {
			d.succeed(a.tell)
		}
	}
	if len(rows) == 0 {
		return nil
	}
	moved, err := a.store.appendAll(ctx, rows)
	switch {
	case err == nil:
	case isUnique(err, "events_once"):
		return a.forgetRepeats(ctx, held, rows)
	case isAnswer(err) && len(rows) > 1:
		// The database refused the batch because of one of its members; the
		// others must not suffer for it.
		for _, d := range rows {
			again = append(again, a.alone(ctx, held, d)...)
		}
		return again
	default:
		for _, d := range rows {
			held.Remove(d.before.ID)
			d.fail(err)
		}
		return nil
	}
	for _, d := range rows {
		if moved[d.before.ID] {
			held.Add(d.after.ID, d.after)
			d.succeed(a.tell)
			continue
		}
		held.Remove(d.before.ID)
		again = append(again, d.retry()...)
	}
	return again
}

func (a *Appender) alone(ctx context.Context, held *lru.Cache[string, Chat], d *draft) []*pending {
	moved, err := a.store.appendAll(ctx, []*draft{d})
	switch {
	case err == nil && moved[d.before.ID]:
		held.Add(d.after.ID, d.after)
		d.succeed(a.tell)
		return nil
	case err == nil:
		held.Remove(d.before.ID)
		return d.retry()
	}
	held.Remove(d.before.ID)
	d.fail(err)
	return nil
}

func (a *Appender) draftFor(ctx context.Context, held *lru.Cache[string, Chat], drafts map[string]*draft, id string) (*draft, error) {
	if d, ok := drafts[id]; ok {
		return d, nil
	}
	c, ok := held.Get(id)
	if !ok {
		var err error
		if c, err = a.store.Chat(ctx, id); err != nil {
			return nil, err
		}
	}
	d := &draft{before: c, after: c}
	drafts[id] = d
	return d, nil
}

// decide applies one act to a draft. An act that is refused may be one that
// was stored before, when the chat still allowed it: then its first result
// stands.
func (a *Appender) decide(ctx context.Context, d *draft, p *pending) {
	if p.act.ClientID != "" {
		for _, e := range d.events {
			if e.ClientID == p.act.ClientID && e.By == p.act.By {
				p.result.Events, p.result.Repeated = []chat.Event{e}, true
				d.acts = append(d.acts, p)
				return
			}
		}
	}
	events, err := p.act.Decide(d.after.State)
	if err == nil {
		state := d.after.State
		for _, e := range events {
			if state, err = state.Apply(e); err != nil {
				break
			}
		}
		if err == nil {
			d.after = d.after.advance(state, events)
			d.events = append(d.events, events...)
			p.result.Events = events
			d.acts = append(d.acts, p)
			return
		}
	}
	if first, found := a.store.repeated(ctx, p.act); found {
		p.result = Result{Chat: d.before, Events: []chat.Event{first}, Repeated: true}
		p.finish(nil)
		return
	}
	p.finish(err)
}

// forgetRepeats answers the acts of a batch that had been stored before and
// returns the others, to be decided anew.
func (a *Appender) forgetRepeats(ctx context.Context, held *lru.Cache[string, Chat], rows []*draft) (again []*pending) {
	for _, d := range rows {
		held.Remove(d.before.ID)
		for _, p := range d.acts {
			if first, found := a.store.repeated(ctx, p.act); found {
				current, err := a.store.Chat(ctx, p.act.ChatID)
				p.result = Result{Chat: current, Events: []chat.Event{first}, Repeated: true}
				p.finish(err)
				continue
			}
			again = append(again, p.again()...)
		}
	}
	return again
}

func (d *draft) succeed(tell func(Result)) {
	for _, p := range d.acts {
		p.result.Chat = d.after
		p.finish(nil)
	}
	if len(d.events) > 0 {
		tell(Result{Chat: d.after, Events: d.events})
	}
}

func (d *draft) fail(err error) {
	for _, p := range d.acts {
		p.finish(fmt.Errorf("storing the event: %w", err))
	}
}

func (d *draft) retry() (again []*pending) {
	for _, p := range d.acts {
		again = append(again, p.again()...)
	}
	return again
}

func (p *pending) again() []*pending {
	p.result = Result{}
	if p.tries++; p.tries >= staleTries {
		p.finish(ErrStale)
		return nil
	}
	return []*pending{p}
}

func (p *pending) finish(err error) {
	p.err = err
	close(p.ready)
}

// appendStatement moves chats on and adds to their logs, for those chats whose
// last number is still the one that was decided on. One statement is one
// transaction and one way to the database and back.
const appendStatement = `
with draft as (
	select * from jsonb_to_recordset(?::jsonb) as d(
		id uuid, before bigint, last bigint, phase text, ending text, owner_id uuid,
		taken_at timestamptz, replied_at timestamptz, ended_at timestamptz,
		last_words text, last_words_side text, last_words_at timestamptz, state jsonb)
), moved as (
	update chats c set last = d.last, phase = d.phase, ending = d.ending, owner_id = d.owner_id,
		taken_at = d.taken_at, replied_at = d.replied_at, ended_at = d.ended_at,
		last_words = d.last_words, last_words_side = d.last_words_side, last_words_at = d.last_words_at,
		state = d.state
	from draft d where c.id = d.id and c.last = d.before
	returning c.id
), added as (
	insert into events (chat_id, number, kind, at, side, party_id, client_id, text, up_to, ending)
	select e.chat_id, e.number, e.kind, e.at, e.side, e.party_id, e.client_id, e.text, e.up_to, e.ending
	from jsonb_to_recordset(?::jsonb) as e(
		chat_id uuid, number bigint, kind text, at timestamptz, side text, party_id uuid,
		client_id text, text text, up_to bigint, ending text)
	join moved on moved.id = e.chat_id
)
select id::text from moved`

func (s *Store) appendAll(ctx context.Context, drafts []*draft) (moved map[string]bool, err error) {
	chats := make([]map[string]any, 0, len(drafts))
	events := make([]map[string]any, 0, len(drafts))
	for _, d := range drafts {
		c := d.after
		chats = append(chats, map[string]any{
			"id": c.ID, "before": d.before.Last, "last": c.Last, "phase": c.Phase, "ending": c.Ending, "owner_id": c.OwnerID,
			"taken_at": c.TakenAt, "replied_at": c.RepliedAt, "ended_at": c.EndedAt,
			"last_words": c.LastWords, "last_words_side": c.LastWordsSide, "last_words_at": c.LastWordsAt, "state": c.State,
		})
		for _, e := range d.events {
			row := toRow(c.ID, e)
			events = append(events, map[string]any{
				"chat_id": row.ChatID, "number": row.Number, "kind": row.Kind, "at": row.At, "side": row.Side,
				"party_id": row.PartyID, "client_id": row.ClientID, "text": row.Text, "up_to": row.UpTo, "ending": row.Ending,
			})
		}
	}
	chatsJSON, err := json.Marshal(chats)
	if err != nil {
		return nil, err
	}
	eventsJSON, err := json.Marshal(events)
	if err != nil {
		return nil, err
	}
	var ids []string
	if err := s.DB.WithContext(ctx).Raw(appendStatement, string(chatsJSON), string(eventsJSON)).Scan(&ids).Error; err != nil {
		return nil, err
	}
	moved = make(map[string]bool, len(ids))
	for _, id := range ids {
		moved[id] = true
	}
	return moved, nil
}

// repeated looks for an event that the same party stored under the same client
// id before.
func (s *Store) repeated(ctx context.Context, act Act) (chat.Event, bool) {
	if act.ClientID == "" {
		return chat.Event{}, false
	}
	var row Event
	err := s.DB.WithContext(ctx).
		Where("chat_id = ? and party_id = ? and client_id = ?", act.ChatID, act.By.ID, act.ClientID).
		Take(&row).Error
	return fromRow(row), err == nil
}

// Start stores a new chat with its first events. The visitor's client id makes
// it idempotent; when the visitor has an open chat already, that one is
// returned with opened false and nothing is stored.
func (s *Store) Start(ctx context.Context, c Chat, events []chat.Event) (stored Chat, opened bool, err error) {
	state, err := chat.Fold(events)
	if err != nil {
		return Chat{}, false, err
	}
	c = c.advance(state, events)
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
		rows := make([]Event, len(events))
		for i, e := range events {
			rows[i] = toRow(c.ID, e)
		}
		return tx.Create(&rows).Error
	})
	if err == nil {
		return c, true, nil
	}
	if !isUnique(err, "chats_one_open") && !isUnique(err, "chats_visitor_id_start_client_id_key") {
		return Chat{}, false, fmt.Errorf("storing the chat: %w", err)
	}
	var there Chat
	err = s.DB.WithContext(ctx).
		Where("visitor_id = ? and (start_client_id = ? or phase <> 'ended')", c.VisitorID, c.StartClientID).
		Order(gorm.Expr("start_client_id = ? desc", c.StartClientID)).Take(&there).Error
	return there, false, notFound(err)
}
