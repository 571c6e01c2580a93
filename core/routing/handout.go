package routing

import (
	"slices"
	"strconv"
	"strings"
	"time"
)

// Floor is everything that handing out depends on, at one moment.
type Floor struct {
	departments map[string]*Department
	staff       map[string]*Staff
	anybody     map[string]bool // departments of which a member is available
}

// NewFloor returns a floor of departments and operators. Members who are not
// among the operators are left out.
func NewFloor(departments []Department, staff []Staff) *Floor {
	f := &Floor{departments: map[string]*Department{}, staff: map[string]*Staff{}, anybody: map[string]bool{}}
	for i := range staff {
		s := &staff[i]
		f.staff[s.ID] = s
		s.speaks = s.speaks[:0]
		for _, l := range s.Languages {
			s.speaks = append(s.speaks, base(l))
		}
	}
	for i := range departments {
		d := departments[i]
		members := make([]Member, 0, len(d.Members))
		for _, m := range d.Members {
			if m.staff = f.staff[m.Operator]; m.staff != nil {
				members = append(members, m)
				f.anybody[d.ID] = f.anybody[d.ID] || m.staff.Available
			}
		}
		d.Members = members
		f.departments[d.ID] = &d
	}
	return f
}

// Department returns a department of the floor, or nil.
func (f *Floor) Department(id string) *Department { return f.departments[id] }

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

// Sort puts waiting chats into the order of the queue: priority, then first
// arrival.
func Sort(queue []Waiting) {
	slices.SortFunc(queue, Before)
}

// Before compares two waiting chats by their place in the queue.
func Before(a, b Waiting) int {
	if a.Priority != b.Priority {
		return b.Priority - a.Priority
	}
	if c := a.Arrived.Compare(b.Arrived); c != 0 {
		return c
	}
	return strings.Compare(a.Chat, b.Chat)
}

// Run returns what is to be done now for a queue, in the order of the queue,
// and moves the floor on as if it had been done: loads and turns count. The
// queue must be sorted. No step gives an operator more than their capacity, and
// none is left out that could be made.
func (f *Floor) Run(queue []Waiting, now time.Time) []Step {
	counts := false // only overflow by length asks how many wait
	for _, d := range f.departments {
		d.full, d.waiting = false, 0
		counts = counts || d.Overflow.AtLength > 0
	}
	home := (*Department)(nil)
	at := func(i int) *Department {
		// Neighbours in a queue are mostly of one department.
		if home == nil || home.ID != queue[i].Department {
			home = f.departments[queue[i].Department]
		}
		return home
	}
	for i := 0; counts && i < len(queue); i++ {
		if d := at(i); d != nil {
			d.waiting++
		}
	}
	var steps []Step
	for i := range queue {
		d := at(i)
		if d == nil || queue[i].OfferedTo != "" {
			continue
		}
		if d.full && queue[i].Prefer == "" && len(queue[i].OpenTo) == 0 && len(d.Overflow.To) == 0 {
			continue // nobody can have it
		}
		w := queue[i]
		steps = append(steps, f.overflow(&w, d.waiting, now)...)
		if step, ok := f.handOut(w); ok {
			steps = append(steps, step)
		}
	}
	return steps
}

// overflow opens a chat to further departments, as far as their conditions are
// met along the chain.
func (f *Floor) overflow(w *Waiting, waiting int, now time.Time) []Step {
	home := f.departments[w.Department]
	if home == nil || len(home.Overflow.To) == 0 && len(w.OpenTo) == 0 {
		return nil
	}
	var steps []Step
	chain := append([]string{w.Department}, w.OpenTo...)
	for i := 0; i < len(chain); i++ {
		d := f.departments[chain[i]]
		if d == nil || len(d.Overflow.To) == 0 {
			continue
		}
		reason, due := f.overrun(d, *w, waiting, now)
		if !due {
			continue
		}
		for _, to := range d.Overflow.To {
			target := f.departments[to]
			if target == nil || !target.Open || slices.Contains(chain, to) {
				continue
			}
			chain = append(chain, to)
			w.OpenTo = append(slices.Clone(w.OpenTo), to)
			steps = append(steps, Step{Kind: StepOverflow, Chat: w.Chat, Department: to, Reasons: []Reason{
				because(Overflowed, "from", d.Name, "to", target.Name), reason,
			}})
		}
	}
	return steps
}

