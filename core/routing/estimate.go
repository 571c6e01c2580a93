package routing

import "time"

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

// Mean returns the mean handling time.
func (h Handled) Mean() time.Duration {
	if len(h) == 0 {
		return 0
	}
	var sum time.Duration
	for _, d := range h {
		sum += d
	}
	return sum / time.Duration(len(h))
}

// EstimateWait returns the wait at a place in the queue (from 1) of a
// department whose members hold slots chats between them.
//
// Formula: with all slots busy, chats finish at the measured rate
// slots / mean handling time; the visitor at place n is served at the n-th
// completion from now, so
//
//	estimate = place × mean / slots.
//
// This is the mean of the Erlang(n) distribution that the time to the n-th
// completion has when handling times are exponential (the conditional wait in
// an M/M/c queue; see any text on queueing, such as Gross & Harris,
// Fundamentals of Queueing Theory, section on M/M/c).
func EstimateWait(place, slots int, handled Handled) Wait {
	w := Wait{Place: place}
	if place < 1 || slots < 1 || len(handled) < handledNeeded {
		return w
	}
	w.Estimate, w.Known = time.Duration(place)*handled.Mean()/time.Duration(slots), true
	return w
}

// Slots returns how many chats the available members of departments can hold
// between them, each member counted once.
func (f *Floor) Slots(departments ...string) int {
	slots, seen := 0, map[string]bool{}
	for _, id := range departments {
		d := f.departments[id]
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
		d := f.departments[id]
		if d == nil || !d.Open {
			continue
		}
		for _, m := range d.Members {
			switch {
			case m.staff.HasRoom(d):
				return Open
			case m.staff.Available:
				state = Busy
			}
		}
	}
	return state
}
