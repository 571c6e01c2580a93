package delivery

import (
	"context"
	"strings"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/store"
)

// Each server tells its own browsers what it appends, at once. What others append
// it finds in the feed, of which it keeps its own place: soon, because they say
// by a notice that there is something new, and every two seconds in any case,
// since a notice can be lost, or its server die before it. A server that begins
// begins at the end: its browsers load what was before.

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
	woken   chan struct{}
}

func newRelay() *relay {
	told, _ := lru.New[string, int64](toldKept) // fails for sizes below one only
	return &relay{told: told, marked: map[string]bool{}, alone: true, woken: make(chan struct{}, 1)}
}

// Appended tells what an act of this server added, or how far words have come.
func (room *Room) Appended(r chatlog.Result) {
	room.tell(r)
	if r.Marked {
		return
	}
	room.relay.mu.Lock()
	defer room.relay.mu.Unlock()
	room.relay.told.Add(r.Chat.ID, r.Chat.Last)
	room.relay.news = true
}

// MarksStored takes note of chats whose words have come further by receipts of
// this server, for the others.
func (room *Room) MarksStored(chatIDs []string) {
	room.relay.mu.Lock()
	defer room.relay.mu.Unlock()
	for _, id := range chatIDs {
		if !room.relay.alone {
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
	news := r.news && !r.alone
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
	skip, at := r.alone || !r.started, r.at
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
		if err := room.tellEntries(ctx, entries); err != nil {
			return err // the next look begins where this one did
		}
		at, moved = entries[len(entries)-1].At, true
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
}

// tellEntries tells of each chat what this server has not told.
func (room *Room) tellEntries(ctx context.Context, entries []chatlog.Entry) error {
	var order []string
	fresh := map[string][]chat.Event{}
	for _, e := range entries {
		if told, _ := room.relay.told.Peek(e.ChatID); e.Number <= told {
			continue
		}
		if fresh[e.ChatID] == nil {
			order = append(order, e.ChatID)
		}
		fresh[e.ChatID] = append(fresh[e.ChatID], e.Event)
	}
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
