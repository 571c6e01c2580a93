package setup

import (
	"context"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/measure"
	"stoop/core/replay"
	"stoop/core/routing"
	"stoop/core/staffing"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/people/register"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// DryRunAsked says which past period is to come again, and what is changed in a draft;
// what is left out stays as it is in force.
type DryRunAsked struct {
	From        string               `json:"from" doc:"First day, like 2026-11-02"`
	To          string               `json:"to" doc:"Last day"`
	Rules       *RuleList            `json:"rules,omitempty"`
	Hours       []HoursSettings      `json:"hours,omitempty"`
	Departments []DepartmentSettings `json:"departments,omitempty"`
	People      []PersonSettings     `json:"people,omitempty"`
}

func (in DryRunAsked) changes() bool {
	return in.Rules != nil || len(in.Hours)+len(in.Departments)+len(in.People) > 0
}

// DryRun compares what happened in a period with the same chats under the set-up in force
// and under a draft.
type DryRun struct {
	Chats       int                  `json:"chats" doc:"That came in the period"`
	All         ReplayColumns        `json:"all"`
	Departments []ReplayedDepartment `json:"departments"`
	Hours       []ReplayedHour       `json:"hours" doc:"By the hour of the day in which chats came"`
	Operators   []ReplayedOperator   `json:"operators"`
	Moved       []MovedChats         `json:"moved" doc:"Chats that come to another department under the draft, the most first"`
	Notes       []DryRunNote         `json:"notes"`
	Wrong       []WrongInFile        `json:"wrong" doc:"What cannot be as it is in the draft; then nothing was replayed"`
}

// ReplayColumns are the same figures of what happened, of a replay of the set-up in
// force, and of one of the draft.
type ReplayColumns struct {
	Happened ReplayFigures  `json:"happened"`
	InForce  ReplayFigures  `json:"inForce"`
	Draft    *ReplayFigures `json:"draft,omitempty"`
}

// ReplayFigures are what some chats come to.
type ReplayFigures struct {
	Chats    int      `json:"chats" doc:"Live ones: taken or missed"`
	Missed   int      `json:"missed"`
	Messages int      `json:"messages" doc:"Came while nobody could answer"`
	InTarget int      `json:"inTarget" doc:"Taken within their department's answer target"`
	Median   *float64 `json:"median,omitempty" doc:"Of the waits of those who were taken, in seconds"`
	P90      *float64 `json:"p90,omitempty"`
	Mean     *float64 `json:"mean,omitempty"`
}

// ReplayedDepartment are the chats that came to a department.
type ReplayedDepartment struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	ReplayColumns
}

// ReplayedHour are the chats that came in an hour of the day.
type ReplayedHour struct {
	Hour int `json:"hour"`
	ReplayColumns
}

// ReplayedLoad is what somebody had to do.
type ReplayedLoad struct {
	Chats int      `json:"chats"`
	Held  *float64 `json:"held,omitempty" doc:"Chats in hand in the mean while they were there"`
}

// ReplayedOperator is what somebody of the team had to do.
type ReplayedOperator struct {
	Name     string        `json:"name"`
	Happened ReplayedLoad  `json:"happened"`
	InForce  ReplayedLoad  `json:"inForce"`
	Draft    *ReplayedLoad `json:"draft,omitempty"`
}

// MovedChats are chats that come to another department.
type MovedChats struct {
	From  string `json:"from"`
	To    string `json:"to"`
	Chats int    `json:"chats"`
}

// DryRunNote is something to know about a replay.
type DryRunNote struct {
	Code  string `json:"code" enum:"patience-guessed,field-unknown,team-changed"`
	Value string `json:"value,omitempty"`
}

// Bounds of a dry run.
const (
	dryRunDays  = 92
	dryRunChats = 20_000
	askedAtOnce = 5000
)

// How it is told from the chats that somebody held when they were there.
const (
	hereAround = 5 * time.Minute
	hereGap    = time.Hour
)

// reactionMost bounds the moment in which somebody takes a chat, as it is measured;
// reactionUsual is that of departments where it could not be.
const (
	reactionMost  = time.Minute
	reactionUsual = 10 * time.Second
)

