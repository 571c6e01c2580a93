package app

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/routing"
	"stoop/internal/store"
)

// setup is what the settings say, as read from the database at one moment. It
// is never changed: after a change it is read anew.
type setup struct {
	operators   map[string]store.Operator
	widgets     map[string]store.Widget
	departments map[string]store.Department // removed ones too: old chats name them
	inUse       []store.Department
	hours       map[string]store.Hours
	rules       routing.RuleSet
	deflt       string // id of the default department
	desk        DeskSettings
}

// setup returns the settings, from memory if they have not changed.
func (a *App) setup(ctx context.Context) (*setup, error) {
	return a.settings.get(func() (*setup, error) { return a.readSetup(ctx) })
}

// forget makes the next look at the settings read them anew.
func (a *App) forget() { a.settings.forget() }

func (a *App) readSetup(ctx context.Context) (*setup, error) {
	s := &setup{
		operators: map[string]store.Operator{}, widgets: map[string]store.Widget{},
		departments: map[string]store.Department{}, hours: map[string]store.Hours{},
	}
	team, err := a.store.Operators(ctx)
	if err != nil {
		return nil, err
	}
	for _, o := range team {
		s.operators[o.ID] = o
	}
	widgets, err := a.store.Widgets(ctx)
	if err != nil {
		return nil, err
	}
	for _, w := range widgets {
		s.widgets[w.ID] = w
	}
	all, err := a.store.AllDepartments(ctx)
	if err != nil {
		return nil, err
	}
	for _, d := range all {
		s.departments[d.ID] = d
		if d.RemovedAt == nil {
			s.inUse = append(s.inUse, d)
		}
		if d.IsDefault {
			s.deflt = d.ID
		}
	}
	schedules, err := a.store.AllHours(ctx)
	if err != nil {
		return nil, err
	}
	for _, h := range schedules {
		s.hours[h.ID] = h
	}
	rules, _, err := a.store.Rules(ctx)
	if err != nil {
		return nil, err
	}
	if s.desk, _, err = a.readDesk(ctx); err != nil {
		return nil, err
	}
	// Rules were checked when they were saved; one that is wrong is left out.
	s.rules, _ = routing.Compile(coreRules(rules))
	return s, nil
}

// open reports whether a department is open by its hours.
func (s *setup) open(d store.Department, at time.Time) bool {
	if d.HoursID == nil {
		return true
	}
	h, ok := s.hours[*d.HoursID]
	return ok && h.Schedule().Open(at)
}

// opensAt returns when the first of some departments opens by its hours, or
// nil when one is open or none ever will be.
func (s *setup) opensAt(departments []string, now time.Time) *time.Time {
	var first *time.Time
	for _, id := range departments {
		d := s.departments[id]
		if d.HoursID == nil {
			return nil
		}
		at, ok := s.hours[*d.HoursID].Schedule().NextOpening(now)
		if !ok {
			continue
		}
		if !at.After(now) {
			return nil
		}
		if first == nil || at.Before(*first) {
			first = &at
		}
	}
	return first
}

// headStart is what a step of priority is worth in a queue.
func (s *setup) headStart() time.Duration {
	return time.Duration(s.desk.PriorityMinutes) * time.Minute
}

// departmentsOf returns the ids of a widget's departments: those it names and
// that are still in use, or else all.
func (s *setup) departmentsOf(w store.Widget) []string {
	var ids, all []string
	for _, d := range s.inUse {
		all = append(all, d.ID)
		for _, id := range w.Departments {
			if id == d.ID {
				ids = append(ids, id)
			}
		}
	}
	if len(ids) == 0 {
		return all
	}
	return ids
}

// coreDepartments returns the departments as routing sees them.
func (s *setup) coreDepartments(now time.Time) []routing.Department {
	list := make([]routing.Department, len(s.inUse))
	for i, d := range s.inUse {
		list[i] = coreDepartment(d, s.open(d, now))
	}
	return list
}

