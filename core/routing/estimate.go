package routing

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Wait is what a waiting visitor is told.
type Wait struct {
	// Place in the queue, from 1.
	Place int
	// Estimate is how long it will still take until somebody answers; zero
	// with Known false when nothing has been measured.
	Estimate time.Duration
	Known    bool
}

// Handled are the handling times of the chats that a department finished last,
// from taking to the end of wrap-up. The more there are, the steadier is the
// estimate; see HandledKept.
type Handled []time.Duration

// HandledKept is how many of the last handling times an estimate uses: enough
// to be steady, few enough to follow the hour.
const HandledKept = 40

// handledNeeded is how many finished chats it takes before anything is said.
const handledNeeded = 3

// farOut is how many times the median a handling time counts for at most. With
// exponential handling times the cap takes 0.4 % off the mean
// (2^-8, the share of the mean beyond eight half-lives); one chat that was left
// open for days adds no more than a fifth to a mean of forty.
const farOut = 8

// Mean returns the mean handling time with values beyond eight times the median
// cut down to that: a winsorised mean (W. J. Dixon, Simplified estimation from
// censored normal samples, Annals of Mathematical Statistics 31, 1960).
func (h Handled) Mean() time.Duration {
	if len(h) == 0 {
		return 0
	}
	sorted := slices.Sorted(slices.Values(h))
	highest := farOut * sorted[len(sorted)/2]
	var sum time.Duration
	for _, d := range sorted {
		sum += min(d, highest)
	}
	return sum / time.Duration(len(h))
}

// InHand is a chat that an operator holds for a department, or wraps up until a
// time.
type InHand struct {
	Operator, Department string
	Until                time.Time // zero while it goes on
}

// Coming is how often chats of a priority come to a department, as measured of
// late. Only those count that pass by somebody who waits.
type Coming struct {
	Department string
	Priority   int
	PerHour    float64
}

// Present is what an estimate is made from, beside the floor itself.
type Present struct {
	Now     time.Time
	Queue   []Waiting // sorted
	InHand  []InHand
	Handled map[string]Handled // by department
	Coming  []Coming
	// HeadStart is what a step of priority is worth; see Order.
	HeadStart time.Duration
}

// The bounds of an estimate's cost: no more chats are followed than foreseen,
// and no more things that happen than stepsForeseen; who waits behind gets no
// estimate. One step costs a look at each operator and at each chat that waits.
const (
	foreseen      = 200
	stepsForeseen = 600
)

// Waits returns what those who wait are told, by chat. The estimate runs the
// real hand-out forward from the present floor: whoever is there works off the
// queue with their capacity, in its order, as members, backups or by overflow,
// for as many departments as they belong to. Operators neither come nor go
// meanwhile, and more urgent chats come as often as they did.
//
// Chats in hand end at their mean rate: with handling times of mean m, an
// operator who holds n chats ends one every m/n on average (a property of
// exponential handling times, which do not remember how long they have lasted;
// any text on queueing, such as Gross & Harris, Fundamentals of Queueing
// Theory, section on M/M/c). So for one department with s places in use that
// serves nobody else, place p is told p × m/s, the mean of the Erlang(p)
// distribution of the p-th end.
func (f *Floor) Waits(p Present) map[string]Wait {
	waits, places := make(map[string]Wait, len(p.Queue)), map[string]int{}
	for _, w := range p.Queue {
		places[w.Department]++
		waits[w.Chat] = Wait{Place: places[w.Department]}
	}
	for chat, after := range f.forward(p).all() {
		if w, asked := waits[chat]; asked {
			w.Estimate, w.Known = after, true
			waits[chat] = w
		}
	}
	return waits
}

// ArrivalWait returns what somebody would be told who came to a department now.
func (f *Floor) ArrivalWait(department string, p Present) Wait {
	const comer = "who comes now"
	p.Queue = append(slices.Clone(p.Queue), Waiting{Chat: comer, Department: department, Arrived: p.Now, Since: p.Now})
	Sort(p.Queue, p.HeadStart)
	return f.Waits(p)[comer]
}

// forwardRun is a floor that runs on by itself, at expected times.
type forwardRun struct {
	Present
	floor  *Floor
	queue  []Waiting
	gone   time.Duration // since the run began
	hands  []hand
	ends   []time.Duration          // of wrap-ups, whose time is known
	enders []int                    // whose they are, as places in hands
	means  map[string]time.Duration // of handling, by department
	usual  time.Duration
	coming []Coming
	comers []float64 // due arrivals of each of them
	came   int
	asked  int // how many of those are still waiting who are to be told
}

// hand is what an operator holds in a run.
type hand struct {
	staff *Staff
	held  []holding
	rate  float64 // ends a second, of all together
}

// holding is what an operator holds of one department.
type holding struct {
	department string
	chats      int
	perChat    float64 // ends a second of one of them; 0 for wrap-ups, which end at their time
	due        float64 // ends that are due
}

// due returns how many ends of an operator's chats are due.
func (h *hand) due() float64 {
	due := 0.0
	for i := range h.held {
		due += h.held[i].due
	}
	return due
}

