package view

import (
	"time"

	"stoop/core/hours"
)

// HoursStatus is how hours stand at a moment.
type HoursStatus struct {
	Open    bool       `json:"open"`
	Until   *time.Time `json:"until,omitempty" doc:"When that changes; absent when it never does"`
	Zone    string     `json:"zone" doc:"The schedule's own zone, in which its times are told"`
	Holiday string     `json:"holiday,omitempty"`
}

// HoursStatusOf tells how a schedule stands.
func HoursStatusOf(s hours.Schedule, now time.Time) HoursStatus {
	at := s.At(now)
	out := HoursStatus{Open: at.Open, Zone: s.Zone, Holiday: at.Holiday}
	if !at.Until.IsZero() {
		out.Until = &at.Until
	}
	return out
}
