// Package hours tells when a team is open: weekly periods in a time zone,
// holidays and single exceptions, through every change of daylight saving.
//
// Periods are wall-clock times. Where a clock change makes a wall-clock time
// happen twice, a period begins at its first and ends at its last occurrence:
// in doubt the team is open. A time that does not happen stands for the moment
// of the change.
package hours

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
)

// dayMinutes is the length of a day on the clock, in minutes.
const dayMinutes = 24 * 60

// Clock is a time of day in minutes since midnight, from 0 to 1440 (24:00).
type Clock int

// ParseClock reads a time like 08:30; 24:00 is the end of a day.
func ParseClock(text string) (Clock, error) {
	hour, minute, found := strings.Cut(strings.TrimSpace(text), ":")
	h, hErr := strconv.Atoi(hour)
	m, mErr := strconv.Atoi(minute)
	if !found || hErr != nil || mErr != nil || h < 0 || m < 0 || m > 59 || h*60+m > dayMinutes {
		return 0, fmt.Errorf("%q is not a time of day like 08:30", text)
	}
	return Clock(h*60 + m), nil
}

// String returns the time as hh:mm.
func (c Clock) String() string { return fmt.Sprintf("%02d:%02d", int(c)/60, int(c)%60) }

// MarshalText writes the time as hh:mm.
func (c Clock) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

// UnmarshalText reads a time like 08:30.
func (c *Clock) UnmarshalText(text []byte) (err error) {
	*c, err = ParseClock(string(text))
	return err
}

// Span is a part of a day. When To is not after From, it ends on the next day.
type Span struct {
	From Clock `json:"from"`
	To   Clock `json:"to"`
}

// end returns the span's end in minutes since the midnight it starts after.
func (s Span) end() int {
	if s.To <= s.From {
		return int(s.To) + dayMinutes
	}
	return int(s.To)
}

// overlaps reports whether two spans of one day share time.
func (s Span) overlaps(other Span) bool {
	return int(s.From) < other.end() && int(other.From) < s.end()
}

// Join returns spans of one day in their order, with those that overlap made
// one. What would be longer than a day stays apart; Check tells of it.
func Join(spans []Span) []Span {
	var out []Span
	for _, s := range slices.SortedFunc(slices.Values(spans), func(a, b Span) int { return cmp.Compare(a.From, b.From) }) {
		if n := len(out); n > 0 && out[n-1].overlaps(s) && max(out[n-1].end(), s.end())-int(out[n-1].From) < dayMinutes {
			end := max(out[n-1].end(), s.end())
			if end > dayMinutes {
				end -= dayMinutes
			}
			out[n-1].To = Clock(end)
			continue
		}
		if n := len(out); n > 0 && out[n-1] == s {
			continue
		}
		out = append(out, s)
	}
	return out
}

// Period is a span on every week's same day.
type Period struct {
	Day time.Weekday `json:"day"` // 0 is Sunday
	Span
}

// Date is a day of the calendar.
type Date struct {
	Year  int
	Month time.Month
	Day   int
}

// ParseDate reads a day like 2026-12-24.
func ParseDate(text string) (Date, error) {
	t, err := time.Parse(time.DateOnly, strings.TrimSpace(text))
	if err != nil {
		return Date{}, fmt.Errorf("%q is not a day like 2026-12-24", text)
	}
	return DateOf(t), nil
}

// DateOf returns the day of a time in the time's own zone.
func DateOf(t time.Time) Date {
	y, m, d := t.Date()
	return Date{y, m, d}
}

// String returns the day as yyyy-mm-dd.
func (d Date) String() string { return fmt.Sprintf("%04d-%02d-%02d", d.Year, int(d.Month), d.Day) }

// MarshalText writes the day as yyyy-mm-dd.
func (d Date) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads a day like 2026-12-24.
func (d *Date) UnmarshalText(text []byte) (err error) {
	*d, err = ParseDate(string(text))
	return err
}

// add returns the day that is some days later.
func (d Date) add(days int) Date {
	return DateOf(time.Date(d.Year, d.Month, d.Day+days, 12, 0, 0, 0, time.UTC))
}

// daysTo returns how many days later another day is.
func (d Date) daysTo(other Date) int {
	noon := func(d Date) time.Time { return time.Date(d.Year, d.Month, d.Day, 12, 0, 0, 0, time.UTC) }
	return int(noon(other).Sub(noon(d)).Hours() / 24)
}

func (d Date) weekday() time.Weekday {
	return time.Date(d.Year, d.Month, d.Day, 12, 0, 0, 0, time.UTC).Weekday()
}

// Exception replaces what a day's week says: a holiday without spans, or a day
// with others. What began on the day before still ends as it would.
type Exception struct {
	Date   Date   `json:"date"`
	Name   string `json:"name"`
	Yearly bool   `json:"yearly,omitempty"` // the same day of every year
	Spans  []Span `json:"spans,omitempty"`  // empty: closed all day
}

