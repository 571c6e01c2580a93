package view

import (
	"time"

	"stoop/core/hours"
)

// HoursStatus is how hours stand at a moment.
type HoursStatus struct {
	Open    bool       `json:"open"`
	Until   *time.Time `json:"until,omitempty" doc:"When that changes"`
	Words   string     `json:"words" doc:"In the schedule's own zone, like: opens Monday 08:00"`
	Holiday string     `json:"holiday,omitempty"`
}

// HoursStatusOf words how a schedule stands: "open now, until 18:00", "opens Monday
// 08:00".
func HoursStatusOf(s hours.Schedule, now time.Time) HoursStatus {
	at := s.At(now)
	out := HoursStatus{Open: at.Open, Holiday: at.Holiday}
	if !at.Until.IsZero() {
		out.Until = &at.Until
	}
	zone, err := time.LoadLocation(s.Zone)
	if err != nil {
		zone = time.UTC
	}
	switch {
	case at.Open && at.Until.IsZero():
		out.Words = "open now, around the clock"
	case at.Open:
		out.Words = "open now, until " + nearDay(at.Until.In(zone), now.In(zone))
	case at.Until.IsZero():
		out.Words = "closed, never opens"
	default:
		out.Words = "closed, opens " + nearDay(at.Until.In(zone), now.In(zone))
	}
	return out
}

// nearDay names a time the way people do: the hour today, the weekday within a
// week, else the date.
func nearDay(t, now time.Time) string {
	switch days := t.Truncate(time.Minute).Sub(now).Hours() / 24; {
	case hours.DateOf(t) == hours.DateOf(now):
		return t.Format("15:04")
	case days < 6.5:
		return t.Format("Monday 15:04")
	}
	return t.Format("Monday 2 January 15:04")
}
