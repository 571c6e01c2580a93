package chatlog

import (
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
)

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
	held   *lru.Cache[string, *Chat]

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

// work commits what is queued until one's own act is done; then somebody else
// goes on with the rest, so that nobody works for the others without end.
func (a *Log) work(s *shard, own *pending) {
	for {
		s.mu.Lock()
		if len(s.queue) == 0 {
			s.atWork = false
			s.mu.Unlock()
			a.tellOwn(s)
			return
		}
		if own.done() {
			s.mu.Unlock()
			a.spread.Go(func() { a.work(s, never) })
			a.tellNews(s)
			return
		}
		batch, alone := s.next()
		s.mu.Unlock()
		a.tellNews(s)
		a.commit(s, batch)
		mine := false
		for _, p := range alone {
			if mine = mine || p == own; p != own {
				a.spread.Go(func() { a.commitApart(s, p) })
			}
		}
		if mine {
			a.handOver(s)
			a.tellNews(s)
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
		a.spread.Go(func() { a.work(s, never) })
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
		a.spread.Go(func() { a.work(s, never) })
	}
	a.tellOwn(s)
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
