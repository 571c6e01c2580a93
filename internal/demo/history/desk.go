package history

import (
	"math/rand/v2"
	"slices"
	"time"
)

// desk is the team at work: who is in, and until when they hold what they hold. It
// makes waits long where many come at once.
type desk struct {
	c    Config
	held [][]time.Time // until when, by member
}

func newDesk(c Config) *desk { return &desk{c: c, held: make([][]time.Time, len(c.Team))} }

// The hours in which somebody is in.
const (
	opens  = 6
	closes = 22
)

// isOpen reports whether somebody is in.
func (d *desk) isOpen(department int, at time.Time) bool {
	local := at.In(d.c.Zone)
	if department == Freight {
		return local.Weekday() != time.Sunday && local.Hour() >= 5 && local.Hour() < 18
	}
	return local.Hour() >= opens && local.Hour() < closes
}

// onShift reports whether a member works at an hour: five days of seven, early or late.
func (d *desk) onShift(member int, at time.Time) bool {
	m := d.c.Team[member]
	if !m.works(at) {
		return false
	}
	local := at.In(d.c.Zone)
	if (local.YearDay()+2*member)%7 >= 5 {
		return false
	}
	early := (local.YearDay()/7+member)%2 == 0
	if early {
		return local.Hour() < 14
	}
	return local.Hour() >= 13
}

// load returns how many chats a member holds at a time.
func (d *desk) load(member int, at time.Time) int {
	d.held[member] = slices.DeleteFunc(d.held[member], func(until time.Time) bool { return !until.After(at) })
	return len(d.held[member])
}

// free returns who could take a chat of a department at a time: the one with the
// fewest, and when they would have room.
func (d *desk) free(random *rand.Rand, department int, at time.Time, without int) (member int, from time.Time, load int) {
	in := d.candidates(department, at, without)
	best, bestLoad := -1, 0
	var soonest time.Time
	for _, i := range in {
		load := d.load(i, at)
		if room := d.c.Team[i].Capacity; load < room {
			if best < 0 || load < bestLoad || load == bestLoad && random.IntN(2) == 0 {
				best, bestLoad, soonest = i, load, at
			}
			continue
		}
		// When the one that ends next is over there is room.
		next := slices.MinFunc(d.held[i], func(a, b time.Time) int { return a.Compare(b) })
		if best < 0 || soonest.After(at) && next.Before(soonest) {
			best, bestLoad, soonest = i, load-1, next
		}
	}
	return best, soonest, bestLoad
}

// candidates are those on shift of a department; if nobody is, those of the team who
// know it, and then anybody: somebody always helps out.
func (d *desk) candidates(department int, at time.Time, without int) []int {
	var shift, know, any []int
	for i, m := range d.c.Team {
		if i == without || !m.works(at) {
			continue
		}
		any = append(any, i)
		if m.in(department) {
			know = append(know, i)
			if d.onShift(i, at) {
				shift = append(shift, i)
			}
		}
	}
	for _, list := range [][]int{shift, know} {
		if len(list) > 0 {
			return list
		}
	}
	return any
}

// hold puts down that a member holds a chat until a time.
func (d *desk) hold(member int, until time.Time) { d.held[member] = append(d.held[member], until) }
