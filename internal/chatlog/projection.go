package chatlog

import (
	"context"
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
)

// projectEvery is how long words are gathered before the rows of their chats
// follow.
const projectEvery = 250 * time.Millisecond

// projection are the chats in which something was said that their rows do not
// tell yet. Whoever reads a chat reads the words behind its row along with it
// (see Query), so nobody sees it as it was; the rows follow to keep that short,
// and for what the database itself decides by, such as who has long been silent.
type projection struct {
	mu     sync.Mutex
	drafts map[string]*draft
	timer  *time.Timer
	ended  bool // the server stops: what is left others mend
}

func newProjection() *projection { return &projection{drafts: map[string]*draft{}} }

// moved notes that a chat was moved on: by words, its row is to follow; by anything
// else, it has.
func (b *projection) moved(d *draft, project func()) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if !d.onlyWords() {
		delete(b.drafts, d.after.ID)
		return
	}
	b.drafts[d.after.ID] = d
	b.wake(projectEvery, project)
}

func (b *projection) wake(after time.Duration, project func()) {
	if b.timer == nil && !b.ended {
		b.timer = time.AfterFunc(after, project)
	}
}

// end lets nothing follow by itself any more.
func (b *projection) end() {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.ended = true
	if b.timer != nil {
		b.timer.Stop()
	}
}

func (b *projection) take() map[string]*draft {
	b.mu.Lock()
	defer b.mu.Unlock()
	drafts := b.drafts
	b.drafts, b.timer = map[string]*draft{}, nil
	return drafts
}

// back returns what could not be done, unless there is something newer.
func (b *projection) back(drafts []*draft, project func()) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, d := range drafts {
		if b.drafts[d.after.ID] == nil {
			b.drafts[d.after.ID] = d
		}
	}
	if len(drafts) > 0 {
		b.wake(4*projectEvery, project)
	}
}

// project lets the rows follow. What cannot be done now is tried again.
func (a *Log) project() {
	taken := a.behind.take()
	if len(taken) == 0 {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), commitTimeout)
	defer cancel()
	drafts := slices.Collect(maps.Values(taken))
	left, err := a.Tables.follow(ctx, drafts)
	if err != nil {
		left = drafts // the database is away, which others tell
	}
	a.behind.back(left, a.project)
}

// followStatement moves rows on that are behind. One that is locked is being moved
// on by an act, which has a higher number or takes it back; it is not waited for,
// since its transaction may be waiting for another of these.
var followStatement = `with d as (select * from ` + unnested(chatFields(wordsChange), 1) + `),
	free as (select c.id from chats c join d using (id) where c.last < d.last order by c.id for no key update of c skip locked),
	moved as (update chats c set ` + fromD(wordsChange) + ` from d join free using (id) where c.id = d.id and c.last < d.last returning c.id)
	select d.id::text from d join chats c using (id) where c.last < d.last and d.id not in (select id from moved)`

// follow moves the rows of chats on to what their drafts say, and returns those
// that were locked. It does not wait for the disk: what is lost in a crash is made
// again from the log.
func (s Tables) follow(ctx context.Context, drafts []*draft) (locked []*draft, err error) {
	byID := make(map[string]*draft, len(drafts))
	for _, d := range drafts {
		if d.state, err = d.after.State.Encode(); err != nil {
			return nil, err
		}
		byID[d.after.ID] = d
	}
	var both pgx.Batch
	both.Queue("select set_config('synchronous_commit', 'off', true)")
	both.Queue(followStatement, manies(chatFields(wordsChange), drafts)...).Query(func(rows pgx.Rows) error {
		ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
		for _, id := range ids {
			locked = append(locked, byID[id])
		}
		return err
	})
	err = s.Pool().SendBatch(ctx, &both).Close()
	return locked, err
}

// mendAtOnce bounds how many rows are mended at once; the next time goes on.
const mendAtOnce = 500

// Mend lets the rows follow of chats in which a server had stored words that died
// before they did.
func (s Tables) Mend(ctx context.Context) error {
	ids, err := s.IDs(ctx, `select id::text from chats c where phase <> 'ended'
		and exists (select from events e where e.chat_id = c.id and e.number > c.last) limit $1`, mendAtOnce)
	if err != nil || len(ids) == 0 {
		return err
	}
	chats, err := s.Chats(ctx, ids)
	if err != nil {
		return err
	}
	drafts := make([]*draft, len(chats))
	for i, c := range chats {
		drafts[i] = &draft{after: c}
	}
	_, err = s.follow(ctx, drafts)
	return err
}
