package chat

import "time"

// Turn says who owes the next word.
type Turn string

// The turns. Nobody owes a word in an ended chat.
const (
	TeamTurn    Turn = "team"
	VisitorTurn Turn = "visitor"
	NobodysTurn Turn = "nobody"
)

// soonShare is the part of the answer target after which a running reply clock
// asks for attention. Common practice: a warning in the last third.
const soonShare = 2.0 / 3.0

// turnAfter decides whose turn it is after words were said. The team's clock
// runs from the first unanswered words: a visitor who writes three lines does
// not wait from the third one.
func turnAfter(s State, e Event) (Turn, time.Time) {
	if e.By.Side == TeamSide {
		return VisitorTurn, e.At
	}
	if s.Turn == TeamTurn {
		return TeamTurn, s.TurnSince
	}
	return TeamTurn, e.At
}

// Urgency is how a reply clock stands against its target.
type Urgency string

// The urgencies of a reply clock.
const (
	Calm Urgency = "calm" // no clock runs, or there is time
	Soon Urgency = "soon" // two thirds of the target are used
	Late Urgency = "late" // over the target
)

// Clock is a reading of a chat's turn against an answer target.
type Clock struct {
	Turn    Turn
	Running time.Duration // since the turn began
	Left    time.Duration // until the target; negative when over; zero unless it is the team's turn
	Urgency Urgency
}

// Clock reads the turn at a time. Only the team's turn has a target.
func (s State) Clock(now time.Time, target time.Duration) Clock {
	c := Clock{Turn: s.Turn, Running: max(0, now.Sub(s.TurnSince)), Urgency: Calm}
	if s.Turn != TeamTurn {
		return c
	}
	c.Left = target - c.Running
	switch {
	case c.Running > target:
		c.Urgency = Late
	case c.Running >= SoonAfter(target):
		c.Urgency = Soon
	}
	return c
}

// SoonAfter returns how long a clock with this target runs before it is Soon.
func SoonAfter(target time.Duration) time.Duration {
	return time.Duration(float64(target) * soonShare).Round(time.Second)
}