var errDryRunBusy = problem.New(http.StatusTooManyRequests, "dry-run-busy", "Another dry run is under way", "Try again in a moment.")

// DryRun lets a past period happen again. One at a time: it takes a processor's time.
func (room *Room) DryRun(ctx context.Context, o access.Actor, in DryRunAsked) (DryRun, error) {
	out := DryRun{Departments: []ReplayedDepartment{}, Hours: []ReplayedHour{}, Operators: []ReplayedOperator{}, Moved: []MovedChats{}, Notes: []DryRunNote{}, Wrong: []WrongInFile{}}
	if err := mustAdmin(o); err != nil {
		return out, err
	}
	from, to, err := room.period(in)
	if err != nil {
		return out, err
	}
	select {
	case room.dryRuns() <- struct{}{}:
		defer func() { <-room.dryRuns() }()
	default:
		return out, errDryRunBusy
	}
	inForce, err := room.Settings.Read(ctx)
	if err != nil {
		return out, err
	}
	draft, wrong, err := room.drafted(ctx, o, in)
	if out.Wrong = append(out.Wrong, wrong...); err != nil || len(wrong) > 0 {
		return out, err
	}
	p, err := room.past(ctx, inForce, from, to)
	if err != nil {
		return out, err
	}
	out.Chats = len(p.came)
	now := p.run(inForce)
	var then []replay.Result
	if draft != nil {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		then = p.run(draft)
	}
	p.compare(&out, inForce, draft, now, then)
	out.Notes = p.notes(draft, inForce)
	return out, nil
}

func (room *Room) dryRuns() chan struct{} {
	room.once.Do(room.prepare)
	return room.replays
}

// period reads the days that are asked for, whole ones of the team's zone.
func (room *Room) period(in DryRunAsked) (from, to time.Time, err error) {
	var wrong []form.Wrong
	day := func(field, text string) time.Time {
		at, err := time.ParseInLocation(time.DateOnly, text, room.Zone)
		if err != nil {
			wrong = append(wrong, form.Wrong{Field: field, Words: "Choose a day."})
		}
		return at
	}
	from, to = day("from", in.From), day("to", in.To).AddDate(0, 0, 1)
	if len(wrong) == 0 && (!from.Before(to) || to.Sub(from) > (dryRunDays+1)*24*time.Hour) {
		wrong = append(wrong, form.Wrong{Field: "to", Words: "Choose between 1 and 92 days."})
	}
	return from, to, form.Refuse(wrong)
}

// drafted returns the settings as the draft would make them, by the acts that would store
// it: nothing is stored. Without changes there is no draft.
func (room *Room) drafted(ctx context.Context, o access.Actor, in DryRunAsked) (draft *settings.Settings, wrong []WrongInFile, err error) {
	if !in.changes() {
		return nil, nil, nil
	}
	t := &taking{room: room, by: o}
	_, _, err = room.Settings.Tables.Together(ctx, "", true, func(inside settings.Tables) error {
		t.inner = room.inside(t, inside)
		if err := t.draft(ctx, in); err != nil {
			return err
		}
		draft, err = t.inner.Settings.Read(ctx)
		return err
	})
	return draft, t.wrong, err
}

// draft stores what a draft changes.
func (t *taking) draft(ctx context.Context, in DryRunAsked) error {
	tried := func(where string, err error) error { return t.tried(where, err) }
	for _, h := range in.Hours {
		_, err := t.inner.SaveHours(ctx, t.by, h)
		if err := tried("hours "+h.Name, err); err != nil {
			return err
		}
	}
	for _, p := range in.People {
		p.Password = ""
		_, err := t.inner.SavePerson(ctx, t.by, p)
		if err := tried("person "+p.Name, err); err != nil {
			return err
		}
	}
	for _, d := range in.Departments {
		_, err := t.inner.SaveDepartment(ctx, t.by, d)
		if err := tried("department "+d.Name, err); err != nil {
			return err
		}
	}
	if in.Rules != nil {
		_, err := t.inner.SaveRules(ctx, t.by, *in.Rules)
		return tried("rules", err)
	}
	return nil
}

// past is a period of the past, ready to happen again.
type past struct {
	room     *Room
	from, to time.Time
	came     []facts.Came
	arrivals []replay.Arrival // without what depends on the set-up
	widgets  map[string]string
	here     []replay.Presence
	owners   []string // account owners, by arrival
	reaction map[string]time.Duration
	guessed  bool
}

