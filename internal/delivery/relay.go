package delivery

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"time"

	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
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

// Appended tells what an act of this server added.
func (room *Room) Appended(r chatlog.Result) {
	room.tell(r)
	room.relay.mu.Lock()
	defer room.relay.mu.Unlock()
	room.relay.told[r.Chat.ID] = r.Chat.Last
	if room.relay.alone && r.Chat.Phase == chat.Over {
		delete(room.relay.told, r.Chat.ID)
	}
	if room.relay.alone || len(r.Events) == 0 {
		return
	}
	if _, known := room.relay.pending[r.Chat.ID]; !known {
		room.relay.pending[r.Chat.ID] = r.Events[0].Number
	}
}

// Run tells other servers what was appended here, and finds what was
// appended there, until the context ends.
func (room *Room) Run(ctx context.Context) {
	var looked time.Time
	again.Every(ctx, relayEvery, func() {
		if now := time.Now(); now.Sub(looked) >= catchUpEvery {
			looked = now
			again.InTime(ctx, room.Log, "looking for what was said on other servers", room.lookForMoves)
		}
		for _, notice := range room.relay.notices() {
			room.Notices.Tell(ctx, MovedNotice+" "+notice)
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
func (room *Room) lookForMoves(ctx context.Context) error {
	nodes, err := room.Floor.Nodes(ctx)
	if err != nil {
		return err
	}
	room.relay.mu.Lock()
	looked := room.relay.looked
	room.relay.alone = nodes < 2
	room.relay.mu.Unlock()
	if nodes < 2 && looked {
		return nil
	}
	open, err := room.Tables.OpenNow(ctx)
	if err != nil {
		return err
	}
	behind := map[string]int64{}
	here := make(map[string]bool, len(open))
	room.relay.mu.Lock()
	room.relay.looked = true
	for _, o := range open {
		here[o.ID] = true
		told, known := room.relay.told[o.ID]
		switch {
		case !known && !looked:
			room.relay.told[o.ID] = o.Last // browsers that come load it
		case told < o.Last:
			behind[o.ID] = told + 1
		}
	}
	for id, told := range room.relay.told {
		if !here[id] {
			behind[id] = told + 1
		}
	}
	room.relay.mu.Unlock()
	for id, from := range behind {
		if err := room.tellFrom(ctx, id, from); err != nil {
			return err // the next look finds what is left
		}
		if !here[id] { // it has ended, and that is told
			room.relay.mu.Lock()
			delete(room.relay.told, id)
			room.relay.mu.Unlock()
		}
	}
	return nil
}

// catchUp tells what another server says it has appended.
func (room *Room) catchUp(ctx context.Context, notice string) error {
	for _, one := range strings.Split(strings.TrimSuffix(notice, ","), ",") {
		id, number, _ := strings.Cut(one, ":")
		from, err := strconv.ParseInt(number, 10, 64)
		if err != nil {
			return fmt.Errorf("a notice that cannot be read: %q", one)
		}
		if err := room.tellFrom(ctx, id, from); err != nil {
			return err
		}
	}
	room.Floor.Kick()
	return nil
}

// tellFrom tells what a log holds from a number on. What was told before is told
// once more at most: browsers know each event by its number.
func (room *Room) tellFrom(ctx context.Context, chatID string, from int64) error {
	room.relay.mu.Lock()
	told, known := room.relay.told[chatID]
	room.relay.mu.Unlock()
	if known {
		from = max(from, told+1)
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil || c.Last < from {
		return store.IgnoreMissing(err)
	}
	events, err := room.Chats.Events(ctx, chatID, from-1, chatlog.ReadAtOnce)
	if err != nil || len(events) == 0 {
		return err
	}
	room.tell(chatlog.Result{Chat: c, Events: events})
	room.relay.mu.Lock()
	room.relay.told[chatID] = max(room.relay.told[chatID], events[len(events)-1].Number)
	room.relay.mu.Unlock()
	return nil
}
