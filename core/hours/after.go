package hours

import "time"

// windows in which After looks for open time: most find theirs in the first.
const (
	firstWindow = 14 * 24 * time.Hour
	lastWindow  = 366 * 24 * time.Hour
)

// After returns the moment at which the hours have been open for so long since a time; false if
// that is more than a few years away. No time at all is over at once, open or not.
func (s Schedule) After(from time.Time, long time.Duration) (time.Time, bool) {
	if long <= 0 {
		return from, true
	}
	if s.aroundTheClock() && len(s.Exceptions) == 0 {
		return from.Add(long), true
	}
	window := firstWindow
	for end := from.Add(lookAhead * 24 * time.Hour); from.Before(end); window = min(2*window, lastWindow) {
		for _, open := range s.Between(from, from.Add(window)) {
			if length := open.To.Sub(open.From); length < long {
				long -= length
				continue
			}
			return open.From.Add(long), true
		}
		from = from.Add(window)
	}
	return time.Time{}, false
}
