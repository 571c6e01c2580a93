// Package settings keeps what is set up, as every room reads it: the team, the
// departments with their hours and rules, the widgets, the Desk. Admins change it
// in the room setup.
package settings

import (
	"context"
	"errors"
	"slices"
	"time"

	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/invite"
	"stoop/core/routing"
	"stoop/internal/remember"
	"stoop/internal/store"
)

// Tables are those of what is set up.
type Tables struct {
	*store.Store
	within *gorm.DB // a transaction that is under way; see Together
}

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{Store: s} }

// ErrWrongSite: the page is not one of the widget's own sites.
var ErrWrongSite = errors.New("this widget does not belong to this site")

// ErrUnknownWidget: there is no widget with this key.
var ErrUnknownWidget = errors.New("there is no widget with this key")

// Patience bounds how long something that happens beside a request may wait for
// settings that were forgotten.
const Patience = 5 * time.Second

// Cache remembers the settings until they change. It is safe for concurrent use.
type Cache struct {
	Tables     Tables
	remembered remember.Value[Settings]
}

// Actor returns somebody of the team as they may act now, by the settings that
// this server remembers; who was deactivated may not.
func (cache *Cache) Actor(ctx context.Context, id string) (access.Actor, error) {
	s, err := cache.Get(ctx)
	if err != nil {
		return access.Actor{}, err
	}
	if !s.Operators[id].Active {
		return access.Actor{}, access.ErrNotAllowed
	}
	return s.Actor(id), nil
}

// Places returns what rules may point at for a chat of a widget.
func (s *Settings) Places(w Widget, accountOwner *string) routing.Places {
	p := routing.Places{Departments: map[string]string{}, Operators: map[string]string{}, Default: s.Default}
	for _, d := range s.InUse {
		p.Departments[d.ID] = d.Name
	}
	for _, o := range s.Operators {
		if o.Active {
			p.Operators[o.ID] = o.Name
		}
	}
	if accountOwner != nil {
		p.AccountOwner = *accountOwner
	}
	own := s.DepartmentsOf(w)
	if len(w.Departments) > 0 && len(own) > 0 && !slices.Contains(own, p.Default) {
		p.Default = own[0]
	}
	return p
}

// Settings are what is set up, as read from the database at one moment. It
// is never changed: after a change it is read anew.
type Settings struct {
	Team        []Operator // by name
	Operators   map[string]Operator
	Widgets     map[string]Widget
	Departments map[string]Department // removed ones too: old chats name them
	InUse       []Department
	Hours       map[string]Hours
	Flows       map[string]LiveFlow // of the helper, that answer now
	Rules       routing.RuleSet
	Default     string // id of the default department
	Desk        DeskSettings
	Site        SiteSettings
	SiteData    SiteData
	Tickets     TicketSettings
	Retention   Retention
	Channels    ChannelSettings
	Invitations InvitationSettings
	Invites     invite.Set // the rules of Invitations, ready to be asked
}

// Get returns the settings, from memory if they have not changed.
func (cache *Cache) Get(ctx context.Context) (*Settings, error) {
	return cache.remembered.Get(func() (*Settings, error) { return cache.Read(ctx) })
}

// Forget makes the next look at the settings read them anew.
func (cache *Cache) Forget() { cache.remembered.Forget() }

// Read returns the settings as the database has them now.
func (cache *Cache) Read(ctx context.Context) (*Settings, error) {
	s := &Settings{
		Operators: map[string]Operator{}, Widgets: map[string]Widget{},
		Departments: map[string]Department{}, Hours: map[string]Hours{},
	}
	team, err := cache.Tables.Operators(ctx)
	if err != nil {
		return nil, err
	}
	s.Team = team
	for _, o := range team {
		s.Operators[o.ID] = o
	}
	widgets, err := cache.Tables.AllWidgets(ctx)
	if err != nil {
		return nil, err
	}
	for _, w := range widgets {
		w.Off = w.Off || w.RemovedAt != nil // chats that are under way go on
		s.Widgets[w.ID] = w
	}
	all, err := cache.Tables.AllDepartments(ctx)
	if err != nil {
		return nil, err
	}
	for _, d := range all {
		s.Departments[d.ID] = d
		if d.RemovedAt == nil {
			s.InUse = append(s.InUse, d)
		}
		if d.IsDefault {
			s.Default = d.ID
		}
	}
	schedules, err := cache.Tables.AllHours(ctx)
	if err != nil {
		return nil, err
	}
	for _, h := range schedules {
		s.Hours[h.ID] = h
	}
	if s.Flows, err = cache.Tables.LiveFlows(ctx); err != nil {
		return nil, err
	}
	rules, _, err := cache.Tables.Rules(ctx)
	if err != nil {
		return nil, err
	}
	if s.Desk, err = DeskDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.Site, err = SiteDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.SiteData, err = SiteDataDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.Retention, err = RetentionDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.Tickets, err = TicketsDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.Channels, err = ChannelsDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	if s.Invitations, err = InvitationsDocument.Read(ctx, cache.Tables); err != nil {
		return nil, err
	}
	s.Invites, _ = invite.Compile(s.Invitations.Rules)
	// Rules were checked when they were saved; one that is wrong is left out.
	s.Rules, _ = routing.Compile(CoreRules(rules))
	return s, nil
}

