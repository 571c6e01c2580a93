// Package alert says when a lead should be called: too many wait, somebody waits too
// long, nobody is there, a chat was rated low.
package alert

import "time"

// Kind is what is wrong.
type Kind string

// The kinds of alerts.
const (
	Queue  Kind = "queue"  // as many wait as somebody should know of
	Wait   Kind = "wait"   // somebody has waited too long
	Nobody Kind = "nobody" // nobody is there, within opening hours
	Rating Kind = "rating" // a low rating that no lead has closed
)

// Limits are from when on a department calls its leads. A zero one never does.
type Limits struct {
	Waiting       int  // chats at once
	WaitSeconds   int  // of who waits longest
	NobodySeconds int  // with nobody there
	Ratings       bool // low ones
}

// Seen is how a department stands at one moment.
type Seen struct {
	Waiting   int
	Longest   time.Duration // the wait of who waits longest
	HoursOpen bool
	Available int // members who take chats, or hold as many as they can
}

// Trouble is something that is over a limit.
type Trouble struct {
	Kind  Kind
	Value int           // chats, or seconds
	After time.Duration // how long it must last before anybody is called
}

// Troubles returns what is over the limits of a department, worst first: nobody there is
// why others wait.
func (l Limits) Troubles(s Seen) []Trouble {
	var list []Trouble
	if l.NobodySeconds > 0 && s.HoursOpen && s.Available == 0 {
		list = append(list, Trouble{Kind: Nobody, After: time.Duration(l.NobodySeconds) * time.Second})
	}
	if wait := int(s.Longest.Seconds()); l.WaitSeconds > 0 && s.Waiting > 0 && wait >= l.WaitSeconds {
		list = append(list, Trouble{Kind: Wait, Value: wait})
	}
	if l.Waiting > 0 && s.Waiting >= l.Waiting {
		list = append(list, Trouble{Kind: Queue, Value: s.Waiting})
	}
	return list
}

// Calm is how long something must be within its limits before it is over. A queue that
// goes up and down around its limit is one trouble, not ten.
const Calm = 30 * time.Second

// MailPause is how long no further mail goes out for the same kind in the same department.
const MailPause = 15 * time.Minute

// Alert is one trouble from its beginning to its end.
type Alert struct {
	Kind     Kind
	BeganAt  time.Time
	LastAt   time.Time  // when it was seen last
	RaisedAt *time.Time // when somebody was called; nil: it has not lasted long enough
	EndedAt  *time.Time
	Worst    int // chats, or seconds
}

// Begin returns the alert of a trouble that was not there before.
func Begin(t Trouble, now time.Time) Alert {
	return Alert{Kind: t.Kind, BeganAt: now, LastAt: now}.Goes(&t, now)
}

// Goes returns an alert as it is after a look at which its trouble was seen, or not (nil).
func (a Alert) Goes(t *Trouble, now time.Time) Alert {
	if t == nil {
		if now.Sub(a.LastAt) >= Calm || a.RaisedAt == nil {
			a.EndedAt = &now
		}
		return a
	}
	a.LastAt, a.Worst = now, max(a.Worst, t.Value)
	if a.Kind == Nobody {
		a.Worst = int(now.Sub(a.BeganAt).Seconds())
	}
	if a.RaisedAt == nil && now.Sub(a.BeganAt) >= t.After {
		a.RaisedAt = &now
	}
	return a
}

// Raised is an alert as it is told of.
type Raised struct {
	Kind         Kind
	DepartmentID string
	Visitor      string // of a low rating
	Words        string // theirs
	Worst        int    // chats, seconds, or the rating
	EndedAt      *time.Time
}
