// Package chatlog is the heart: the log of each chat, in which everything that
// happens is one event, and the projection of it. It appends what rooms decide
// on, once and in order, and says so afterwards.
package chatlog

import (
	"context"
	"errors"
	"fmt"
	"hash/maphash"
	"slices"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/store"
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

	// Guard, if set, runs in the transaction of the act before anything is
	// written; its error refuses the act. Also runs in it afterwards, for what
	// must be durable together with the events. Such an act commits alone.
	Guard func(context.Context, pgx.Tx) error
	Also  func(context.Context, pgx.Tx, Chat, []chat.Event) error
}

func (a Act) commitsAlone() bool { return a.Guard != nil || a.Also != nil }

// Result is what an act led to, after it is durable.
type Result struct {
	Chat     Chat         // the chat after the act
	Events   []chat.Event // what the act added; with Repeated, what it had added the first time
	Repeated bool
	Marked   bool // only how far words have come is new
}

// Log writes events to the logs of chats. Acts that arrive while the
// database commits are gathered and committed together (group commit), in one
// statement that compares each chat's last number with the one that the
// decision was made on: two servers that act on the same chat cannot both win.
// It is safe for concurrent use.
type Log struct {
	Tables
	tell   func(Result)
	seed   maphash.Seed
	shards [shards]shard
	mu     sync.RWMutex // held for reading by acts under way
	closed bool
	spread sync.WaitGroup // of what is still being told
	marks  *marks
	// OnMarks, if set, is told of which chats marks were stored.
	OnMarks func(chatIDs []string)

	waking sync.Mutex
	wakes  map[string]waker // of followers, by name
}

func (a *Log) shardOf(chatID string) *shard { return &a.shards[maphash.String(a.seed, chatID)%shards] }

// shard is a queue whose members commit for each other: whoever finds nobody
// at work commits all that is queued, the others wait. An act on an idle
// server is committed at once, without a change of thread.
//
// An act that commits alone, with a guard or with more in its transaction, holds
// up its own chat only: what comes for it meanwhile waits apart.
type shard struct {
	mu     sync.Mutex
	queue  []*pending
	atWork bool
	apart  map[string][]*pending // by chat with an act that commits alone under way: what waits for it
	held   *lru.Cache[string, Chat]

	telling sync.Mutex
	news    []func() // what is to be told, in the order of the commits
	tells   bool     // somebody is telling
}

type pending struct {
	act    Act
	tries  int
	result Result
	err    error
	ready  chan struct{}
}

// New returns a log. tell is called for every act that added
// events, after its commit, for one chat in the order of its log. The acts that
// follow do not wait for it.
func New(s *store.Store, tell func(Result)) *Log {
	a := &Log{Tables: On(s), tell: tell, seed: maphash.MakeSeed(), marks: newMarks()}
	for i := range a.shards {
		a.shards[i].held, _ = lru.New[string, Chat](heldChats) // fails for sizes below one only
		a.shards[i].apart = map[string][]*pending{}
	}
	return a
}

// Append does an act and returns when it is durable. An error of Decide is
// returned as it is; any other error leaves open whether the act was stored,
// and the caller may repeat it under the same ClientID.
func (a *Log) Append(ctx context.Context, act Act) (Result, error) {
	a.mu.RLock()
	defer a.mu.RUnlock()
	if a.closed {
		return Result{}, ErrClosed
	}
	if err := ctx.Err(); err != nil {
		return Result{}, err
	}
	p := &pending{act: act, ready: make(chan struct{})}
	s := a.shardOf(act.ChatID)
	s.mu.Lock()
	s.queue = append(s.queue, p)
	working := s.atWork
	s.atWork = true
	s.mu.Unlock()
	if !working {
		a.work(s, p)
	}
	<-p.ready
	return p.result, p.err
}

// Close waits for the acts under way, and until they are told, and refuses
// further ones.
func (a *Log) Close() {
	a.mu.Lock()
	a.closed = true
	a.mu.Unlock()
	a.storeMarks()
	a.spread.Wait()
}

// AfterTold does something when all that was appended to a chat so far is told.
func (a *Log) AfterTold(chatID string, do func()) {
	a.tellLater(a.shardOf(chatID), do)
}

// tellLater tells something when what came before it in its shard is told.
func (a *Log) tellLater(s *shard, tell func()) {
	s.telling.Lock()
	s.news = append(s.news, tell)
	begin := !s.tells
	s.tells = true
	s.telling.Unlock()
	if begin {
		a.spread.Go(func() { a.tellAll(s) })
	}
}

func (a *Log) tellAll(s *shard) {
	for {
		s.telling.Lock()
		news := s.news
		s.news = nil
		s.tells = len(news) > 0
		s.telling.Unlock()
		if len(news) == 0 {
			return
		}
		for _, tell := range news {
			tell()
		}
	}
}

