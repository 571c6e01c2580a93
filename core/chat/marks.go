package chat

import "slices"

// Mark is how far one side has received and seen the other side's words, as
// event numbers. Seen is never beyond Delivered.
type Mark struct {
	Delivered int64 `json:"delivered"`
	Seen      int64 `json:"seen"`
}

// Marks are those of both sides. They stand beside a chat's log: they only ever
// rise, so that of two the higher is true, and take no number of it.
type Marks struct {
	ByVisitor Mark // the team's words, as received by the visitor
	ByTeam    Mark // the visitor's words, as received by the team
}

// Of returns the mark of what one side has received.
func (m Marks) Of(side Side) Mark {
	if side == TeamSide {
		return m.ByTeam
	}
	return m.ByVisitor
}

// Moved returns the marks after a side received or saw what stands up to a
// number, and whether that is news.
func (m Marks) Moved(side Side, kind Kind, upTo int64) (Marks, bool) {
	before := m.Of(side)
	after := Mark{Delivered: max(before.Delivered, upTo), Seen: before.Seen}
	if kind == Seen {
		after.Seen = max(before.Seen, upTo)
	}
	if side == TeamSide {
		m.ByTeam = after
	} else {
		m.ByVisitor = after
	}
	return m, after != before
}

// With returns the higher of two marks, each for itself.
func (m Marks) With(other Marks) Marks {
	higher := func(a, b Mark) Mark { return Mark{max(a.Delivered, b.Delivered), max(a.Seen, b.Seen)} }
	return Marks{ByVisitor: higher(m.ByVisitor, other.ByVisitor), ByTeam: higher(m.ByTeam, other.ByTeam)}
}

// Receive tells up to which of the other side's words a party has received or
// seen them, who says so up to a number; 0 if of none. Receipts are taken after
// the end too: last words are often read then.
func (s State) Receive(by Party, upTo int64) (int64, error) {
	if s.Phase == "" {
		return 0, ErrNotStarted
	}
	if !s.belongs(by) {
		return 0, ErrNotYours
	}
	if upTo > s.Last || upTo < 1 {
		return 0, ErrBeyondLog
	}
	return min(upTo, s.LastSaid.of(by.Side.Other())), nil
}

// UnseenBy returns how many of the other side's last messages a side has not had
// on screen, counting no further than 100.
func (s State) UnseenBy(side Side, m Marks) int {
	return s.Recent.of(side.Other()).after(m.Of(side).Seen)
}

// Receipt is how far one message has come.
type Receipt string

// The receipts of a message, in rising order. WaitingForReturn stands in the
// place of Sent when the visitor has no page open: their browser gets the
// message when they are back.
const (
	Sent             Receipt = "sent"
	WaitingForReturn Receipt = "waiting"
	WasDelivered     Receipt = "delivered"
	WasSeen          Receipt = "seen"
)

// Receipt returns how far a message has come that the given side wrote.
// visitorHere says whether the visitor has a connection now.
func (m Marks) Receipt(number int64, writtenBy Side, visitorHere bool) Receipt {
	mark := m.Of(writtenBy.Other())
	switch {
	case number <= mark.Seen:
		return WasSeen
	case number <= mark.Delivered:
		return WasDelivered
	case writtenBy == TeamSide && !visitorHere:
		return WaitingForReturn
	}
	return Sent
}

// Runs are event numbers in rising order, as the first and the last of each run
// without a gap. As JSON they are short, also after a flood of words.
type Runs []int64

// What a State remembers of each side's last words, for counting those that are
// unseen: so many runs, and so many of them are counted.
const (
	runsKept    = 24
	unseenShown = 100
)

// and returns the runs with one more number behind them. States share them:
// nothing is changed in place.
func (r Runs) and(number int64) Runs {
	if n := len(r); n > 0 && r[n-1] == number-1 {
		longer := append(Runs{}, r...)
		longer[n-1] = number
		return longer
	}
	longer := append(append(Runs{}, r...), number, number)
	return longer[max(0, len(longer)-2*runsKept):]
}

// without returns the runs without a number.
func (r Runs) without(number int64) Runs {
	var rest Runs
	for i := 0; i < len(r); i += 2 {
		first, last := r[i], r[i+1]
		if number < first || number > last {
			rest = append(rest, first, last)
			continue
		}
		if first < number {
			rest = append(rest, first, number-1)
		}
		if number < last {
			rest = append(rest, number+1, last)
		}
	}
	return rest
}

// latest returns up to so many of the numbers, the greatest, in rising order.
func (r Runs) latest(most int) []int64 {
	var list []int64
	for i := len(r) - 2; i >= 0; i -= 2 {
		for n := r[i+1]; n >= r[i] && len(list) < most; n-- {
			list = append(list, n)
		}
	}
	slices.Reverse(list)
	return list
}

// after counts the numbers beyond one, up to unseenShown.
func (r Runs) after(seen int64) int {
	n := int64(0)
	for i := 0; i < len(r); i += 2 {
		n += max(0, r[i+1]-max(r[i]-1, seen))
	}
	return int(min(n, unseenShown))
}

// SideRuns are those of both sides.
type SideRuns struct {
	Visitor Runs `json:"visitor,omitempty"`
	Team    Runs `json:"team,omitempty"`
}

func (r SideRuns) of(side Side) Runs {
	if side == TeamSide {
		return r.Team
	}
	return r.Visitor
}

func (r SideRuns) with(side Side, runs Runs) SideRuns {
	if side == TeamSide {
		r.Team = runs
	} else {
		r.Visitor = runs
	}
	return r
}