func (room *Room) past(ctx context.Context, s *settings.Settings, from, to time.Time) (*past, error) {
	p := &past{room: room, from: from, to: to, widgets: map[string]string{}, reaction: map[string]time.Duration{}}
	reader := room.Replica.Reader() // all of it is of the past
	reading := facts.On(reader)
	var err error
	if p.came, err = reading.CameBetween(ctx, from, to, dryRunChats+1); err != nil {
		return nil, err
	}
	if len(p.came) > dryRunChats {
		return nil, form.Refuse([]form.Wrong{{Field: "to", Words: "There are more than 20,000 chats in this period. Choose a shorter one."}})
	}
	held, err := reading.HeldBetween(ctx, from.Add(-24*time.Hour), to)
	if err != nil {
		return nil, err
	}
	by := map[string][]replay.Presence{}
	for _, h := range held {
		by[h.Operator] = append(by[h.Operator], replay.Presence{Operator: h.Operator, From: h.From, To: h.To})
	}
	p.here = replay.Here(by, hereAround, hereGap)
	slices.SortFunc(p.here, func(a, b replay.Presence) int { return a.From.Compare(b.From) })
	if err := p.arrive(ctx, reader, s); err != nil {
		return nil, err
	}
	return p, nil
}

// arrive makes arrivals of the chats that came.
func (p *past) arrive(ctx context.Context, reader *store.Store, s *settings.Settings) error {
	waited, gaveUp := 0.0, int64(0)
	handling, waits := map[string][]time.Duration{}, map[string][]int{}
	for _, c := range p.came {
		if c.Ending != "message" {
			waited += float64(c.Waited)
		}
		if c.Ending == "missed" {
			gaveUp++
		}
		if c.Wait != nil && c.Ending != "message" {
			handling[c.Department] = append(handling[c.Department], time.Duration(c.Held)*time.Second)
			waits[c.Department] = append(waits[c.Department], *c.Wait)
		}
	}
	mean, guessed := staffing.PatienceOf(waited, gaveUp)
	p.guessed = guessed
	for id, list := range waits {
		// Of those who waited least, somebody was free: what is left is the moment of taking.
		p.reaction[id] = min(reactionMost, time.Duration(measure.Percentile(list, 0.25))*time.Second)
	}
	last := map[string]string{}
	for some := range slices.Chunk(p.came, askedAtOnce) {
		ids, visitors := make([]string, len(some)), make([]string, len(some))
		for i, c := range some {
			ids[i], visitors[i] = c.ChatID, c.VisitorID
		}
		begun, err := chatlog.On(reader).Beginnings(ctx, ids)
		if err != nil {
			return err
		}
		known, err := register.On(reader).LookedUp(ctx, visitors)
		if err != nil {
			return err
		}
		for _, c := range some {
			b, k := begun[c.ChatID], known[c.VisitorID]
			a := replay.Arrival{ID: c.ChatID, At: c.At, Widget: c.WidgetID, Visitor: c.VisitorID, Last: last[c.VisitorID], Language: c.Language}
			a.Facts = routing.Facts{
				PageURL: b.Intro.PageURL, PageTitle: c.PageTitle, Country: c.Country, Source: c.Source, Language: c.Language, Widget: s.Widgets[c.WidgetID].Key,
				Hour: c.At.In(p.room.Zone).Hour(), Form: b.Answers, Outside: k.Outside, LastOperator: a.Last,
				Contact: map[string]string{"name": b.Name, "email": b.Email, "phone": b.Phone},
			}
			if a.Facts.PageURL == "" {
				a.Facts.PageURL = c.Page // the transcript is deleted
			}
			for _, f := range s.Widgets[c.WidgetID].Form {
				if f.Kind == form.Department {
					a.Facts.Department = b.Answers[f.Name]
				}
			}
			p.owners = append(p.owners, k.AccountOwner)
			patience := time.Duration(mean * float64(time.Second))
			switch {
			case c.Ending == "missed":
				a.Patience = max(time.Second, time.Duration(c.Waited)*time.Second)
			case c.Wait != nil && c.Ending != "message":
				a.Patience = replay.StillPatient(c.ChatID, time.Duration(*c.Wait)*time.Second, patience)
			default:
				a.Patience = replay.StillPatient(c.ChatID, 0, patience)
			}
			if a.Handling = time.Duration(c.Held) * time.Second; c.Wait == nil || c.Ending == "message" {
				a.Handling = replay.OneOf(c.ChatID, handling[c.Department], 5*time.Minute)
			}
			p.arrivals = append(p.arrivals, a)
			if c.Owner != "" {
				last[c.VisitorID] = c.Owner
			}
		}
	}
	return nil
}