// hold adds to what an operator holds of a department.
func (r *forwardRun) hold(h *hand, department string, chats int) {
	i := slices.IndexFunc(h.held, func(k holding) bool { return k.department == department })
	if i < 0 {
		mean, ok := r.means[department]
		if !ok {
			mean = r.usual
		}
		k := holding{department: department, perChat: 1 / max(1, mean.Seconds())}
		if department == wrapUp {
			k.perChat = 0
		}
		i, h.held = len(h.held), append(h.held, k)
	}
	h.held[i].chats += chats
	h.rate = 0
	for _, k := range h.held {
		h.rate += float64(k.chats) * k.perChat
	}
}

// forward returns a run from a copy of the floor. Whoever has an offer takes
// it, and operators who pick take what waits as soon as they have room.
func (f *Floor) forward(p Present) *forwardRun {
	run := &forwardRun{Present: p, queue: slices.Clone(p.Queue[:min(len(p.Queue), foreseen)]), means: map[string]time.Duration{}}
	var sum time.Duration
	for id, h := range p.Handled {
		if len(h) >= handledNeeded {
			run.means[id] = h.Mean()
			sum += run.means[id]
		}
	}
	if len(run.means) == 0 || len(run.queue) == 0 {
		return run
	}
	run.usual = sum / time.Duration(len(run.means))
	least := slices.MinFunc(run.queue, func(a, b Waiting) int { return a.Priority - b.Priority }).Priority
	for _, c := range p.Coming {
		if c.Priority > least && c.PerHour > 0 {
			run.coming, run.comers = append(run.coming, c), append(run.comers, 0)
		}
	}
	ids := slices.Sorted(maps.Keys(f.staff))
	staff := make([]Staff, len(ids))
	at := map[string]int{}
	for i, id := range ids {
		staff[i], at[id] = *f.staff[id], i
		staff[i].speaks = slices.Clone(staff[i].speaks)
	}
	departments := make([]Department, 0, len(f.departments))
	for _, d := range f.departments {
		copied := *d
		copied.HandOut, copied.Members = Assign, slices.Clone(d.Members)
		departments = append(departments, copied)
	}
	run.floor = NewFloor(departments, staff)
	run.hands = make([]hand, len(ids))
	for i := range staff {
		run.hands[i] = hand{staff: run.floor.staff[ids[i]]}
	}
	for _, h := range p.InHand {
		i, ok := at[h.Operator]
		switch {
		case !ok:
		case h.Until.IsZero():
			run.hold(&run.hands[i], h.Department, 1)
		default:
			run.hold(&run.hands[i], wrapUp, 1)
			run.ends, run.enders = append(run.ends, max(0, h.Until.Sub(p.Now))), append(run.enders, i)
		}
	}
	waiting := run.queue[:0]
	for _, w := range run.queue {
		i, ok := at[w.OfferedTo]
		if !ok {
			waiting = append(waiting, w)
			continue
		}
		run.hands[i].staff.Offered--
		run.hands[i].staff.Load++
		run.hold(&run.hands[i], w.Department, 1)
	}
	run.queue, run.asked = waiting, len(waiting)
	for i := range run.hands {
		h := &run.hands[i]
		known := 0
		for _, k := range h.held {
			known += k.chats
		}
		run.hold(h, "", max(0, h.staff.Load-known)) // of which nothing more is known
	}
	return run
}

// wrapUp stands for a department under which wrap-ups are held: they end at
// their time, not at a rate.
const wrapUp = "wrap-up"

// all runs on until nobody waits any more, or nothing more can be foreseen, and
// returns after what time each chat is handed out.
func (r *forwardRun) all() map[string]time.Duration {
	after := map[string]time.Duration{}
	if r.floor == nil {
		return after
	}
	r.overflow()
	for range stepsForeseen {
		r.handOut(after)
		if r.asked <= 0 || !r.step() {
			break
		}
	}
	return after
}

func (r *forwardRun) overflow() {
	r.floor.overflow(r.queue, r.Now.Add(r.gone))
}

func (r *forwardRun) handOut(after map[string]time.Duration) {
	steps := r.floor.handOutAll(r.queue)
	if len(steps) == 0 {
		return
	}
	given := map[string]bool{}
	for _, step := range steps {
		after[step.Chat], given[step.Chat] = r.gone, true
		if !strings.HasPrefix(step.Chat, comerPrefix) {
			r.asked--
		}
		for i := range r.hands {
			if h := &r.hands[i]; h.staff.ID == step.Operator {
				r.hold(h, step.Department, 1)
			}
		}
	}
	r.queue = slices.DeleteFunc(r.queue, func(w Waiting) bool { return given[w.Chat] })
}

// comerPrefix begins the names of chats that a run lets come.
const comerPrefix = "comer "

// arrive lets those come whose time it is.
func (r *forwardRun) arrive() {
	for i, c := range r.coming {
		if r.comers[i] < 1-1e-9 {
			continue
		}
		r.comers[i]--
		r.came++
		at := r.Now.Add(r.gone)
		r.queue = append(r.queue, Waiting{Chat: comerPrefix + strconv.Itoa(r.came), Department: c.Department, Priority: c.Priority, Arrived: at, Since: at})
		Sort(r.queue, r.HeadStart)
	}
}