// Open reports whether a department is open by its hours.
func (s *Settings) Open(d Department, at time.Time) bool {
	if d.HoursID == nil {
		return true
	}
	h, ok := s.Hours[*d.HoursID]
	return ok && h.Schedule().Open(at)
}

// WidgetOpen reports whether a widget is open by its own hours.
func (s *Settings) WidgetOpen(w Widget, at time.Time) bool {
	if w.HoursID == nil {
		return true
	}
	h, ok := s.Hours[*w.HoursID]
	return ok && h.Schedule().Open(at)
}

// WidgetOpensAt returns when some departments open next within a widget's own hours, or
// nil when they are open now or never will be.
func (s *Settings) WidgetOpensAt(w Widget, departments []string, now time.Time) *time.Time {
	opens := []hours.Next{s.nextOpening(departments)}
	if w.HoursID != nil {
		opens = append(opens, s.Hours[*w.HoursID].Schedule().NextOpening)
	}
	return later(now, opens...)
}

// OpensAt returns when the first of some departments opens by its hours, or
// nil when one is open or none ever will be.
func (s *Settings) OpensAt(departments []string, now time.Time) *time.Time {
	return later(now, s.nextOpening(departments))
}

// nextOpening tells when the first of some departments opens.
func (s *Settings) nextOpening(departments []string) hours.Next {
	var each []hours.Next
	for _, id := range departments {
		if d := s.Departments[id]; d.HoursID == nil {
			each = append(each, hours.Always)
		} else {
			each = append(each, s.Hours[*d.HoursID].Schedule().NextOpening)
		}
	}
	return hours.First(each...)
}

// later returns when all are open, if that is later than now.
func later(now time.Time, opens ...hours.Next) *time.Time {
	at, ok := hours.Together(opens...)(now)
	if !ok || !at.After(now) {
		return nil
	}
	return &at
}

// HeadStart is what a step of priority is worth in a queue.
func (s *Settings) HeadStart() time.Duration {
	return time.Duration(s.Desk.PriorityMinutes) * time.Minute
}

