package visits

import "time"

// Told says when what is told of a visit beside its pages was said last. It may come
// to any server, and the word that was said last holds.
type Told struct {
	Basket  Moment `json:"basket,omitzero"`
	Data    Moment `json:"data,omitzero"`
	Invited Moment `json:"invited,omitzero"` // an invitation came, was answered or went
	Refused Moment `json:"refused,omitzero"` // an invitation was
}

// Moment is a time that is written so that the order of the texts is that of the times.
type Moment struct{ time.Time }

const momentLayout = "2006-01-02T15:04:05.000000Z"

// MarshalJSON writes a moment.
func (m Moment) MarshalJSON() ([]byte, error) {
	return []byte(`"` + m.UTC().Format(momentLayout) + `"`), nil
}

// Next returns the moment of a word that is said after this one, whatever the clocks
// of servers say.
func (m Moment) Next(now time.Time) Moment {
	now = now.UTC().Truncate(time.Microsecond)
	if !now.After(m.Time) {
		now = m.Add(time.Microsecond)
	}
	return Moment{now}
}

// TakeTold takes over what was said later of the same visitor, and reports whether
// there was anything.
func (v *Visit) TakeTold(o Visit) bool {
	before := v.Told
	if o.Told.Basket.After(v.Told.Basket.Time) {
		v.Basket, v.Told.Basket = o.Basket, o.Told.Basket
	}
	if o.Told.Data.After(v.Told.Data.Time) {
		v.Data, v.Told.Data = o.Data, o.Told.Data
	}
	if o.Told.Invited.After(v.Told.Invited.Time) {
		v.Invited, v.Told.Invited = o.Invited, o.Told.Invited
	}
	if o.Told.Refused.After(v.Told.Refused.Time) {
		v.Told.Refused = o.Told.Refused
	}
	return v.Told != before
}
