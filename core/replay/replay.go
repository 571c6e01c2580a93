// Package replay lets a past period happen again under another set-up: the chats that
// came then come again at their times, and the real routing decides who gets what.
//
// What is taken from the log: when chats came and from where, how long each was held, who
// was there when, and how long visitors waited before they gave up. What the log cannot
// tell is drawn, always alike for the same chat, so that two set-ups are compared on the
// same luck: how long somebody would have waited on who was taken, and how long a chat
// would have been held that nobody took. What a person does of themselves (picking a
// chat, letting an offer go by, handing it on) is not replayed: whoever gets a chat takes
// it after the usual moment. So a replay of the set-up in force differs from what
// happened by the model's own error, and is to be shown beside it.
package replay

import (
	"container/heap"
	"slices"
	"time"

	"stoop/core/routing"
)

// Arrival is a chat that came.
type Arrival struct {
	ID       string
	At       time.Time
	Widget   string
	Facts    routing.Facts
	Places   routing.Places
	Visitor  string
	Last     string // the operator of last time
	Language string
	Handling time.Duration // from taking to the end of the work after it
	Patience time.Duration // after which the visitor gives up
}

// Presence is when an operator was there.
type Presence struct {
	Operator string
	From, To time.Time
}

// Department is a department as routing sees it, with its hours.
type Department struct {
	routing.Department
	OpenAt func(time.Time) bool
	Target time.Duration // within which a chat is to be taken
	// Reaction is how long its members take to take a chat that they get.
	Reaction time.Duration
}

// SetUp is that under which the chats come again.
type SetUp struct {
	Rules       routing.RuleSet
	Departments []Department
	Staff       []routing.Staff
	HeadStart   time.Duration // of a step of priority
	// WidgetOpen tells whether a widget is open by its own hours; nil: always.
	WidgetOpen func(widget string, at time.Time) bool
}

// End is what becomes of a chat.
type End string

// The ends.
const (
	Taken   End = "taken"
	Missed  End = "missed"  // the visitor gave up
	Message End = "message" // nobody was there for it
)

// Result is what became of an arrival.
type Result struct {
	ID         string
	At         time.Time
	Department string // to which it came
	By         string // the department whose member took it
	Operator   string
	Priority   int
	End        End
	Wait       time.Duration // until it was taken, or given up
	Held       time.Duration
	InTarget   bool
}

// hoursEvery is how often the hours are looked at.
const hoursEvery = time.Minute

// run is a replay under way.
type run struct {
	setUp    SetUp
	arrivals []Arrival
	results  []Result
	floor    *routing.Floor
	rest     []routing.Department
	staff    []routing.Staff
	at       map[string]int // of operators in staff
	here     []int          // how many presences of each are under way
	queue    []routing.Waiting
	asked    map[string]int // arrivals by id
	events   events
	looked   time.Time
}

// Run lets arrivals happen, which must be in the order of their times, and returns what
// becomes of each, in the same order. Who waits when the period is over is waited for.
func Run(arrivals []Arrival, presences []Presence, setUp SetUp) []Result {
	r := &run{setUp: setUp, arrivals: arrivals, results: make([]Result, len(arrivals)), staff: slices.Clone(setUp.Staff), at: map[string]int{}, asked: map[string]int{}}
	for i := range r.staff {
		r.staff[i].Available, r.staff[i].Load, r.staff[i].Offered = false, 0, 0
		r.at[r.staff[i].ID] = i
	}
	r.here = make([]int, len(r.staff))
	for _, d := range setUp.Departments {
		// Whoever gets a chat takes it: an offer, and picking, are a moment later.
		d.HandOut = routing.Assign
		r.rest = append(r.rest, d.Department)
	}
	for i, a := range arrivals {
		r.asked[a.ID] = i
		r.events = append(r.events, event{at: a.At, kind: arrives, which: i})
	}
	for _, p := range presences {
		if i, known := r.at[p.Operator]; known && p.From.Before(p.To) {
			r.events = append(r.events, event{at: p.From, kind: comes, which: i}, event{at: p.To, kind: goes, which: i})
		}
	}
	heap.Init(&r.events)
	if len(arrivals) > 0 {
		r.look(arrivals[0].At)
	}
	for len(r.events) > 0 {
		r.step(heap.Pop(&r.events).(event))
	}
	for _, w := range r.queue { // nobody comes any more
		r.end(w, Message, 0)
	}
	return r.results
}

// step lets one thing happen, and hands out what can be handed out then.
func (r *run) step(e event) {
	if e.at.Sub(r.looked) >= hoursEvery {
		r.look(e.at)
	}
	switch e.kind {
	case arrives:
		r.arrive(e)
	case ends:
		r.staff[e.which].Load--
	case givesUp:
		if at := r.waiting(r.arrivals[e.which].ID); at >= 0 {
			r.end(r.queue[at], Missed, e.at.Sub(r.arrivals[e.which].At))
			r.queue = slices.Delete(r.queue, at, at+1)
		}
	case comes, goes:
		if e.kind == comes {
			r.here[e.which]++
		} else {
			r.here[e.which]--
		}
		if there := r.here[e.which] > 0; there != r.staff[e.which].Available {
			r.staff[e.which].Available = there
			r.build()
			r.strand(e.at)
		}
	case overflows:
	}
	r.handOut(e.at)
}