// run lets the period happen under a set-up.
func (p *past) run(s *settings.Settings) []replay.Result {
	setUp := replay.SetUp{Rules: s.Rules, HeadStart: s.HeadStart(), WidgetOpen: p.opens(func(id string) *string { return s.Widgets[id].HoursID }, s)}
	departmentOpen := p.opens(func(id string) *string { return s.Departments[id].HoursID }, s)
	for _, d := range s.InUse {
		one := replay.Department{Department: settings.CoreDepartment(d, true), Target: time.Duration(d.TargetSeconds) * time.Second}
		id := d.ID
		one.OpenAt = func(at time.Time) bool { return departmentOpen(id, at) }
		var measured bool
		if one.Reaction, measured = p.reaction[d.ID]; !measured {
			one.Reaction = reactionUsual
		}
		if d.HandOut == routing.Assign {
			one.Reaction = 0 // it is theirs at once
		}
		setUp.Departments = append(setUp.Departments, one)
	}
	for _, o := range s.Team {
		one := routing.Staff{ID: o.ID, Name: o.Name, Percent: o.CapacityPercent, Languages: o.Languages}
		if o.Capacity != nil {
			one.Capacity = *o.Capacity
		}
		setUp.Staff = append(setUp.Staff, one)
	}
	arrivals := slices.Clone(p.arrivals)
	for i := range arrivals {
		owner := p.owners[i]
		arrivals[i].Places = s.Places(s.Widgets[arrivals[i].Widget], &owner)
	}
	return replay.Run(arrivals, p.here, setUp)
}

// opens tells of things with hours, by their ids, whether they are open at a time of the
// period.
func (p *past) opens(hoursOf func(id string) *string, s *settings.Settings) func(id string, at time.Time) bool {
	known := map[string]func(time.Time) bool{}
	return func(id string, at time.Time) bool {
		hoursID := hoursOf(id)
		if hoursID == nil {
			return true
		}
		open, there := known[*hoursID]
		if !there {
			h, ok := s.Hours[*hoursID]
			if !ok {
				return false
			}
			// A day more: who waits at the end is waited for.
			intervals := h.Schedule().Between(p.from, p.to.Add(24*time.Hour))
			open = func(at time.Time) bool {
				n, found := slices.BinarySearchFunc(intervals, at, func(i hours.Interval, at time.Time) int { return i.From.Compare(at) })
				return found || n > 0 && at.Before(intervals[n-1].To)
			}
			known[*hoursID] = open
		}
		return open(at)
	}
}

// compare fills in what the replays show.
func (p *past) compare(out *DryRun, inForce, draft *settings.Settings, now, then []replay.Result) {
	happened := make([]replay.Result, len(p.came))
	for i, c := range p.came {
		happened[i] = happenedTo(c)
	}
	columns := func(keep func(replay.Result) bool) ReplayColumns {
		some := func(of []replay.Result) ReplayFigures {
			return figuresOf(slices.DeleteFunc(slices.Clone(of), func(r replay.Result) bool { return !keep(r) }))
		}
		c := ReplayColumns{Happened: some(happened), InForce: some(now)}
		if then != nil {
			f := some(then)
			c.Draft = &f
		}
		return c
	}
	out.All = columns(func(replay.Result) bool { return true })
	names := map[string]string{}
	for _, s := range []*settings.Settings{inForce, draft} {
		if s != nil {
			for id, d := range s.Departments {
				names[id] = d.Name
			}
		}
	}
	for _, id := range sortedBy(names, func(name string) string { return name }) {
		d := ReplayedDepartment{ID: id, Name: names[id], ReplayColumns: columns(func(r replay.Result) bool { return r.Department == id })}
		if d.Happened.any() || d.InForce.any() || d.Draft != nil && d.Draft.any() {
			out.Departments = append(out.Departments, d)
		}
	}
	for hour := range 24 {
		h := ReplayedHour{Hour: hour, ReplayColumns: columns(func(r replay.Result) bool { return r.At.In(p.room.Zone).Hour() == hour })}
		out.Hours = append(out.Hours, h)
	}
	p.operators(out, inForce, happened, now, then)
	moved := map[[2]string]int{}
	for i := range then {
		if a, b := now[i].Department, then[i].Department; a != b {
			moved[[2]string{names[a], names[b]}]++
		}
	}
	for way, n := range moved {
		out.Moved = append(out.Moved, MovedChats{way[0], way[1], n})
	}
	slices.SortFunc(out.Moved, func(a, b MovedChats) int {
		if a.Chats != b.Chats {
			return b.Chats - a.Chats
		}
		return strings.Compare(a.From+a.To, b.From+b.To)
	})
}