func (f *Floor) overrun(d *Department, w Waiting, waiting int, now time.Time) (Reason, bool) {
	o := d.Overflow
	switch {
	case o.WhenClosed && !d.Open:
		return because(AfterHours, "department", d.Name), true
	case o.WhenClosed && !f.anybody[d.ID]:
		return because(NobodyIn, "department", d.Name), true
	case o.AtLength > 0 && waiting > o.AtLength:
		return because(AtLength, "waiting", strconv.Itoa(waiting), "length", strconv.Itoa(o.AtLength)), true
	case o.AfterSeconds > 0 && now.Sub(w.Since) >= time.Duration(o.AfterSeconds)*time.Second:
		return because(AfterSeconds, "seconds", strconv.Itoa(o.AfterSeconds)), true
	}
	return Reason{}, false
}

// handOut finds an operator for a chat: in its own department first, then where
// it has overflowed to. When all who have room let it pass, it goes round again.
func (f *Floor) handOut(w Waiting) (Step, bool) {
	if step, ok := f.handOutOnce(w); ok || len(w.Passed) == 0 {
		return step, ok
	}
	w.Passed = w.Passed[len(w.Passed)-1:]
	if step, ok := f.handOutOnce(w); ok {
		return step, ok
	}
	w.Passed = nil
	return f.handOutOnce(w)
}

func (f *Floor) handOutOnce(w Waiting) (Step, bool) {
	for i, id := range append([]string{w.Department}, w.OpenTo...) {
		d := f.departments[id]
		if d == nil || d.full && w.Prefer == "" {
			continue
		}
		reasons := []Reason{}
		if i > 0 {
			w.Prefer = ""
			reasons = append(reasons, because(Overflowed, "from", f.departments[w.Department].nameOr(w.Department), "to", d.Name))
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
	language := base(w.Language)
	if s := f.staff[w.Prefer]; s != nil && s.HasRoom(d) && mayHave(s) {
		return s, nil, true // the rule has said why
	}
	var best candidate
	var last *Staff
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
			last = s
		}
		c := candidate{s, m.Turn, m.Backup, d.Languages && language != "" && slices.Contains(s.speaks, language)}
		if best.Staff == nil || better(d, c, best) {
			best = c
		}
	}
	why = f.whyNot(d, w.Prefer)
	switch {
	case best.Staff == nil:
		return nil, why, anyRoom
	case last != nil:
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
		return []Reason{because(NotRoom, "operator", s.Name, "load", strconv.Itoa(s.Load), "capacity", strconv.Itoa(s.CapacityIn(d)))}
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
		return because(ByFewest, "operator", s.Name, "load", strconv.Itoa(s.Load))
	case Share:
		return because(ByShare, "operator", s.Name, "load", strconv.Itoa(s.Load), "capacity", strconv.Itoa(s.CapacityIn(d)))
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
	aLoad, bLoad := a.Load+a.Offered, b.Load+b.Offered
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

// base is the language of a tag like da-DK: whoever speaks da speaks it.
func base(tag string) string {
	language, _, _ := strings.Cut(strings.ToLower(tag), "-")
	return language
}

// Reach returns the departments that a chat may come to: its own and those
// along the chain of overflow.
func Reach(departments []Department, from string) []string {
	byID := map[string]Department{}
	for _, d := range departments {
		byID[d.ID] = d
	}
	reach := []string{from}
	for i := 0; i < len(reach); i++ {
		for _, to := range byID[reach[i]].Overflow.To {
			if _, ok := byID[to]; ok && !slices.Contains(reach, to) {
				reach = append(reach, to)
			}
		}
	}
	return reach
}

// Trial returns what would be done right now for a chat that arrives, without
// doing it, and why not more.
func (f *Floor) Trial(d Decision, facts Facts, now time.Time) ([]Step, []Reason) {
	w := Waiting{Department: d.Department, Priority: d.Priority, Arrived: now, Since: now, Prefer: d.Prefer, Last: facts.LastOperator, Language: facts.Language}
	steps := f.Run([]Waiting{w}, now)
	home := f.departments[d.Department]
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