// look opens and closes the departments by their hours.
func (r *run) look(now time.Time) {
	r.looked = now
	moved := r.floor == nil
	for i := range r.rest {
		open := r.setUp.Departments[i].OpenAt == nil || r.setUp.Departments[i].OpenAt(now)
		moved = moved || open != r.rest[i].Open
		r.rest[i].Open = open
	}
	if moved {
		r.build()
		r.strand(now)
	}
}

// build makes the floor anew, with the turns as they stand.
func (r *run) build() {
	if r.floor != nil {
		for i := range r.rest {
			if d := r.floor.Department(r.rest[i].ID); d != nil {
				r.rest[i].Members = d.Members
			}
		}
		// Who is not on the staff was left out of the floor's members: nobody is lost.
	}
	r.floor = routing.NewFloor(r.rest, r.staff)
}

func (r *run) waiting(id string) int {
	return slices.IndexFunc(r.queue, func(w routing.Waiting) bool { return w.Chat == id })
}

func (r *run) arrive(e event) {
	a := &r.arrivals[e.which]
	d := r.setUp.Rules.Decide(a.Facts, a.Places)
	w := routing.Waiting{
		Chat: a.ID, Visitor: a.Visitor, Department: d.Department, Priority: d.Priority, Arrived: e.at, Since: e.at, Prefer: d.Prefer, Last: a.Last, Language: a.Language,
	}
	r.results[e.which] = Result{ID: a.ID, At: a.At, Department: d.Department, Priority: d.Priority}
	if r.setUp.WidgetOpen != nil && !r.setUp.WidgetOpen(a.Widget, e.at) || r.floor.Answers(d.Department) == routing.Shut {
		r.end(w, Message, 0)
		return
	}
	r.queue = append(r.queue, w)
	routing.Sort(r.queue, r.setUp.HeadStart)
	heap.Push(&r.events, event{at: e.at.Add(a.Patience), kind: givesUp, which: e.which})
	for _, id := range r.floor.Reach(w) {
		if of := r.floor.Department(id); of != nil && of.Overflow.AfterSeconds > 0 {
			heap.Push(&r.events, event{at: e.at.Add(time.Duration(of.Overflow.AfterSeconds) * time.Second), kind: overflows, which: e.which})
		}
	}
}

// strand keeps those as messages to whom nobody who is in comes any more.
func (r *run) strand(now time.Time) {
	r.queue = slices.DeleteFunc(r.queue, func(w routing.Waiting) bool {
		stranded := r.floor.Stranded(w)
		if stranded {
			r.end(w, Message, now.Sub(w.Arrived))
		}
		return stranded
	})
}

func (r *run) end(w routing.Waiting, end End, wait time.Duration) {
	one := &r.results[r.asked[w.Chat]]
	one.End, one.Wait = end, wait
}

func (r *run) handOut(now time.Time) {
	if len(r.queue) == 0 {
		return
	}
	for _, s := range r.floor.Run(r.queue, now) {
		at := r.waiting(s.Chat)
		if s.Kind == routing.StepOverflow {
			r.queue[at].OpenTo = append(slices.Clone(r.queue[at].OpenTo), s.Department)
			continue
		}
		w := r.queue[at]
		r.queue = slices.Delete(r.queue, at, at+1)
		which := r.asked[w.Chat]
		a, one := &r.arrivals[which], &r.results[which]
		taken := now.Add(r.departmentOf(s.Department).Reaction)
		one.End, one.By, one.Operator, one.Wait, one.Held = Taken, s.Department, s.Operator, taken.Sub(a.At), a.Handling
		one.InTarget = one.Wait <= r.departmentOf(w.Department).Target
		heap.Push(&r.events, event{at: taken.Add(a.Handling), kind: ends, which: r.at[s.Operator]})
	}
}

func (r *run) departmentOf(id string) Department {
	for i := range r.setUp.Departments {
		if r.setUp.Departments[i].ID == id {
			return r.setUp.Departments[i]
		}
	}
	return Department{}
}

// kind says what happens.
type kind int

// What happens, at one moment in this order: who goes is gone before somebody comes, and
// room that becomes free is there for who arrives.
const (
	ends kind = iota
	goes
	comes
	overflows
	arrives
	givesUp
)

type event struct {
	at    time.Time
	kind  kind
	which int // arrival, or place in staff
}

// events are what is to happen, the next first.
type events []event

func (e events) Len() int      { return len(e) }
func (e events) Swap(i, j int) { e[i], e[j] = e[j], e[i] }
func (e events) Less(i, j int) bool {
	if c := e[i].at.Compare(e[j].at); c != 0 {
		return c < 0
	}
	if e[i].kind != e[j].kind {
		return e[i].kind < e[j].kind
	}
	return e[i].which < e[j].which
}
func (e *events) Push(x any) { *e = append(*e, x.(event)) }
func (e *events) Pop() any {
	old := *e
	last := old[len(old)-1]
	*e = old[:len(old)-1]
	return last
}