// work commits what is queued until one's own act is done; then somebody else
// goes on with the rest, so that nobody works for the others without end.
func (a *Log) work(s *shard, own *pending) {
	for {
		s.mu.Lock()
		if len(s.queue) == 0 {
			s.atWork = false
			s.mu.Unlock()
			return
		}
		if own.done() {
			s.mu.Unlock()
			go a.work(s, never)
			return
		}
		batch, alone := s.next()
		s.mu.Unlock()
		a.commit(s, batch)
		mine := false
		for _, p := range alone {
			if mine = mine || p == own; p != own {
				go a.commitApart(s, p)
			}
		}
		if mine {
			a.handOver(s)
			a.commitApart(s, own)
			return
		}
	}
}

// handOver lets somebody else go on with the queue, if there is anything in it.
func (a *Log) handOver(s *shard) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.atWork = len(s.queue) > 0; s.atWork {
		go a.work(s, never)
	}
}

// next takes from the queue what can be committed together, and what commits
// alone after it. What is for a chat that commits alone waits for that. The
// shard is locked.
func (s *shard) next() (batch, alone []*pending) {
	n := 0
	for ; n < len(s.queue) && len(batch) < batchLimit; n++ {
		p := s.queue[n]
		waiting, busy := s.apart[p.act.ChatID]
		switch {
		case busy:
			s.apart[p.act.ChatID] = append(waiting, p)
		case p.act.commitsAlone():
			s.apart[p.act.ChatID] = nil
			alone = append(alone, p)
		default:
			batch = append(batch, p)
		}
	}
	s.queue = s.queue[n:]
	return batch, alone
}

// commitApart commits an act alone, and lets go on what waited for its chat.
func (a *Log) commitApart(s *shard, p *pending) {
	for again := []*pending{p}; len(again) > 0; {
		again = a.commitAlone(s, again[0])
	}
	s.mu.Lock()
	s.queue = append(s.apart[p.act.ChatID], s.queue...)
	delete(s.apart, p.act.ChatID)
	idle := !s.atWork && len(s.queue) > 0
	s.atWork = s.atWork || idle
	s.mu.Unlock()
	if idle {
		go a.work(s, never)
	}
}

func (p *pending) done() bool {
	select {
	case <-p.ready:
		return true
	default:
		return false
	}
}

// never is the act of a worker that works until nothing is queued.
var never = &pending{ready: make(chan struct{})}

// commit does a batch, and again those acts whose chat another server had
// moved on meanwhile.
func (a *Log) commit(s *shard, batch []*pending) {
	for len(batch) > 0 {
		batch = a.commitOnce(s, batch)
	}
}

// commitAlone does one act with what belongs into its transaction.
func (a *Log) commitAlone(s *shard, p *pending) (again []*pending) {
	ctx, cancel := context.WithTimeout(context.Background(), commitTimeout)
	defer cancel()
	d, err := a.draftFor(ctx, s.held, map[string]*draft{}, p.act.ChatID)
	if err != nil {
		p.finish(err)
		return nil
	}
	a.decide(ctx, d, p)
	if p.done() {
		return nil
	}
	if len(d.events) == 0 {
		a.succeed(s, d)
		return nil
	}
	var refused error
	moved := false
	err = pgx.BeginFunc(ctx, a.Pool(), func(tx pgx.Tx) error {
		if p.act.Guard != nil {
			if refused = p.act.Guard(ctx, tx); refused != nil {
				return refused
			}
		}
		stored, err := appendAll(ctx, tx, []*draft{d})
		if moved = stored[d.before.ID]; err != nil || !moved || p.act.Also == nil {
			return err
		}
		return p.act.Also(ctx, tx, d.after, d.events)
	})
	switch {
	case refused != nil:
		p.finish(refused)
	case store.IsUnique(err, "events_once"):
		return a.forgetRepeats(ctx, s.held, []*draft{d})
	case err != nil:
		s.held.Remove(d.before.ID)
		d.fail(err)
	case !moved:
		s.held.Remove(d.before.ID)
		return d.retry()
	default:
		s.held.Add(d.after.ID, d.after)
		a.succeed(s, d)
	}
	return nil
}

// draft is a chat with the acts of one batch applied but not stored yet.
type draft struct {
	before Chat
	after  Chat
	events []chat.Event
	acts   []*pending
	state  string // after.State as JSON

	// remembered: before is what this server knew, not what the database says
	// now; another server may have moved the chat on.
	remembered bool
}

