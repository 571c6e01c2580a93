package routing

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"stoop/core/tongue"
)

// Floor is everything that handing out depends on, at one moment.
type Floor struct {
	departments map[string]*Department
	list        []*Department // the same
	staff       map[string]*Staff
	anybody     map[string]bool // departments of which a member is available
}

// NewFloor returns a floor of departments and operators. Members who are not
// among the operators are left out. The operators are the floor's from then on:
// what it hands out is counted in them.
func NewFloor(departments []Department, staff []Staff) *Floor {
	f := &Floor{departments: map[string]*Department{}, staff: map[string]*Staff{}, anybody: map[string]bool{}}
	for i := range staff {
		s := &staff[i]
		f.staff[s.ID] = s
		s.speaks = s.speaks[:0]
		for _, l := range s.Languages {
			s.speaks = append(s.speaks, tongue.Base(l))
		}
	}
	for i := range departments {
		d := departments[i]
		members := make([]Member, 0, len(d.Members))
		for _, m := range d.Members {
			if m.staff = f.staff[m.Operator]; m.staff != nil {
				members = append(members, m)
				f.anybody[d.ID] = f.anybody[d.ID] || m.staff.Available || m.staff.WithinCall
			}
		}
		d.Members = members
		f.departments[d.ID], f.list = &d, append(f.list, &d)
	}
	return f
}

// fewDepartments is up to how many are found faster by looking at each.
const fewDepartments = 8

// Department returns a department of the floor, or nil.
func (f *Floor) Department(id string) *Department {
	if len(f.list) > fewDepartments {
		return f.departments[id]
	}
	for _, d := range f.list {
		if d.ID == id {
			return d
		}
	}
	return nil
}

// Kind says what a Step does.
type Kind string

// The kinds of steps.
const (
	StepOffer    Kind = "offer"
	StepAssign   Kind = "assign"
	StepOverflow Kind = "overflow"
)

// Step is something to be done for a waiting chat.
type Step struct {
	Kind       Kind
	Chat       string
	Operator   string // StepOffer, StepAssign
	Department string // whose member the operator is; for StepOverflow where the chat may go too
	Reasons    []Reason
}

// Order is when a chat counts as arrived in its queue: a step of priority is
// worth a head start of so long. So urgent chats come first, but nobody waits
// for ever behind them: a usual chat stays behind one of priority p that comes
// up to p head starts later, and behind none that comes after that.
func Order(arrived time.Time, priority int, headStart time.Duration) time.Time {
	return arrived.Add(-time.Duration(priority) * headStart)
}

// Sort puts waiting chats into the order of the queue: first arrival, with the
// head start of their priorities.
func Sort(queue []Waiting, headStart time.Duration) {
	slices.SortFunc(queue, Before(headStart))
}

// Before compares two waiting chats by their place in the queue.
func Before(headStart time.Duration) func(a, b Waiting) int {
	return func(a, b Waiting) int {
		if c := Order(a.Arrived, a.Priority, headStart).Compare(Order(b.Arrived, b.Priority, headStart)); c != 0 {
			return c
		}
		return strings.Compare(a.Chat, b.Chat)
	}
}

// Run returns what is to be done now for a queue, in the order of the queue,
// and moves the floor on as if it had been done: loads and turns count. The
// queue must be sorted. No step gives an operator more than their capacity, and
// none is left out that could be made.
func (f *Floor) Run(queue []Waiting, now time.Time) []Step {
	if f.someOverflow() {
		queue = slices.Clone(queue) // the caller's stays as it is
	}
	steps := f.overflow(queue, now)
	return append(steps, f.handOutAll(queue)...)
}

// handOutAll gives out what can be given out of a queue.
func (f *Floor) handOutAll(queue []Waiting) []Step {
	var steps []Step
	for _, d := range f.departments {
		d.full = false
	}
	home := (*Department)(nil)
	for i := range queue {
		// Neighbours in a queue are mostly of one department.
		if home == nil || home.ID != queue[i].Department {
			home = f.Department(queue[i].Department)
		}
		if home == nil || queue[i].OfferedTo != "" {
			continue
		}
		if home.full && queue[i].Prefer == "" && f.allFull(queue[i].OpenTo) {
			continue // nobody can have it
		}
		if step, ok := f.handOut(queue[i]); ok {
			steps = append(steps, step)
		}
	}
	return steps
}

// allFull reports whether nobody has room in any of these departments.
func (f *Floor) allFull(ids []string) bool {
	for _, id := range ids {
		if d := f.Department(id); d != nil && !d.full {
			return false
		}
	}
	return true
}

