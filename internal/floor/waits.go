package floor

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"stoop/core/routing"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// told is what this server told browsers last, so that it tells only news.
type told struct {
	waits    map[string]routing.Wait // by chat
	widgets  map[string]string       // WidgetState as JSON, by widget
	looks    map[string]view.WidgetChanged
	stranded map[string]time.Time // since when a waiting chat comes to nobody
	staff    string
	floor    string
	openings string
	handled  map[string]routing.Handled
	coming   []routing.Coming
	measured time.Time
}

func newTold() told {
	return told{waits: map[string]routing.Wait{}, widgets: map[string]string{}, looks: map[string]view.WidgetChanged{}}
}

// handledFor is how long measured handling times are used before they are
// measured again.
const handledFor = 3 * time.Second

// announce tells those who wait their place and estimate, open pages whether
// the team is there, and the team who has what in hand; each only if it changed.
func (room *Room) announce(ctx context.Context, s *settings.Settings, saw pass) error {
	now := room.Now()
	queue, staff := saw.queue, saw.staff
	if staff == nil {
		var err error
		if staff, err = room.readStaff(ctx, now); err != nil {
			return err
		}
	}
	present, err := room.present(ctx, s, queue, now)
	if err != nil {
		return err
	}
	floor := routing.NewFloor(s.CoreDepartments(now), staff)
	room.tellWaits(floor, present)
	if err := room.tellWidgets(ctx, s, floor, staff, now); err != nil {
		return err
	}
	if room.news(&room.told.staff, fmt.Sprint(staff)) {
		if err := room.TellTeam(ctx); err != nil {
			return err
		}
	}
	if room.news(&room.told.floor, fmt.Sprint(queue)+room.told.staff) {
		room.Near.ToTeam(FloorMoved{Type: "floor"})
	}
	return nil
}

// news takes note of what is told now and reports whether it is new.
func (room *Room) news(before *string, now string) bool {
	room.mu.Lock()
	defer room.mu.Unlock()
	changed := *before != now
	*before = now
	return changed
}

// comingFor is how far back is looked for how many urgent chats come.
const comingFor = time.Hour

// present gathers what estimates are made from. What is measured over many chats
// is remembered for some seconds.
func (room *Room) present(ctx context.Context, s *settings.Settings, queue []routing.Waiting, now time.Time) (routing.Present, error) {
	p := routing.Present{Now: now, Queue: queue, HeadStart: s.HeadStart()}
	room.mu.Lock()
	kept, at := room.told.handled, room.told.measured
	p.Handled, p.Coming = kept, room.told.coming
	room.mu.Unlock()
	var err error
	if kept == nil || time.Since(at) >= handledFor {
		if p.Handled, err = room.Tables.Handled(ctx, s.IDs()); err != nil {
			return p, err
		}
		if p.Coming, err = room.Tables.Coming(ctx, now.Add(-comingFor), 1/comingFor.Hours()); err != nil {
			return p, err
		}
		room.mu.Lock()
		room.told.handled, room.told.coming, room.told.measured = p.Handled, p.Coming, time.Now()
		room.mu.Unlock()
	}
	p.InHand, err = room.Tables.InHand(ctx, now)
	return p, err
}

func (room *Room) tellWaits(floor *routing.Floor, p routing.Present) {
	waits, queue := floor.Waits(p), p.Queue
	for _, w := range queue {
		if w.Not != "" {
			delete(waits, w.Chat) // an operator holds it: its visitor does not wait
		}
	}
	room.mu.Lock()
	before := room.told.waits
	room.told.waits = waits
	room.mu.Unlock()
	for _, w := range queue {
		wait, waiting := waits[w.Chat]
		if was, known := before[w.Chat]; waiting && (!known || view.Wait(was) != view.Wait(wait)) {
			room.Near.ToVisitor(w.Visitor, WaitMoved{Type: "wait", ChatID: w.Chat, Wait: view.Wait(wait)})
		}
	}
}

// WaitOf returns how a chat stands in its queue.
func (room *Room) WaitOf(chatID string) view.WaitView {
	room.mu.Lock()
	defer room.mu.Unlock()
	return view.Wait(room.told.waits[chatID])
}

// hoursTurned looks whether a department has just opened or closed by its
// hours; then consoles and pages learn of it.
func (room *Room) hoursTurned(ctx context.Context) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return // the beat tells of a database that does not answer
	}
	now := room.Now()
	open := []string{}
	for _, d := range s.InUse {
		if s.Open(d, now) {
			open = append(open, d.ID)
		}
	}
	slices.Sort(open)
	room.mu.Lock()
	first := room.told.openings == ""
	room.mu.Unlock()
	if room.news(&room.told.openings, "open:"+strings.Join(open, " ")) && !first {
		room.Near.ToTeam(view.Refresh{Type: "refresh"})
		room.Kick()
	}
}