func (a *Log) commitOnce(s *shard, batch []*pending) (again []*pending) {
	ctx, cancel := context.WithTimeout(context.Background(), commitTimeout)
	defer cancel()
	drafts := a.unremembered(ctx, s.held, batch)
	for _, p := range batch {
		d, err := a.draftFor(ctx, s.held, drafts, p.act.ChatID)
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
			a.succeed(s, d)
		}
	}
	if len(rows) == 0 {
		return nil
	}
	moved, err := appendAll(ctx, a.Pool(), rows)
	switch {
	case err == nil:
	case store.IsUnique(err, "events_once"):
		return a.forgetRepeats(ctx, s.held, rows)
	case store.IsAnswer(err) && len(rows) > 1:
		// The database refused the batch because of one of its members; the
		// others must not suffer for it.
		for _, d := range rows {
			again = append(again, a.alone(ctx, s, d)...)
		}
		return again
	default:
		for _, d := range rows {
			s.held.Remove(d.before.ID)
			d.fail(err)
		}
		return nil
	}
	for _, d := range rows {
		if moved[d.before.ID] {
			s.held.Add(d.after.ID, d.after)
			a.succeed(s, d)
			continue
		}
		s.held.Remove(d.before.ID)
		again = append(again, d.retry()...)
	}
	return again
}

func (a *Log) alone(ctx context.Context, s *shard, d *draft) []*pending {
	moved, err := appendAll(ctx, a.Pool(), []*draft{d})
	switch {
	case err == nil && moved[d.before.ID]:
		s.held.Add(d.after.ID, d.after)
		a.succeed(s, d)
		return nil
	case err == nil:
		s.held.Remove(d.before.ID)
		return d.retry()
	}
	s.held.Remove(d.before.ID)
	d.fail(err)
	return nil
}

// unremembered begins the drafts of a batch whose chats are not remembered, all by
// one query. What it does not find, draftFor looks for and says why not.
func (a *Log) unremembered(ctx context.Context, held *lru.Cache[string, Chat], batch []*pending) map[string]*draft {
	drafts := map[string]*draft{}
	var missing []string
	for _, p := range batch {
		if !held.Contains(p.act.ChatID) && !slices.Contains(missing, p.act.ChatID) {
			missing = append(missing, p.act.ChatID)
		}
	}
	if len(missing) < 2 {
		return drafts
	}
	chats, err := a.Tables.Chats(ctx, missing)
	if err != nil {
		return drafts
	}
	for _, c := range chats {
		drafts[c.ID] = &draft{before: c, after: c}
	}
	return drafts
}

func (a *Log) draftFor(ctx context.Context, held *lru.Cache[string, Chat], drafts map[string]*draft, id string) (*draft, error) {
	if d, ok := drafts[id]; ok {
		return d, nil
	}
	c, ok := held.Get(id)
	if !ok {
		var err error
		if c, err = a.Tables.Chat(ctx, id); err != nil {
			return nil, err
		}
	}
	d := &draft{before: c, after: c, remembered: ok}
	drafts[id] = d
	return d, nil
}

// decide applies one act to a draft. An act that is refused may be one that
// was stored before, when the chat still allowed it: then its first result
// stands.
func (a *Log) decide(ctx context.Context, d *draft, p *pending) {
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
	if first, found := a.Tables.repeated(ctx, p.act); found {
		p.result = Result{Chat: d.before, Events: []chat.Event{first}, Repeated: true}
		p.finish(nil)
		return
	}
	if !d.remembered {
		p.finish(err)
		return
	}
	// Nobody is refused because of what another server has changed meanwhile.
	fresh, readErr := a.Tables.Chat(ctx, p.act.ChatID)
	switch {
	case readErr != nil:
		p.finish(readErr)
	case fresh.Last == d.before.Last:
		d.remembered = false // it is as it was remembered
		p.finish(err)
	case len(d.events) == 0:
		*d = draft{before: fresh, after: fresh, acts: d.acts}
		a.decide(ctx, d, p)
	default:
		d.acts = append(d.acts, p) // nothing of this draft can be stored any more: all of it is decided anew
	}
}

// forgetRepeats answers the acts of a batch that had been stored before and
// returns the others, to be decided anew.
func (a *Log) forgetRepeats(ctx context.Context, held *lru.Cache[string, Chat], rows []*draft) (again []*pending) {
	for _, d := range rows {
		held.Remove(d.before.ID)
		for _, p := range d.acts {
			if first, found := a.Tables.repeated(ctx, p.act); found {
				current, err := a.Tables.Chat(ctx, p.act.ChatID)
				p.result = Result{Chat: current, Events: []chat.Event{first}, Repeated: true}
				p.finish(err)
				continue
			}
			again = append(again, p.again()...)
		}
	}
	return again
}

// succeed answers the acts of a draft. That they are to be told is noted first:
// whoever waits for the acts may wait for the telling as well.
func (a *Log) succeed(s *shard, d *draft) {
	if len(d.events) > 0 {
		a.wakeFor(d.events)
		a.tellLater(s, func() {
			a.tell(Result{Chat: d.after.withMarks(a.marks.of(d.after.ID, d.after.Marks())), Events: d.events})
		})
	}
	for _, p := range d.acts {
		p.result.Chat = d.after.withMarks(a.marks.of(d.after.ID, d.after.Marks()))
		p.finish(nil)
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