// someOverflow reports whether any department lets others help.
func (f *Floor) someOverflow() bool {
	for _, d := range f.departments {
		if len(d.Overflow.To) > 0 {
			return true
		}
	}
	return false
}

// overflow opens chats to further departments. All are looked at before the
// first one is handed out, so that none passes by an earlier one; and again
// while queues become longer by it. The queue is changed in place.
func (f *Floor) overflow(queue []Waiting, now time.Time) []Step {
	if !f.someOverflow() {
		return nil
	}
	for _, d := range f.departments {
		d.waiting = 0
	}
	for i := range queue {
		f.queued(queue[i].Department)
		for _, id := range queue[i].OpenTo {
			f.queued(id)
		}
	}
	var steps []Step
	for again := true; again; {
		again = false
		for i := range queue {
			if queue[i].OfferedTo != "" {
				continue
			}
			for _, l := range f.links(&queue[i], now, false) {
				if !l.to.Open {
					continue
				}
				w := &queue[i]
				w.OpenTo = append(slices.Clone(w.OpenTo), l.to.ID)
				f.queued(l.to.ID)
				again = true
				steps = append(steps, Step{Kind: StepOverflow, Chat: w.Chat, Department: l.to.ID, Reasons: []Reason{
					because(Overflowed, "from", l.from.Name, "to", l.to.Name), l.reason(),
				}})
			}
		}
	}
	return steps
}

// queued counts one more chat in a department's queue.
func (f *Floor) queued(id string) {
	if d := f.Department(id); d != nil {
		d.waiting++
	}
}

// handOut finds an operator for a chat: in its own department first, then where
// it has overflowed to. Those who let it pass least often are asked first, so
// that everybody is asked once before anybody is asked again; the one who let it
// pass last is asked only when there is nobody else.
func (f *Floor) handOut(w Waiting) (Step, bool) {
	if len(w.Passed) == 0 {
		return f.handOutOnce(w)
	}
	times, most := map[string]int{}, 0
	for _, id := range w.Passed {
		times[id]++
		most = max(most, times[id])
	}
	last := w.Passed[len(w.Passed)-1]
	for round := 0; round <= most; round++ {
		w.Passed = w.Passed[:0:0]
		for id, n := range times {
			if n > round || id == last {
				w.Passed = append(w.Passed, id)
			}
		}
		if step, ok := f.handOutOnce(w); ok {
			return step, true
		}
	}
	w.Passed = nil
	return f.handOutOnce(w)
}

func (f *Floor) handOutOnce(w Waiting) (Step, bool) {
	for i := -1; i < len(w.OpenTo); i++ {
		id := w.Department
		if i >= 0 {
			id = w.OpenTo[i]
		}
		d := f.Department(id)
		if d == nil || d.full && w.Prefer == "" {
			continue
		}
		if i >= 0 {
			w.Prefer = ""
		}
		chosen, why, anyRoom := f.Choose(d, w)
		if chosen == nil {
			d.full = d.full || !anyRoom
			continue
		}
		kind := StepAssign
		if d.HandOut != Assign {
			kind = StepOffer
		}
		if d.HandOut == Pick && w.Prefer != chosen.ID && (!d.Last || w.Last != chosen.ID) {
			continue // operators take these themselves; only the one wanted gets an offer
		}
		if kind == StepOffer {
			chosen.Offered++
		} else {
			chosen.Load++
		}
		f.took(d, chosen.ID)
		reasons := []Reason{}
		if i >= 0 {
			reasons = append(reasons, because(Overflowed, "from", f.Department(w.Department).nameOr(w.Department), "to", d.Name))
		}
		return Step{Kind: kind, Chat: w.Chat, Operator: chosen.ID, Department: d.ID, Reasons: append(reasons, why...)}, true
	}
	return Step{}, false
}

func (d *Department) nameOr(id string) string {
	if d == nil {
		return id
	}
	return d.Name
}

// took moves a member to the end of the turn.
func (f *Floor) took(d *Department, operator string) {
	var last int64
	for _, m := range d.Members {
		last = max(last, m.Turn)
	}
	for i := range d.Members {
		if d.Members[i].Operator == operator {
			d.Members[i].Turn = last + 1
		}
	}
}

