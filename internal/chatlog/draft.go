package chatlog

import (
	"context"
	"slices"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/chat"
)

// draft is a chat with the acts of one batch applied but not stored yet.
type draft struct {
	before *Chat // nobody changes it
	after  Chat
	events []chat.Event
	acts   []*pending
	state  string        // after.State as JSON
	tell   <-chan func() // what tells it, if that is made ready while it is stored
	marked chat.Marks    // how far words had come then

	// remembered: before is what this server knew, not what the database says
	// now; another server may have moved the chat on.
	remembered bool
}

// unremembered begins the drafts of a batch whose chats are not remembered, all by
// one query. What it does not find, draftFor looks for and says why not.
func (a *Log) unremembered(ctx context.Context, held *lru.Cache[string, *Chat], batch []*pending) map[string]*draft {
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
	for i := range chats {
		drafts[chats[i].ID] = &draft{before: &chats[i], after: chats[i]}
	}
	return drafts
}

func (a *Log) draftFor(ctx context.Context, held *lru.Cache[string, *Chat], drafts map[string]*draft, id string) (*draft, error) {
	if d, ok := drafts[id]; ok {
		return d, nil
	}
	c, ok := held.Get(id)
	if !ok {
		read, err := a.Tables.Chat(ctx, id)
		if err != nil {
			return nil, err
		}
		c = &read
	}
	d := &draft{before: c, after: *c, remembered: ok}
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
		p.result = Result{Chat: *d.before, Events: []chat.Event{first}, Repeated: true}
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
		*d = draft{before: &fresh, after: fresh, acts: d.acts}
		a.decide(ctx, d, p)
	default:
		d.acts = append(d.acts, p) // nothing of this draft can be stored any more: all of it is decided anew
	}
}

// succeed answers the acts of a draft. That they are to be told is noted first:
// whoever waits for the acts may wait for the telling as well.
func (a *Log) succeed(s *shard, d *draft) {
	if len(d.events) > 0 {
		a.behind.moved(d, a.project)
		a.wakeFor(d.events)
		s.toTell(a.teller(d))
	}
	for _, p := range d.acts {
		p.result.Chat = d.after.withMarks(a.marksOf(d))
		p.finish(nil)
	}
}

func (d *draft) finish(err error) {
	for _, p := range d.acts {
		p.finish(err)
	}
}

// onlyWords reports whether nothing but words was added: they leave a chat where
// it is, and with whom.
func (d *draft) onlyWords() bool {
	return !slices.ContainsFunc(d.events, func(e chat.Event) bool { return e.Kind != chat.Said || e.Detail != nil })
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

// readyMeanwhile makes ready what is to be told of a draft, beside storing it.
func (a *Log) readyMeanwhile(d *draft) {
	tell := make(chan func(), 1)
	d.tell, d.marked = tell, a.marksOf(d)
	result := a.resultOf(d)
	a.spread.Go(func() { tell <- a.ready(result) })
}

// teller returns what tells of a draft that is stored.
func (a *Log) teller(d *draft) func() {
	if d.tell != nil {
		return func() {
			tell := <-d.tell
			if a.marksOf(d) != d.marked {
				tell = a.ready(a.resultOf(d)) // something was seen meanwhile: what is unseen was counted wrong
			}
			tell()
		}
	}
	return func() { a.ready(a.resultOf(d))() }
}

// marksOf returns how far words of a draft's chat have come by now.
func (a *Log) marksOf(d *draft) chat.Marks { return a.marks.of(d.after.ID, d.after.Marks()) }

func (a *Log) resultOf(d *draft) Result {
	return Result{Chat: d.after.withMarks(a.marksOf(d)), Events: d.events}
}
