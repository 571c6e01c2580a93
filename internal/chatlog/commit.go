package chatlog

import (
	"context"
	"fmt"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/store"
)

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
	a.readyMeanwhile(d)
	var ahead []Statement
	if p.act.Ahead != nil {
		ahead = p.act.Ahead(*d.before)
	}
	if !p.act.inTransaction() {
		return a.settle(ctx, s, d, appendAll(ctx, a.Pool(), ahead, []*draft{d}, p.act.Along))
	}
	var refused error
	err = pgx.BeginFunc(ctx, a.Pool(), func(tx pgx.Tx) error {
		if p.act.Guard != nil {
			if refused = p.act.Guard(ctx, tx); refused != nil {
				return refused
			}
		}
		if err := appendAll(ctx, tx, ahead, []*draft{d}, p.act.Along); err != nil || p.act.Also == nil {
			return err
		}
		return p.act.Also(ctx, tx, d.after, d.events)
	})
	if refused != nil {
		p.finish(refused)
		return nil
	}
	return a.settle(ctx, s, d, err)
}

// settle answers the acts of a draft by what became of it, and returns those that
// are to be decided anew.
func (a *Log) settle(ctx context.Context, s *shard, d *draft, err error) (again []*pending) {
	switch {
	case err == nil:
		after := d.after // without what else the draft holds
		s.held.Add(after.ID, &after)
		a.succeed(s, d)
		return nil
	case isRefusal(err):
		d.finish(ErrRefused)
		return nil
	case store.IsUnique(err, "events_once"):
		return a.forgetRepeats(ctx, s.held, []*draft{d})
	case isStale(err):
		s.held.Remove(d.before.ID)
		return d.retry()
	}
	s.held.Remove(d.before.ID)
	d.finish(fmt.Errorf("storing the event: %w", err))
	return nil
}

// isStale reports whether another server had moved the chat on: the number of the
// event was given.
func isStale(err error) bool { return store.IsUnique(err, "events_pkey") }

// isRefusal reports whether must_hold said no.
func isRefusal(err error) bool { return store.IsCode(err, "ST001") }

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
	if len(rows) == 1 {
		a.readyMeanwhile(rows[0])
	}
	err := appendAll(ctx, a.Pool(), nil, rows, nil)
	if len(rows) > 1 && store.IsAnswer(err) {
		// The database refused the batch because of one of its members; the
		// others must not suffer for it.
		for _, d := range rows {
			again = append(again, a.settle(ctx, s, d, appendAll(ctx, a.Pool(), nil, []*draft{d}, nil))...)
		}
		return again
	}
	for _, d := range rows {
		again = append(again, a.settle(ctx, s, d, err)...)
	}
	return again
}

// forgetRepeats answers the acts of a batch that had been stored before and
// returns the others, to be decided anew.
func (a *Log) forgetRepeats(ctx context.Context, held *lru.Cache[string, *Chat], rows []*draft) (again []*pending) {
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