func (p *past) operators(out *DryRun, s *settings.Settings, happened, now, then []replay.Result) {
	before, inForce, draft := replay.Loads(happened, p.here), replay.Loads(now, p.here), replay.Loads(then, p.here)
	load := func(l replay.Load) ReplayedLoad {
		v := ReplayedLoad{Chats: l.Chats}
		if l.Present > 0 {
			held := math.Round(100*l.Held.Seconds()/l.Present.Seconds()) / 100
			v.Held = &held
		}
		return v
	}
	for _, id := range sortedBy(s.Operators, func(o settings.Operator) string { return o.Name }) {
		if before[id] == (replay.Load{}) && inForce[id] == (replay.Load{}) && draft[id] == (replay.Load{}) {
			continue
		}
		one := ReplayedOperator{Name: s.Operators[id].Name, Happened: load(before[id]), InForce: load(inForce[id])}
		if then != nil {
			l := load(draft[id])
			one.Draft = &l
		}
		out.Operators = append(out.Operators, one)
	}
}

// happenedTo returns what became of a chat in earnest.
func happenedTo(c facts.Came) replay.Result {
	r := replay.Result{ID: c.ChatID, At: c.At, Department: c.Department, Operator: c.Owner, InTarget: c.InTarget, Held: time.Duration(c.Held) * time.Second}
	switch {
	case c.Ending == "message":
		r.End = replay.Message
	case c.Ending == "missed" || c.Wait == nil:
		r.End, r.Wait = replay.Missed, time.Duration(c.Waited)*time.Second
	default:
		r.End, r.Wait = replay.Taken, time.Duration(*c.Wait)*time.Second
	}
	return r
}

func figuresOf(results []replay.Result) ReplayFigures {
	f := replay.Of(results)
	number := func(x float64) *float64 {
		if math.IsNaN(x) {
			return nil
		}
		x = math.Round(10*x) / 10
		return &x
	}
	return ReplayFigures{f.Chats, f.Missed, f.Messages, f.InTarget, number(f.Median), number(f.P90), number(f.Mean)}
}

func (f ReplayFigures) any() bool { return f.Chats+f.Messages > 0 }

// notes tells what to bear in mind.
func (p *past) notes(draft, inForce *settings.Settings) []DryRunNote {
	notes := []DryRunNote{}
	if p.guessed {
		notes = append(notes, DryRunNote{Code: "patience-guessed"})
	}
	unknown := []string{}
	for _, s := range []*settings.Settings{inForce, draft} {
		if s == nil {
			continue
		}
		for _, field := range s.Rules.Fields() {
			if !replay.Knows(field) && !slices.Contains(unknown, field) {
				unknown = append(unknown, field)
				notes = append(notes, DryRunNote{Code: "field-unknown", Value: field})
			}
		}
	}
	gone := map[string]bool{}
	for _, h := range p.here {
		if o, there := inForce.Operators[h.Operator]; there && !o.Active {
			gone[o.Name] = true
		}
	}
	for _, name := range sortedBy(gone, func(bool) string { return "" }) {
		notes = append(notes, DryRunNote{Code: "team-changed", Value: name})
	}
	return notes
}
