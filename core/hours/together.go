package hours

import "time"

// Next tells when something opens: a time itself if it is open then, else the next
// opening after it; false when it never does.
type Next func(at time.Time) (time.Time, bool)

// Always is open at all times.
func Always(at time.Time) (time.Time, bool) { return at, true }

// First tells when the first of several opens; none of none ever does.
func First(each ...Next) Next {
	return func(at time.Time) (first time.Time, ok bool) {
		for _, next := range each {
			if t, opens := next(at); opens && (!ok || t.Before(first)) {
				first, ok = t, true
			}
		}
		return first, ok
	}
}

// rounds bounds how often one of several closes before all are open together: a year of
// days on which they miss each other twice.
const rounds = 2 * 366

// Together tells when all of several are open at once.
func Together(each ...Next) Next {
	return func(at time.Time) (time.Time, bool) {
		for range rounds {
			moved := false
			for _, next := range each {
				t, opens := next(at)
				if !opens {
					return time.Time{}, false
				}
				moved = moved || t.After(at)
				at = t
			}
			if !moved {
				return at, true
			}
		}
		return time.Time{}, false
	}
}