func coreDepartment(d store.Department, open bool) routing.Department {
	out := routing.Department{
		ID: d.ID, Name: d.Name, Open: open, HandOut: d.HandOut, Choice: d.Choice, Last: d.LastFirst, Languages: d.LanguagesFirst, Capacity: d.Capacity,
		Overflow: routing.Overflow{To: d.OverflowTo, AfterSeconds: d.OverflowAfter, AtLength: d.OverflowLength, WhenClosed: d.OverflowClosed},
	}
	for _, m := range d.Members {
		out.Members = append(out.Members, routing.Member{Operator: m.OperatorID, Backup: m.Backup, Turn: m.Turn})
	}
	return out
}

func coreRules(rules []store.Rule) []routing.Rule {
	list := make([]routing.Rule, len(rules))
	for i, r := range rules {
		list[i] = routing.Rule{
			ID: r.ID, Name: r.Name, On: r.IsOn, Match: r.Match, Conditions: r.Conditions,
			Department: r.DepartmentID, Operator: r.OperatorID, AccountOwner: r.AccountOwner, Priority: r.Priority,
		}
	}
	return list
}

// actor returns somebody of the team as they act; nobody for who is not in it.
func (s *setup) actor(id string) access.Actor { return s.actorOf(s.operators[id]) }

func (s *setup) actorOf(o store.Operator) access.Actor {
	actor := access.Actor{ID: o.ID, Name: o.Name, Email: o.Email, Role: o.Role}
	for _, d := range s.inUse {
		if s.isMember(o.ID, d.ID) {
			actor.Departments = append(actor.Departments, d.ID)
		}
	}
	return actor
}

// isMember reports whether an operator is a member of one of some departments.
func (s *setup) isMember(operatorID string, departments ...string) bool {
	for _, id := range departments {
		for _, m := range s.departments[id].Members {
			if m.OperatorID == operatorID {
				return true
			}
		}
	}
	return false
}

// capacityIn returns how many chats an operator may hold as a member of a
// department.
func (s *setup) capacityIn(o store.Operator, d store.Department) int {
	w := routing.Staff{Percent: o.CapacityPercent}
	if o.Capacity != nil {
		w.Capacity = *o.Capacity
	}
	core := coreDepartment(d, true)
	return w.CapacityIn(&core)
}

// capacityOf returns the most that an operator may hold in any of their
// departments.
func (s *setup) capacityOf(o store.Operator) int {
	most := 0
	for _, d := range s.inUse {
		if s.isMember(o.ID, d.ID) {
			most = max(most, s.capacityIn(o, d))
		}
	}
	return most
}

// operator returns a member of the team.
func (a *App) operator(ctx context.Context, id string) (store.Operator, error) {
	o, ok, err := find(ctx, a, func(s *setup) (store.Operator, bool) { o, ok := s.operators[id]; return o, ok })
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	return o, err
}

// operatorName returns the name to show for an operator.
func (a *App) operatorName(id string) string {
	ctx, cancel := context.WithTimeout(context.Background(), tellTimeout)
	defer cancel()
	o, err := a.operator(ctx, id)
	if err != nil {
		return "A colleague"
	}
	return o.Name
}

func (a *App) widget(ctx context.Context, id string) (store.Widget, error) {
	w, ok, err := find(ctx, a, func(s *setup) (store.Widget, bool) { w, ok := s.widgets[id]; return w, ok })
	if err == nil && !ok {
		err = ErrUnknownWidget
	}
	return w, err
}

func (a *App) department(ctx context.Context, id string) (store.Department, error) {
	d, ok, err := find(ctx, a, func(s *setup) (store.Department, bool) { d, ok := s.departments[id]; return d, ok })
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	return d, err
}

// find looks something up in the settings, and once more after reading them
// anew: it may have been added without Stoop's servers being told.
func find[T any](ctx context.Context, a *App, look func(*setup) (T, bool)) (T, bool, error) {
	s, err := a.setup(ctx)
	if err != nil {
		var none T
		return none, false, err
	}
	if found, ok := look(s); ok {
		return found, true, nil
	}
	a.forget()
	if s, err = a.setup(ctx); err != nil {
		var none T
		return none, false, err
	}
	found, ok := look(s)
	return found, ok, nil
}