// Schedule is when a team is open. The zero value is never open.
type Schedule struct {
	Zone       string      `json:"zone"` // an IANA name, like Europe/Copenhagen
	Weekly     []Period    `json:"weekly"`
	Exceptions []Exception `json:"exceptions"`
}

// Wrong is one thing that is wrong with a schedule, at a field of it.
type Wrong struct {
	Field string
	Words string
}

// Check returns everything that is wrong with a schedule.
func (s Schedule) Check() []Wrong {
	var wrong []Wrong
	if _, err := s.location(); err != nil {
		wrong = append(wrong, Wrong{"zone", fmt.Sprintf("%q is not a known time zone, like Europe/Copenhagen.", s.Zone)})
	}
	for i, p := range s.Weekly {
		field := fmt.Sprintf("weekly.%d", i)
		if p.Day < time.Sunday || p.Day > time.Saturday {
			wrong = append(wrong, Wrong{field, "The day must be one of the week, 0 for Sunday to 6 for Saturday."})
		}
		if words := p.check(); words != "" {
			wrong = append(wrong, Wrong{field, words})
			continue
		}
		at := slices.IndexFunc(s.Weekly[:i], func(q Period) bool { return q.Day == p.Day && q.check() == "" && q.overlaps(p.Span) })
		switch {
		case at < 0:
		case s.Weekly[at] == p:
			wrong = append(wrong, Wrong{field, fmt.Sprintf("%s from %s to %s stands there twice.", p.Day, p.From, p.To)})
		default:
			wrong = append(wrong, Wrong{field, fmt.Sprintf("%s from %s to %s overlaps %s to %s. Make one period of both.", p.Day, p.From, p.To, s.Weekly[at].From, s.Weekly[at].To)})
		}
	}
	for i, e := range s.Exceptions {
		field := fmt.Sprintf("exceptions.%d", i)
		if e.Date != e.Date.add(0) || e.Date.Year == 0 {
			wrong = append(wrong, Wrong{field, "This day does not exist in the calendar."})
		}
		for j, span := range e.Spans {
			if words := span.check(); words != "" {
				wrong = append(wrong, Wrong{field, words})
			}
			for _, other := range e.Spans[:j] {
				if span.overlaps(other) {
					wrong = append(wrong, Wrong{field, fmt.Sprintf("%s to %s overlaps %s to %s. Make one period of both.", span.From, span.To, other.From, other.To)})
				}
			}
		}
		for _, f := range s.Exceptions[:i] {
			if f.Yearly != e.Yearly { // on its own day, the dated one counts
				continue
			}
			if f.Date == e.Date || f.Yearly && f.Date.Month == e.Date.Month && f.Date.Day == e.Date.Day {
				wrong = append(wrong, Wrong{field, fmt.Sprintf("%s has an exception already.", e.Date)})
			}
		}
	}
	if len(wrong) == 0 && !s.opensEver() {
		wrong = append(wrong, Wrong{"weekly", "These hours never open. Add a period, or remove the hours to be open around the clock."})
	}
	return wrong
}

func (s Span) check() string {
	if s.From < 0 || s.To < 0 || s.From >= dayMinutes || s.To > dayMinutes {
		return "Times must lie between 00:00 and 24:00."
	}
	if s.From == s.To {
		return fmt.Sprintf("From and to are both %s. For a whole day write 00:00 to 24:00.", s.From)
	}
	return ""
}

func (s Schedule) opensEver() bool {
	return len(s.Weekly) > 0 || slices.ContainsFunc(s.Exceptions, func(e Exception) bool { return len(e.Spans) > 0 })
}

func (s Schedule) location() (*time.Location, error) {
	if s.Zone == "" || s.Zone == "Local" {
		return nil, fmt.Errorf("no time zone is set")
	}
	return time.LoadLocation(s.Zone)
}

// exceptionOn returns the exception that rules a day: one of that very day
// before a yearly one, and of several yearly ones the latest.
func (s Schedule) exceptionOn(d Date) *Exception {
	var yearly *Exception
	for i := range s.Exceptions {
		e := &s.Exceptions[i]
		switch {
		case e.Date == d && !e.Yearly:
			return e
		case e.Yearly && e.Date.Month == d.Month && e.Date.Day == d.Day && d.Year >= e.Date.Year && (yearly == nil || e.Date.Year > yearly.Date.Year):
			yearly = e
		}
	}
	return yearly
}

// spansOf returns what a day opens, in order, and the name of the exception
// that says so.
func (s Schedule) spansOf(d Date) ([]Span, string) {
	byTime := func(a, b Span) int { return cmp.Compare(a.From, b.From) }
	if e := s.exceptionOn(d); e != nil {
		return slices.SortedFunc(slices.Values(e.Spans), byTime), e.Name
	}
	var spans []Span
	weekday := d.weekday()
	for _, p := range s.Weekly {
		if p.Day == weekday {
			spans = append(spans, p.Span)
		}
	}
	slices.SortFunc(spans, byTime)
	return spans, ""
}
