package routing

import (
	"slices"
	"strconv"
	"time"
)

// link is one step of overflow: a department that lets another one take its
// chats too.
type link struct {
	to   *Department
	from *Department
	why  overrun
}

// overrun is why a department's overflow lets a chat go on. It becomes words
// only where somebody reads them: the estimate asks a thousand times.
type overrun struct {
	code    Code
	waiting int // how many waited then
}

func (l link) reason() Reason {
	o := l.from.Overflow
	switch l.why.code {
	case AtLength:
		return because(AtLength, "department", l.from.Name, "waiting", strconv.Itoa(l.why.waiting), "length", strconv.Itoa(o.AtLength))
	case AfterSeconds:
		return because(AfterSeconds, "seconds", strconv.Itoa(o.AfterSeconds))
	}
	return because(l.why.code, "department", l.from.Name)
}

// links follows the overflow of a chat from its own department, and from those
// that it has overflowed to, as far as the conditions on the way are met. A
// department that is closed by its hours takes no chats, but hands them along:
// the one behind it may be open. With byTime, what only a longer queue would
// bring about does not count, and what some seconds of waiting bring about does:
// these are the departments that the chat comes to if nothing else happens.
//
// Overflow, whether a widget is open, and who can help a department are all
// asked here.
func (f *Floor) links(w *Waiting, now time.Time, byTime bool) []link {
	home := f.Department(w.Department)
	if home == nil || len(home.Overflow.To) == 0 && len(w.OpenTo) == 0 {
		return nil
	}
	var found []link
	var space [8]string // few departments: no chat needs more room than this
	visited := append(append(space[:0], w.Department), w.OpenTo...)
	for i := 0; i < len(visited); i++ {
		d := f.Department(visited[i])
		if d == nil || len(d.Overflow.To) == 0 {
			continue
		}
		why, due := f.overruns(d, w, now, byTime)
		if !due {
			continue
		}
		for _, id := range d.Overflow.To {
			if to := f.Department(id); to != nil && !slices.Contains(visited, id) {
				visited = append(visited, id)
				found = append(found, link{to, d, why})
			}
		}
	}
	return found
}

// overruns reports whether a department's overflow lets a chat go on, and why.
// Its length is that of its own queue: its chats and those that overflowed to it.
func (f *Floor) overruns(d *Department, w *Waiting, now time.Time, byTime bool) (overrun, bool) {
	o := d.Overflow
	switch {
	case o.WhenClosed && !d.Open:
		return overrun{code: AfterHours}, true
	case o.WhenClosed && !f.anybody[d.ID]:
		return overrun{code: NobodyIn}, true
	case !byTime && o.AtLength > 0 && d.waiting > o.AtLength:
		return overrun{AtLength, d.waiting}, true
	case o.AfterSeconds > 0 && (byTime || now.Sub(w.Since) >= time.Duration(o.AfterSeconds)*time.Second):
		return overrun{code: AfterSeconds}, true
	}
	return overrun{}, false
}

// Reach returns the departments that a chat comes to by time alone, its own
// first, whether or not anybody is there.
func (f *Floor) Reach(w Waiting) []string {
	reach := append([]string{w.Department}, w.OpenTo...)
	for _, l := range f.links(&w, time.Time{}, true) {
		reach = append(reach, l.to.ID)
	}
	return reach
}

// Answers returns how departments stand for those who come to them, the help
// that reaches them by time alone included: a chat that arrives while they are
// Open or Busy comes to somebody who is in, if they stay.
func (f *Floor) Answers(departments ...string) State {
	state := Shut
	for _, id := range departments {
		switch f.StateOf(f.Reach(Waiting{Department: id})...) {
		case Open:
			return Open
		case Busy:
			state = Busy
		}
	}
	return state
}

// Stranded reports whether a waiting chat comes to nobody who is in by time
// alone: if that stays so, it must be kept as a message.
func (f *Floor) Stranded(w Waiting) bool {
	return f.StateOf(f.Reach(w)...) == Shut
}
