package hours

import (
	"slices"
	"time"
	_ "time/tzdata" // zones are the same on every machine
)

// lookAhead bounds the search for the next opening: a yearly exception alone
// may open a team, and 29 February comes every fourth year, or every eighth
// around a century.
const lookAhead = 8*366 + 2

// Interval is a stretch of time in which a team is open: From is in it, To is
// not.
type Interval struct {
	From, To time.Time
}

// Status is how hours stand at a moment.
type Status struct {
	Open bool
	// Until is when that changes; zero if it never does.
	Until time.Time
	// Holiday names the exception that rules the day, if one does.
	Holiday string
}

// At returns how the hours stand at a moment. A schedule whose zone is unknown
// is closed.
func (s Schedule) At(t time.Time) Status {
	zone, err := s.location()
	if err != nil {
		return Status{}
	}
	local := t.In(zone)
	today := DateOf(local)
	_, holiday := s.spansOf(today)
	status := Status{Holiday: holiday}
	always := s.aroundTheClock()
	// What began yesterday may still run; intervals that touch are one.
	for day := -2; day <= lookAhead; day++ {
		for _, in := range s.intervals(today.add(day), zone) {
			switch {
			case !in.To.After(t):
				continue
			case status.Open && in.From.After(status.Until):
				return status // a gap follows
			case status.Open:
				if in.To.After(status.Until) {
					status.Until = in.To
				}
			case in.From.After(t):
				status.Until = in.From
				return status
			default:
				status.Open, status.Until = true, in.To
			}
		}
		if end, _ := occurrences(today.add(day+1), 0, zone); always && status.Open && day >= 1 && !status.Until.Before(end) {
			// Only an exception ends that: the days before the next one are like
			// all others.
			next, found := s.nextException(today.add(day + 1))
			if !found {
				status.Until = time.Time{}
				return status
			}
			if skip := today.daysTo(next) - 3; skip > day {
				day = skip
				reached, _ := occurrences(today.add(day+2), 0, zone)
				status.Until = reached
			}
		}
	}
	if status.Open {
		status.Until = time.Time{} // beyond what anybody plans
	}
	return status
}

// aroundTheClock reports whether the week alone leaves no gap.
func (s Schedule) aroundTheClock() bool {
	const week = 7 * dayMinutes
	var covered [week]bool
	for _, p := range s.Weekly {
		from := int(p.Day)*dayMinutes + int(p.From)
		for minute := from; minute < int(p.Day)*dayMinutes+p.end(); minute++ {
			covered[minute%week] = true
		}
	}
	return !slices.Contains(covered[:], false)
}

// nextException returns the first day from a day on that an exception rules.
func (s Schedule) nextException(from Date) (next Date, found bool) {
	for _, e := range s.Exceptions {
		first, last := e.Date.Year, e.Date.Year
		if e.Yearly {
			first, last = max(first, from.Year), max(first, from.Year)+8 // 29 February does not come every year
		}
		for year := first; year <= last; year++ {
			d := Date{year, e.Date.Month, e.Date.Day}
			if d == d.add(0) && from.daysTo(d) >= 0 {
				if !found || d.daysTo(next) > 0 {
					next, found = d, true
				}
				break
			}
		}
	}
	return next, found
}

// Open reports whether the hours are open at a moment.
func (s Schedule) Open(t time.Time) bool { return s.At(t).Open }

// NextOpening returns when the hours open next; the moment itself if they are
// open, and false if they never do.
func (s Schedule) NextOpening(t time.Time) (time.Time, bool) {
	status := s.At(t)
	if status.Open {
		return t, true
	}
	return status.Until, !status.Until.IsZero()
}

// Between returns the intervals in which the hours are open, from one moment
// to another, in order and joined where they touch.
func (s Schedule) Between(from, to time.Time) []Interval {
	zone, err := s.location()
	if err != nil || !to.After(from) {
		return nil
	}
	var open []Interval
	last := DateOf(to.In(zone)).add(1)
	for day := DateOf(from.In(zone)).add(-2); day != last.add(1); day = day.add(1) {
		for _, in := range s.intervals(day, zone) {
			if in.From.Before(from) {
				in.From = from
			}
			if in.To.After(to) {
				in.To = to
			}
			if !in.To.After(in.From) {
				continue
			}
			open = append(open, in)
		}
	}
	return joined(open)
}

func joined(intervals []Interval) []Interval {
	slices.SortFunc(intervals, func(a, b Interval) int { return a.From.Compare(b.From) })
	var out []Interval
	for _, in := range intervals {
		if n := len(out); n > 0 && !in.From.After(out[n-1].To) {
			if in.To.After(out[n-1].To) {
				out[n-1].To = in.To
			}
			continue
		}
		out = append(out, in)
	}
	return out
}

// intervals returns what opens on a day, in order; each may reach into the
// next day.
func (s Schedule) intervals(d Date, zone *time.Location) []Interval {
	spans, _ := s.spansOf(d)
	var out []Interval
	for _, span := range spans {
		from, _ := occurrences(d, int(span.From), zone)
		_, to := occurrences(d, span.end(), zone)
		if to.After(from) {
			out = append(out, Interval{from, to})
		}
	}
	return out
}

// occurrences returns the first and the last moment at which the clocks of a
// zone show a time, given in minutes since the midnight of a day. If they never
// do, both are the moment at which the clocks jumped over it.
func occurrences(d Date, minutes int, zone *time.Location) (first, last time.Time) {
	wall := time.Date(d.Year, d.Month, d.Day, 0, minutes, 0, 0, time.UTC)
	_, before := wall.Add(-36 * time.Hour).In(zone).Zone()
	_, after := wall.Add(36 * time.Hour).In(zone).Zone()
	offsets := []int{before, after}
	// Offsets in force around the day: two changes within three days happen
	// (a zone that moves over the date line and ends daylight saving).
	for h := -30; h <= 30; h += 6 {
		if _, o := wall.Add(time.Duration(h) * time.Hour).In(zone).Zone(); !slices.Contains(offsets, o) {
			offsets = append(offsets, o)
		}
	}
	for _, offset := range offsets {
		at := wall.Add(-time.Duration(offset) * time.Second)
		if _, o := at.In(zone).Zone(); o != offset {
			continue
		}
		if first.IsZero() || at.Before(first) {
			first = at
		}
		if last.IsZero() || at.After(last) {
			last = at
		}
	}
	if first.IsZero() {
		// With the offset from before the jump, the time lies behind the jump.
		at := wall.Add(-time.Duration(before) * time.Second)
		jump, _ := at.In(zone).ZoneBounds()
		return jump, jump
	}
	return first, last
}
