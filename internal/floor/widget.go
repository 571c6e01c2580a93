package floor

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"stoop/core/routing"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// WidgetView returns what browsers need to know of a widget, in the first language of
// some wishes that it speaks.
func (room *Room) WidgetView(ctx context.Context, w settings.Widget, wishes ...string) (view.WidgetView, error) {
	now, err := room.WidgetState(ctx, w)
	if err != nil {
		return view.WidgetView{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.WidgetView{}, err
	}
	out := view.Widget(s, w, w.Speak(wishes...))
	out.Now, out.Booking = now, room.View.Booking && w.Help.Booking
	if now.Helper && out.ClosedGreeting != "" {
		out.Greeting = out.ClosedGreeting // nobody of the team is in, though questions are taken
	}
	return out, nil
}

// tellWidgets tells open pages and panels how the team stands and how their
// widget looks. What is told is what this server found different, so that it
// does not matter on which server it was changed.
func (room *Room) tellWidgets(_ context.Context, s *settings.Settings, floor *routing.Floor, staff []routing.Staff, now time.Time) error {
	for _, w := range s.Widgets {
		state, looks := widgetState(s, w, floor, staff, now), view.WidgetLooks(w)
		text, err := json.Marshal(state)
		if err != nil {
			return err
		}
		room.mu.Lock()
		moved := room.told.widgets[w.ID] != string(text)
		room.told.widgets[w.ID] = string(text)
		before, known := room.told.looks[w.ID]
		room.told.looks[w.ID] = looks
		room.mu.Unlock()
		if moved {
			room.Near.ToWidget(w.ID, state)
		}
		if known && before != looks {
			room.Near.ToWidget(w.ID, looks)
		}
	}
	return nil
}

// widgetState computes how a widget stands from its departments' hours and
// from who is there.
func widgetState(s *settings.Settings, w settings.Widget, floor *routing.Floor, staff []routing.Staff, now time.Time) view.WidgetState {
	departments := s.DepartmentsOf(w)
	out := view.WidgetState{Type: "state", State: string(floor.Answers(departments...)), In: []string{}}
	var reach []string
	for _, id := range departments {
		reach = append(reach, floor.Reach(routing.Waiting{Department: id})...)
	}
	if w.Off || !s.WidgetOpen(w, now) {
		out.State = string(routing.Shut)
	}
	if out.State == string(routing.Shut) {
		out.OpensAt = s.WidgetOpensAt(w, reach, now)
		if _, live := s.Flows[w.Helper.Flow]; live && !w.Off && w.Helper.First(false) {
			out.State, out.Helper = string(routing.Open), true // questions are taken, though by nobody yet
		}
		return out
	}
	for _, o := range staff {
		for _, id := range reach {
			if o.Available && floor.Department(id).Open && s.IsMember(o.ID, id) {
				out.In = append(out.In, strings.Fields(s.Operators[o.ID].Shown() + " ")[0])
				break
			}
		}
	}
	return out
}

// WidgetState returns how a widget stands now.
func (room *Room) WidgetState(ctx context.Context, w settings.Widget) (view.WidgetState, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.WidgetState{}, err
	}
	now := room.Now()
	staff, err := room.recentStaff(ctx, now)
	if err != nil {
		return view.WidgetState{}, err
	}
	return widgetState(s, w, routing.NewFloor(s.CoreDepartments(now), staff), staff, now), nil
}

// Host returns who of the team could answer somebody in a department now: available,
// a member, and with the most room. Nobody is returned when nobody has room or it is
// closed.
func (room *Room) Host(ctx context.Context, departmentID string) (settings.Operator, bool, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return settings.Operator{}, false, err
	}
	now := room.Now()
	staff, err := room.recentStaff(ctx, now)
	if err != nil {
		return settings.Operator{}, false, err
	}
	d, known := s.Departments[departmentID]
	if !known || d.RemovedAt != nil || !s.Open(d, now) {
		return settings.Operator{}, false, nil
	}
	core := settings.CoreDepartment(d, true)
	var best settings.Operator
	most := 0.0
	for _, o := range staff {
		if !o.Available || !s.IsMember(o.ID, departmentID) {
			continue
		}
		capacity := o.CapacityIn(&core)
		if room := float64(capacity-o.Load-o.Offered) / float64(max(capacity, 1)); room > most {
			best, most = s.Operators[o.ID], room
		}
	}
	return best, most > 0, nil
}