// Choose returns the member of a department who should get a chat, and why;
// nil when nobody has room for it. The operator whom a rule prefers need not be
// a member. anyRoom tells whether anybody has room for another chat.
func (f *Floor) Choose(d *Department, w Waiting) (chosen *Staff, why []Reason, anyRoom bool) {
	mayHave := func(s *Staff) bool { return s.ID != w.Not && !slices.Contains(w.Passed, s.ID) }
	spoken := tongue.Base(w.Language)
	if s := f.staff[w.Prefer]; s != nil && s.HasRoom(d) && mayHave(s) {
		return s, nil, true // the rule has said why
	}
	var best candidate
	var last *Staff
	lastIsBackup := false
	count := 0
	for _, m := range d.Members {
		s := m.staff
		if !s.HasRoom(d) {
			continue
		}
		anyRoom = true
		if !mayHave(s) {
			continue
		}
		count++
		if d.Last && s.ID == w.Last {
			last, lastIsBackup = s, m.Backup
		}
		c := candidate{s, m.Turn, m.Backup, d.Languages && spoken != "" && slices.Contains(s.speaks, spoken)}
		if best.Staff == nil || better(d, c, best) {
			best = c
		}
	}
	why = f.whyNot(d, w.Prefer)
	switch {
	case best.Staff == nil:
		return nil, why, anyRoom
	case last != nil && (!lastIsBackup || best.backup): // a backup stands in; they don't step before a primary member
		return last, append(why, because(ToLast, "operator", last.Name)), true
	}
	if best.backup {
		why = append(why, because(Backup))
	}
	if best.speaks {
		why = append(why, because(ByLanguage, "language", w.Language, "operator", best.Name))
	}
	return best.Staff, append(why, whyChosen(d, best.Staff, count)), true
}

// whyNot tells why the operator whom a rule wants does not get the chat.
func (f *Floor) whyNot(d *Department, wanted string) []Reason {
	s := f.staff[wanted]
	switch {
	case wanted == "" || s == nil:
		return nil
	case !s.Available:
		return []Reason{because(NotThere, "operator", s.Name)}
	case !s.HasRoom(d):
		return []Reason{because(NotRoom, "operator", s.Name, "load", strconv.Itoa(s.held()), "capacity", strconv.Itoa(s.CapacityIn(d)))}
	}
	return nil
}

// whyChosen names the choice that made one of several get a chat.
func whyChosen(d *Department, s *Staff, count int) Reason {
	if count == 1 {
		return because(OnlyOne, "operator", s.Name)
	}
	switch d.Choice {
	case Fewest:
		return because(ByFewest, "operator", s.Name, "load", strconv.Itoa(s.held()))
	case Share:
		return because(ByShare, "operator", s.Name, "load", strconv.Itoa(s.held()), "capacity", strconv.Itoa(s.CapacityIn(d)))
	}
	return because(ByTurn, "operator", s.Name)
}

type candidate struct {
	*Staff
	turn   int64
	backup bool
	speaks bool
}

// better reports whether one should get a chat rather than another: primary
// before backup, then the visitor's language, then the department's choice,
// then the turn.
func better(d *Department, a, b candidate) bool {
	if a.backup != b.backup {
		return b.backup
	}
	if a.speaks != b.speaks {
		return a.speaks
	}
	aLoad, bLoad := a.held(), b.held()
	switch d.Choice {
	case Fewest:
		if aLoad != bLoad {
			return aLoad < bLoad
		}
	case Share:
		// Compared as fractions, without rounding.
		left, right := aLoad*b.CapacityIn(d), bLoad*a.CapacityIn(d)
		if left != right {
			return left < right
		}
	}
	if a.turn != b.turn {
		return a.turn < b.turn
	}
	return a.ID < b.ID
}

// Trial returns what would be done right now for a chat that arrives, without
// doing it, and why not more.
func (f *Floor) Trial(d Decision, facts Facts, now time.Time) ([]Step, []Reason) {
	w := Waiting{Department: d.Department, Priority: d.Priority, Arrived: now, Since: now, Prefer: d.Prefer, Last: facts.LastOperator, Language: facts.Language}
	steps := f.Run([]Waiting{w}, now)
	home := f.Department(d.Department)
	if home == nil || len(steps) > 0 && steps[len(steps)-1].Kind != StepOverflow {
		return steps, nil
	}
	why := f.whyNot(home, d.Prefer)
	switch {
	case len(steps) > 0: // they say why the department itself cannot take it
	case !home.Open:
		why = append(why, because(Closed, "department", home.Name))
	case !f.anybody[home.ID]:
		why = append(why, because(NobodyAvailable, "department", home.Name))
	case f.StateOf(home.ID) == Busy:
		why = append(why, because(NobodyHasRoom, "department", home.Name))
	case home.HandOut == Pick:
		why = append(why, because(WaitForPick, "department", home.Name))
	}
	return steps, why
}
