package delivery

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/store"
)

// Where servers share one hub, whoever acted tells the browsers of all, and the
// feed is asked only for what may have been missed: when the hub was away, or a
// server died before it could tell.
//
// Otherwise each server tells its own browsers what it appends, at once. What
// others append it finds in the feed, of which it keeps its own place: soon,
// because they say by a notice that there is something new, and every two seconds
// in any case, since a notice can be lost, or its server die before it. A server
// that begins begins at the end: its browsers load what was before.

const (
	relayEvery = 50 * time.Millisecond
	lookEvery  = 2 * time.Second
	// toldKept is how many chats a server remembers to have told of. Of one that
	// it has forgotten it tells once more at most: browsers know each event by
	// its number.
	toldKept = 50_000
	// noticeChats bounds how many chats a notice of marks names; 7 kB fit in.
	noticeChats = 180
)

// relay is what this server knows of what it has told its browsers.
type relay struct {
	mu      sync.Mutex
	told    *lru.Cache[string, int64] // the last number told, by chat
	news    bool                      // appended here, and the others have not been told
	marked  map[string]bool           // chats whose marks moved here
	alone   bool                      // no other server lives
	at      chatlog.Position          // of the feed
	started bool                      // at is known
	past    []passed                  // where the feed ended lately, the oldest first
	woken   chan struct{}
}

// passed is where the feed ended at a time.
type passed struct {
	when time.Time
	at   chatlog.Position
}

// passedKept is how many of these are kept: some minutes.
const passedKept = 150

func newRelay() *relay {
	told, _ := lru.New[string, int64](toldKept) // fails for sizes below one only
	return &relay{told: told, marked: map[string]bool{}, alone: true, woken: make(chan struct{}, 1)}
}

// Ready makes ready what is to be told of an act of this server, or of how far words
// have come, and returns what tells it.
func (room *Room) Ready(r chatlog.Result) (tell func()) {
	gathered, send := room.Live.Gather()
	room.tellTo(gathered, r)
	return func() {
		send()
		if r.Marked {
			return
		}
		room.relay.mu.Lock()
		defer room.relay.mu.Unlock()
		room.relay.told.Add(r.Chat.ID, r.Chat.Last)
		room.relay.news = true
	}
}

// MarksStored takes note of chats whose words have come further by receipts of
// this server, for the others.
func (room *Room) MarksStored(chatIDs []string) {
	room.relay.mu.Lock()
	defer room.relay.mu.Unlock()
	for _, id := range chatIDs {
		if !room.relay.alone && !room.Shared {
			room.relay.marked[id] = true
		}
	}
}

// Run tells other servers that there is something new, and browsers what the
// others appended, until the context ends.
func (room *Room) Run(ctx context.Context) {
	var looked time.Time
	again.Every(ctx, relayEvery, func() {
		room.tellOthers(ctx)
		woken := false
		select {
		case <-room.relay.woken:
			woken = true
		default:
		}
		if now := time.Now(); woken || now.Sub(looked) >= lookEvery {
			looked = now
			again.InTime(ctx, room.Log, "looking for what was said on other servers", room.look)
		}
	})
}

// tellOthers says that there is something new in the feed, and whose words have
// come further.
func (room *Room) tellOthers(ctx context.Context) {
	r := room.relay
	r.mu.Lock()
	news := r.news && !r.alone && !room.Shared
	r.news = false
	var marked []string
	for id := range r.marked {
		if len(marked) < noticeChats {
			marked = append(marked, id)
			delete(r.marked, id)
		}
	}
	r.mu.Unlock()
	if news {
		room.Notices.Tell(ctx, MovedNotice)
	}
	if len(marked) > 0 {
		room.Notices.Tell(ctx, MarkedNotice+" "+strings.Join(marked, ","))
	}
}

