package app

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"time"

	"stoop/core/chat"
	"stoop/internal/store"
)

// Each server delivers to its own browsers only. What is appended here is told
// to the other servers by a notice, soon and gathered; and since a server may
// die before its notice, each looks every two seconds, while it is not alone,
// whether a log went on of which it has told nothing.

const (
	relayEvery   = 50 * time.Millisecond
	catchUpEvery = 2 * time.Second
	// noticeLimit is what fits into one notice of PostgreSQL, in bytes, with
	// room for its frame.
	noticeLimit = 7000
)

// relay is what this server knows of which logs it has told its browsers.
type relay struct {
	mu      sync.Mutex
	told    map[string]int64 // the last number told, of open chats
	pending map[string]int64 // the first number that the others have not been told
	looked  bool             // told holds what was open when this server began
	alone   bool             // no other server lives
}

func newRelay() relay {
	return relay{told: map[string]int64{}, pending: map[string]int64{}, alone: true}
}

// appended tells what an act of this server added.
func (a *App) appended(r store.Result) {
	a.tell(r)
	a.relay.mu.Lock()
	defer a.relay.mu.Unlock()
	a.relay.told[r.Chat.ID] = r.Chat.Last
	if a.relay.alone && r.Chat.Phase == chat.Over {
		delete(a.relay.told, r.Chat.ID)
	}
	if a.relay.alone || len(r.Events) == 0 {
		return
	}
	if _, known := a.relay.pending[r.Chat.ID]; !known {
		a.relay.pending[r.Chat.ID] = r.Events[0].Number
	}
}

// relayMoves tells other servers what was appended here, and finds what was
// appended there, until the context ends.
func (a *App) relayMoves(ctx context.Context) {
	var looked time.Time
	every(ctx, relayEvery, func() {
		if now := time.Now(); now.Sub(looked) >= catchUpEvery {
			looked = now
			a.inTime(ctx, "looking for what was said on other servers", a.lookForMoves)
		}
		for _, notice := range a.relay.notices() {
			a.notify(ctx, store.ChatsMoved+" "+notice)
		}
	})
}

// notices returns what is to be told, and takes it for told: if a notice gets
// lost, the others find it by themselves.
func (r *relay) notices() []string {
	r.mu.Lock()
	defer r.mu.Unlock()
	var notices []string
	var b strings.Builder
	for id, from := range r.pending {
		fmt.Fprintf(&b, "%s:%d,", id, from)
		if b.Len() > noticeLimit {
			notices = append(notices, b.String())
			b.Reset()
		}
	}
	if b.Len() > 0 {
		notices = append(notices, b.String())
	}
	clear(r.pending)
	return notices
}

// lookForMoves tells what was appended to the open logs, and to those that have
// ended, of which this server has told nothing.
func (a *App) lookForMoves(ctx context.Context) error {
	nodes, err := a.store.Nodes(ctx)
	if err != nil {
		return err
	}
	a.relay.mu.Lock()
	looked := a.relay.looked
	a.relay.alone = nodes < 2
	a.relay.mu.Unlock()
	if nodes < 2 && looked {
		return nil
	}
	open, err := a.store.OpenNow(ctx)
	if err != nil {
		return err
	}
	behind := map[string]int64{}
	here := make(map[string]bool, len(open))
	a.relay.mu.Lock()
	a.relay.looked = true
	for _, o := range open {
		here[o.ID] = true
		told, known := a.relay.told[o.ID]
		switch {
		case !known && !looked:
			a.relay.told[o.ID] = o.Last // browsers that come load it
		case told < o.Last:
			behind[o.ID] = told + 1
		}
	}
	for id, told := range a.relay.told {
		if !here[id] {
			behind[id] = told + 1
		}
	}
	a.relay.mu.Unlock()
	for id, from := range behind {
		if err := a.tellFrom(ctx, id, from); err != nil {
			return err // the next look finds what is left
		}
		if !here[id] { // it has ended, and that is told
			a.relay.mu.Lock()
			delete(a.relay.told, id)
			a.relay.mu.Unlock()
		}
	}
	return nil
}

// catchUp tells what another server says it has appended.
func (a *App) catchUp(ctx context.Context, notice string) error {
	for _, one := range strings.Split(strings.TrimSuffix(notice, ","), ",") {
		id, number, _ := strings.Cut(one, ":")
		from, err := strconv.ParseInt(number, 10, 64)
		if err != nil {
			return fmt.Errorf("a notice that cannot be read: %q", one)
		}
		if err := a.tellFrom(ctx, id, from); err != nil {
			return err
		}
	}
	a.kick()
	return nil
}

// tellFrom tells what a log holds from a number on. What was told before is told
// once more at most: browsers know each event by its number.
func (a *App) tellFrom(ctx context.Context, chatID string, from int64) error {
	a.relay.mu.Lock()
	told, known := a.relay.told[chatID]
	a.relay.mu.Unlock()
	if known {
		from = max(from, told+1)
	}
	c, err := a.store.Chat(ctx, chatID)
	if err != nil || c.Last < from {
		return ignoreMissing(err)
	}
	events, err := a.store.Events(ctx, chatID, from-1, resumeLimit)
	if err != nil || len(events) == 0 {
		return err
	}
	a.tell(store.Result{Chat: c, Events: events})
	a.relay.mu.Lock()
	a.relay.told[chatID] = max(a.relay.told[chatID], events[len(events)-1].Number)
	a.relay.mu.Unlock()
	return nil
}
