package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"stoop/core/routing"
	"stoop/internal/store"
)

// told is what this server told browsers last, so that it tells only news.
type told struct {
	waits    map[string]routing.Wait // by chat
	widgets  map[string]string       // WidgetState as JSON, by widget
	looks    map[string]WidgetChanged
	stranded map[string]time.Time // since when a waiting chat comes to nobody
	staff    string
	floor    string
	openings string
	handled  map[string]routing.Handled
	coming   []routing.Coming
	measured time.Time
}

func newTold() told {
	return told{waits: map[string]routing.Wait{}, widgets: map[string]string{}, looks: map[string]WidgetChanged{}}
}

// handledFor is how long measured handling times are used before they are
// measured again.
const handledFor = 3 * time.Second

// announce tells those who wait their place and estimate, open pages whether
// the team is there, and the team who has what in hand; each only if it changed.
func (a *App) announce(ctx context.Context, s *setup, saw pass) error {
	now := a.now()
	queue, staff := saw.queue, saw.staff
	if staff == nil {
		var err error
		if staff, err = a.readStaff(ctx, now); err != nil {
			return err
		}
	}
	present, err := a.present(ctx, s, queue, now)
	if err != nil {
		return err
	}
	floor := routing.NewFloor(s.coreDepartments(now), staff)
	a.tellWaits(floor, present)
	if err := a.tellWidgets(ctx, s, floor, staff, now); err != nil {
		return err
	}
	if a.news(&a.told.staff, fmt.Sprint(staff)) {
		if err := a.tellTeam(ctx); err != nil {
			return err
		}
	}
	if a.news(&a.told.floor, fmt.Sprint(queue)+a.told.staff) {
		a.live.ToTeam(FloorMoved{Type: "floor"})
	}
	return nil
}

// news takes note of what is told now and reports whether it is new.
func (a *App) news(before *string, now string) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	changed := *before != now
	*before = now
	return changed
}

// comingFor is how far back is looked for how many urgent chats come.
const comingFor = time.Hour

// present gathers what estimates are made from. What is measured over many chats
// is remembered for some seconds.
func (a *App) present(ctx context.Context, s *setup, queue []routing.Waiting, now time.Time) (routing.Present, error) {
	p := routing.Present{Now: now, Queue: queue, HeadStart: s.headStart()}
	a.mu.Lock()
	kept, at := a.told.handled, a.told.measured
	p.Handled, p.Coming = kept, a.told.coming
	a.mu.Unlock()
	var err error
	if kept == nil || time.Since(at) >= handledFor {
		if p.Handled, err = a.store.Handled(ctx); err != nil {
			return p, err
		}
		if p.Coming, err = a.store.Coming(ctx, now.Add(-comingFor), 1/comingFor.Hours()); err != nil {
			return p, err
		}
		a.mu.Lock()
		a.told.handled, a.told.coming, a.told.measured = p.Handled, p.Coming, time.Now()
		a.mu.Unlock()
	}
	p.InHand, err = a.store.InHand(ctx, now)
	return p, err
}

func (a *App) tellWaits(floor *routing.Floor, p routing.Present) {
	waits, queue := floor.Waits(p), p.Queue
	for _, w := range queue {
		if w.Not != "" {
			delete(waits, w.Chat) // an operator holds it: its visitor does not wait
		}
	}
	a.mu.Lock()
	before := a.told.waits
	a.told.waits = waits
	a.mu.Unlock()
	for _, w := range queue {
		wait, waiting := waits[w.Chat]
		if was, known := before[w.Chat]; waiting && (!known || waitView(was) != waitView(wait)) {
			a.live.ToVisitor(w.Visitor, WaitMoved{Type: "wait", ChatID: w.Chat, Wait: waitView(wait)})
		}
	}
}

// WaitView is what a waiting visitor is told.
type WaitView struct {
	Place           int  `json:"place" doc:"In the queue, from 1; 0 when not known yet"`
	EstimateSeconds int  `json:"estimateSeconds" doc:"How long it will still take, rounded up to half minutes"`
	Known           bool `json:"known" doc:"Whether there is an estimate"`
}

// waitView rounds up to half minutes, of which there is at least one: more would
// be a promise that nobody can keep.
func waitView(w routing.Wait) WaitView {
	const step = 30 * time.Second
	view := WaitView{Place: w.Place, Known: w.Known}
	if w.Known {
		view.EstimateSeconds = int(max(step, (w.Estimate+step-1)/step*step).Seconds())
	}
	return view
}