// step goes on to the next thing that happens: a chat or a wrap-up ends, a more
// urgent chat comes, or one overflows. It returns false when nothing will.
func (r *forwardRun) step() bool {
	total, due := 0.0, 0.0
	for i := range r.hands {
		if h := &r.hands[i]; h.staff.Available {
			total, due = total+h.rate, due+h.due()
		}
	}
	next, found := r.nextAtItsTime()
	if total > 0 {
		in := time.Duration((1 - due) / total * float64(time.Second))
		if end := r.gone + max(0, in); !found || end <= next {
			r.advance(end)
			r.end(r.most())
			return true
		}
	}
	if !found || total == 0 && len(r.ends) == 0 && !r.someRoom() {
		return false
	}
	r.advance(next)
	r.arrive()
	for i := len(r.ends) - 1; i >= 0; i-- {
		if r.ends[i] <= r.gone {
			h := &r.hands[r.enders[i]]
			r.hold(h, wrapUp, -1)
			h.staff.Load--
			r.ends, r.enders = slices.Delete(r.ends, i, i+1), slices.Delete(r.enders, i, i+1)
		}
	}
	r.overflow()
	return true
}

// someRoom reports whether anybody has room, for whom a chat may overflow.
func (r *forwardRun) someRoom() bool {
	return slices.ContainsFunc(r.hands, func(h hand) bool { return h.staff.Available })
}

// nextAtItsTime returns when the next wrap-up ends, the next more urgent chat
// comes, or the next chat has waited long enough to overflow.
func (r *forwardRun) nextAtItsTime() (next time.Duration, found bool) {
	for _, at := range r.ends {
		if !found || at < next {
			next, found = at, true
		}
	}
	for i, c := range r.coming {
		at := r.gone + time.Duration((1-r.comers[i])/c.PerHour*float64(time.Hour))
		if !found || at < next {
			next, found = at, true
		}
	}
	for i := range r.queue {
		w := &r.queue[i]
		for n := -1; n < len(w.OpenTo); n++ {
			id := w.Department
			if n >= 0 {
				id = w.OpenTo[n]
			}
			d := r.floor.Department(id)
			if d == nil || len(d.Overflow.To) == 0 || d.Overflow.AfterSeconds == 0 {
				continue
			}
			at := w.Since.Add(time.Duration(d.Overflow.AfterSeconds) * time.Second).Sub(r.Now)
			if at > r.gone && (!found || at < next) {
				next, found = at, true
			}
		}
	}
	return next, found
}

// advance lets time pass in which the chats in hand come nearer to their ends.
func (r *forwardRun) advance(to time.Duration) {
	seconds := (to - r.gone).Seconds()
	for i := range r.hands {
		if h := &r.hands[i]; h.staff.Available {
			for j := range h.held {
				h.held[j].due += float64(h.held[j].chats) * h.held[j].perChat * seconds
			}
		}
	}
	for i, c := range r.coming {
		r.comers[i] += c.PerHour / 3600 * seconds
	}
	r.gone = to
}

// most returns whose chat is the most due to end.
func (r *forwardRun) most() *hand {
	var most *hand
	for i := range r.hands {
		if h := &r.hands[i]; h.staff.Available && h.rate > 0 && (most == nil || h.due() > most.due()) {
			most = h
		}
	}
	return most
}

func (r *forwardRun) end(h *hand) {
	var most *holding
	for i := range h.held {
		if k := &h.held[i]; k.chats > 0 && k.perChat > 0 && (most == nil || k.due > most.due) {
			most = k
		}
	}
	most.due--
	h.staff.Load--
	r.hold(h, most.department, -1)
}

// Slots returns how many chats the available members of departments can hold
// between them, each member counted once.
func (f *Floor) Slots(departments ...string) int {
	slots, seen := 0, map[string]bool{}
	for _, id := range departments {
		d := f.Department(id)
		if d == nil {
			continue
		}
		for _, m := range d.Members {
			if m.staff.Available && !seen[m.Operator] {
				seen[m.Operator] = true
				slots += m.staff.CapacityIn(d)
			}
		}
	}
	return slots
}

// State is how a widget stands for those who come to it.
type State string

// The states. A widget is open when the hours of one of its departments are
// open and at least one member of it is available; busy when it is open but
// nobody has room; else closed.
const (
	Open State = "open"
	Busy State = "busy"
	Shut State = "closed"
)

// StateOf returns the state of a widget with these departments: the hours
// alone, without anybody there, do not open it.
func (f *Floor) StateOf(departments ...string) State {
	state := Shut
	for _, id := range departments {
		d := f.Department(id)
		if d == nil || !d.Open {
			continue
		}
		for _, m := range d.Members {
			switch {
			case m.staff.HasRoom(d):
				return Open
			case m.staff.WithinCall && m.staff.held() < m.staff.CapacityIn(d):
				return Open
			case m.staff.Available, m.staff.WithinCall:
				state = Busy
			}
		}
	}
	return state
}