// look tells what the feed holds behind this server's place. A server that is
// alone has told all of it already, and only moves its place on.
func (room *Room) look(ctx context.Context) error {
	nodes, err := room.Floor.Nodes(ctx)
	if err != nil {
		return err
	}
	r := room.relay
	r.mu.Lock()
	r.alone = nodes < 2
	skip, at := room.Shared || r.alone || !r.started, r.at
	r.mu.Unlock()
	if skip {
		if at, err = room.Chats.End(ctx); err != nil {
			return err
		}
		room.reached(at)
		return nil
	}
	moved := false
	for {
		entries, err := room.Chats.Read(ctx, at)
		if err != nil {
			return err
		}
		if len(entries) == 0 {
			break
		}
		end := entries[len(entries)-1].At
		if err := room.tellEntries(ctx, entries); err != nil {
			return err // the next look begins where this one did
		}
		at, moved = end, true
		room.reached(at)
	}
	if moved {
		room.Floor.Kick()
	}
	return nil
}

func (room *Room) reached(at chatlog.Position) {
	room.relay.mu.Lock()
	defer room.relay.mu.Unlock()
	room.relay.at, room.relay.started = at, true
	room.relay.past = append(room.relay.past, passed{time.Now(), at})
	if len(room.relay.past) > passedKept {
		room.relay.past = room.relay.past[1:]
	}
}

// overlap is how much further back is looked than asked: clocks differ, and what
// was being stored has a place before it is there.
const overlap = 5 * time.Second

// Missed tells the browsers of this server once more what was appended since a
// time, by whatever server. Browsers know each event by its number.
func (room *Room) Missed(since time.Time) {
	if !room.Shared {
		return // this server looks for what the others appended in any case
	}
	r := room.relay
	r.mu.Lock()
	var at chatlog.Position
	for i, p := range r.past {
		if i == 0 || p.when.Before(since.Add(-overlap)) {
			at = p.at
		}
	}
	known := len(r.past) > 0
	r.mu.Unlock()
	if !known {
		return // it has just begun, and so have its browsers
	}
	again.InTime(context.Background(), room.Log, "telling what may have been missed", func(ctx context.Context) error {
		return room.tellOn(ctx, at)
	})
}

// tellOn tells this server's browsers what the feed holds behind a place.
func (room *Room) tellOn(ctx context.Context, at chatlog.Position) error {
	for {
		entries, err := room.Chats.Read(ctx, at)
		if err != nil || len(entries) == 0 {
			return err
		}
		order, fresh := byChat(entries)
		for _, id := range order {
			c, err := room.Chats.Chat(ctx, id)
			if err == nil {
				room.tellTo(room.Near, chatlog.Result{Chat: room.Chats.Marked(c), Events: fresh[id]})
			} else if store.IgnoreMissing(err) != nil {
				return err
			}
		}
		at = entries[len(entries)-1].At
	}
}

// byChat gathers entries by their chats, in the order in which these come.
func byChat(entries []chatlog.Entry) (order []string, events map[string][]chat.Event) {
	events = map[string][]chat.Event{}
	for _, e := range entries {
		if events[e.ChatID] == nil {
			order = append(order, e.ChatID)
		}
		events[e.ChatID] = append(events[e.ChatID], e.Event)
	}
	return order, events
}

// tellEntries tells of each chat what this server has not told.
func (room *Room) tellEntries(ctx context.Context, entries []chatlog.Entry) error {
	entries = slices.DeleteFunc(entries, func(e chatlog.Entry) bool {
		told, _ := room.relay.told.Peek(e.ChatID)
		return e.Number <= told
	})
	order, fresh := byChat(entries)
	for _, id := range order {
		c, err := room.Chats.Chat(ctx, id)
		if err != nil {
			if err = store.IgnoreMissing(err); err != nil {
				return err
			}
			continue
		}
		events := fresh[id]
		room.tell(chatlog.Result{Chat: c, Events: events})
		room.relay.told.Add(id, events[len(events)-1].Number)
	}
	return nil
}

// heardMarks tells browsers how far words have come by receipts of other servers.
func (room *Room) heardMarks(ctx context.Context, ids string) error {
	chats, err := room.Chats.Chats(ctx, strings.Split(ids, ","))
	for _, c := range chats {
		room.tell(chatlog.Result{Chat: room.Chats.Marked(c), Marked: true})
	}
	return err
}