// waitOf returns how a chat stands in its queue.
func (a *App) waitOf(chatID string) WaitView {
	a.mu.Lock()
	defer a.mu.Unlock()
	return waitView(a.told.waits[chatID])
}

// WidgetState tells open pages how the team stands.
type WidgetState struct {
	Type    string     `json:"type" enum:"state"`
	State   string     `json:"state" enum:"open,busy,closed"`
	In      []string   `json:"in" doc:"First names of the operators who can answer now"`
	OpensAt *time.Time `json:"opensAt,omitempty" doc:"When the hours open next, if they are closed"`
}

// tellWidgets tells open pages and panels how the team stands and how their
// widget looks. What is told is what this server found different, so that it
// does not matter on which server it was changed.
func (a *App) tellWidgets(_ context.Context, s *setup, floor *routing.Floor, staff []routing.Staff, now time.Time) error {
	for _, w := range s.widgets {
		state, looks := s.widgetState(w, floor, staff, now), widgetLooks(w)
		text, err := json.Marshal(state)
		if err != nil {
			return err
		}
		a.mu.Lock()
		moved := a.told.widgets[w.ID] != string(text)
		a.told.widgets[w.ID] = string(text)
		before, known := a.told.looks[w.ID]
		a.told.looks[w.ID] = looks
		a.mu.Unlock()
		if moved {
			a.live.ToWidget(w.ID, state)
		}
		if known && before != looks {
			a.live.ToWidget(w.ID, looks)
		}
	}
	return nil
}

// widgetState computes how a widget stands from its departments' hours and
// from who is there.
func (s *setup) widgetState(w store.Widget, floor *routing.Floor, staff []routing.Staff, now time.Time) WidgetState {
	departments := s.departmentsOf(w)
	out := WidgetState{Type: "state", State: string(floor.Answers(departments...)), In: []string{}}
	var reach []string
	for _, id := range departments {
		reach = append(reach, floor.Reach(routing.Waiting{Department: id})...)
	}
	if out.State == string(routing.Shut) {
		out.OpensAt = s.opensAt(reach, now)
		return out
	}
	for _, o := range staff {
		for _, id := range reach {
			if o.Available && floor.Department(id).Open && s.isMember(o.ID, id) {
				out.In = append(out.In, strings.Fields(o.Name + " ")[0])
				break
			}
		}
	}
	return out
}

// WidgetState returns how a widget stands now.
func (a *App) WidgetState(ctx context.Context, w store.Widget) (WidgetState, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return WidgetState{}, err
	}
	now := a.now()
	staff, err := a.recentStaff(ctx, now)
	if err != nil {
		return WidgetState{}, err
	}
	return s.widgetState(w, routing.NewFloor(s.coreDepartments(now), staff), staff, now), nil
}

// staffLasts is how long who is in may be told to pages without being read anew:
// thousands of them ask. What this server hears of it makes it read at once.
const staffLasts = time.Second

// staffOf is who was in at a moment.
type staffOf struct {
	at    time.Time
	staff []routing.Staff
}

// readStaff reads who is in, and lets pages be told so for a while.
func (a *App) readStaff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	forgotten := a.staff.times()
	staff, err := a.store.Staff(ctx, now)
	if err != nil {
		return nil, err
	}
	if staff == nil {
		staff = []routing.Staff{}
	}
	a.staff.put(forgotten, &staffOf{now, staff})
	return staff, nil
}

func (a *App) recentStaff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	read := func() (*staffOf, error) {
		// For all who ask at this moment, also when the first of them has gone.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), tellTimeout)
		defer cancel()
		staff, err := a.store.Staff(ctx, now)
		return &staffOf{now, staff}, err
	}
	recent, err := a.staff.get(read)
	if err == nil && now.Sub(recent.at) > staffLasts {
		a.staff.forget()
		recent, err = a.staff.get(read)
	}
	if err != nil {
		return nil, err
	}
	return recent.staff, nil
}

// hoursTurned looks whether a department has just opened or closed by its
// hours; then consoles and pages learn of it.
func (a *App) hoursTurned(ctx context.Context) {
	s, err := a.setup(ctx)
	if err != nil {
		return // the beat tells of a database that does not answer
	}
	now := a.now()
	open := []string{}
	for _, d := range s.inUse {
		if s.open(d, now) {
			open = append(open, d.ID)
		}
	}
	slices.Sort(open)
	a.mu.Lock()
	first := a.told.openings == ""
	a.mu.Unlock()
	if a.news(&a.told.openings, "open:"+strings.Join(open, " ")) && !first {
		a.live.ToTeam(Refresh{Type: "refresh"})
		a.kick()
	}
}