// DepartmentsOf returns the ids of a widget's departments: those it names and
// that are still in use, or else all.
func (s *Settings) DepartmentsOf(w Widget) []string {
	var ids, all []string
	for _, d := range s.InUse {
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

// CoreDepartments returns the departments as routing sees them.
func (s *Settings) CoreDepartments(now time.Time) []routing.Department {
	list := make([]routing.Department, len(s.InUse))
	for i, d := range s.InUse {
		list[i] = CoreDepartment(d, s.Open(d, now))
	}
	return list
}

// CoreDepartment returns a department as routing sees it.
func CoreDepartment(d Department, open bool) routing.Department {
	out := routing.Department{
		ID: d.ID, Name: d.Name, Open: open, HandOut: d.HandOut, Choice: d.Choice, Last: d.LastFirst, Languages: d.LanguagesFirst, Capacity: d.Capacity,
		Overflow: routing.Overflow{To: d.OverflowTo, AfterSeconds: d.OverflowAfter, AtLength: d.OverflowLength, WhenClosed: d.OverflowClosed},
	}
	for _, m := range d.Members {
		out.Members = append(out.Members, routing.Member{Operator: m.OperatorID, Backup: m.Backup})
	}
	return out
}

// CoreRules returns stored rules as routing sees them.
func CoreRules(rules []Rule) []routing.Rule {
	list := make([]routing.Rule, len(rules))
	for i, r := range rules {
		list[i] = routing.Rule{
			ID: r.ID, Name: r.Name, On: r.IsOn, Match: r.Match, Conditions: r.Conditions,
			Department: r.DepartmentID, Operator: r.OperatorID, AccountOwner: r.AccountOwner, Priority: r.Priority,
		}
	}
	return list
}

// Actor returns somebody of the team as they act; nobody for who is not in it.
func (s *Settings) Actor(id string) access.Actor { return s.ActorOf(s.Operators[id]) }

// ActorOf returns an operator as they act.
func (s *Settings) ActorOf(o Operator) access.Actor {
	actor := access.Actor{ID: o.ID, Name: o.Name, Email: o.Email, Role: o.Role}
	for _, d := range s.InUse {
		if s.IsMember(o.ID, d.ID) {
			actor.Departments = append(actor.Departments, d.ID)
		}
	}
	return actor
}

// IsMember reports whether an operator is a member of one of some departments.
func (s *Settings) IsMember(operatorID string, departments ...string) bool {
	for _, id := range departments {
		for _, m := range s.Departments[id].Members {
			if m.OperatorID == operatorID {
				return true
			}
		}
	}
	return false
}

// CapacityIn returns how many chats an operator may hold as a member of a
// department.
func (s *Settings) CapacityIn(o Operator, d Department) int {
	w := routing.Staff{Percent: o.CapacityPercent}
	if o.Capacity != nil {
		w.Capacity = *o.Capacity
	}
	core := CoreDepartment(d, true)
	return w.CapacityIn(&core)
}

// CapacityOf returns the most that an operator may hold in any of their
// departments.
func (s *Settings) CapacityOf(o Operator) int {
	most := 0
	for _, d := range s.InUse {
		if s.IsMember(o.ID, d.ID) {
			most = max(most, s.CapacityIn(o, d))
		}
	}
	return most
}

// Operator returns a member of the team.
func (cache *Cache) Operator(ctx context.Context, id string) (Operator, error) {
	o, ok, err := find(ctx, cache, func(s *Settings) (Operator, bool) { o, ok := s.Operators[id]; return o, ok })
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	return o, err
}

// OperatorName returns the name to show for an operator.
func (cache *Cache) OperatorName(id string) string {
	ctx, cancel := context.WithTimeout(context.Background(), Patience)
	defer cancel()
	o, err := cache.Operator(ctx, id)
	if err != nil {
		return "A colleague"
	}
	return o.Name
}

// ShownName returns the name of an operator that visitors see.
func (cache *Cache) ShownName(id string) string {
	ctx, cancel := context.WithTimeout(context.Background(), Patience)
	defer cancel()
	o, err := cache.Operator(ctx, id)
	if err != nil {
		return "A colleague"
	}
	return o.Shown()
}

// PhotoOf returns the address of an operator's photo; nothing if they have none.
func (cache *Cache) PhotoOf(id string) string {
	ctx, cancel := context.WithTimeout(context.Background(), Patience)
	defer cancel()
	o, err := cache.Operator(ctx, id)
	if err != nil {
		return ""
	}
	return o.Photo()
}

// TargetOf returns the answer target of a department, in seconds; 0 if it is not known.
func (cache *Cache) TargetOf(department string) int {
	ctx, cancel := context.WithTimeout(context.Background(), Patience)
	defer cancel()
	d, err := cache.Department(ctx, department)
	if err != nil {
		return 0
	}
	return d.TargetSeconds
}

// Widget returns the widget with an id.
func (cache *Cache) Widget(ctx context.Context, id string) (Widget, error) {
	w, ok, err := find(ctx, cache, func(s *Settings) (Widget, bool) { w, ok := s.Widgets[id]; return w, ok })
	if err == nil && !ok {
		err = ErrUnknownWidget
	}
	return w, err
}

// Department returns a department, also one that was removed.
func (cache *Cache) Department(ctx context.Context, id string) (Department, error) {
	d, ok, err := find(ctx, cache, func(s *Settings) (Department, bool) { d, ok := s.Departments[id]; return d, ok })
	if err == nil && !ok {
		err = store.ErrNotFound
	}
	return d, err
}

// find looks something up in the settings, and once more after reading them
// anew: it may have been added without Stoop's servers being told.
func find[T any](ctx context.Context, cache *Cache, look func(*Settings) (T, bool)) (T, bool, error) {
	s, err := cache.Get(ctx)
	if err != nil {
		var none T
		return none, false, err
	}
	if found, ok := look(s); ok {
		return found, true, nil
	}
	cache.Forget()
	if s, err = cache.Get(ctx); err != nil {
		var none T
		return none, false, err
	}
	found, ok := look(s)
	return found, ok, nil
}

// Form returns a widget's form with the departments that can be chosen now.
func (s *Settings) Form(w Widget) form.Form {
	fields := append(form.Form{}, w.Form...)
	for i := range fields {
		if fields[i].Kind == form.Department {
			fields[i].Options = s.DepartmentsOf(w)
		}
	}
	return fields
}

// AudienceOf returns who is told of a chat, without leads: they are told of all.
func (s *Settings) AudienceOf(state chat.State) access.Audience {
	audience := access.AudienceOf(state)
	audience.Operators = slices.DeleteFunc(slices.Clone(audience.Operators), func(id string) bool { return s.Actor(id).Leads() })
	return audience
}

// Targets returns the answer targets, in seconds, by the ids of departments and,
// for chats without one, of widgets.
func (s *Settings) Targets() map[string]int {
	targets := map[string]int{}
	for _, w := range s.Widgets {
		targets[w.ID] = w.AnswerTargetSeconds
	}
	for _, d := range s.Departments {
		targets[d.ID] = d.TargetSeconds
	}
	return targets
}

// IDs returns the ids of the departments that are in use.
func (s *Settings) IDs() []string {
	ids := make([]string, len(s.InUse))
	for i, d := range s.InUse {
		ids[i] = d.ID
	}
	return ids
}

// AllShut reports whether departments are all closed by their hours at a time.
func (s *Settings) AllShut(departments []string, at time.Time) bool {
	return !slices.ContainsFunc(departments, func(id string) bool { return s.Open(s.Departments[id], at) })
}
