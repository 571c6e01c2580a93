package chat

import (
	"slices"
	"time"
)

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

// turnAfter decides whose turn it is after one side said something. The team's
// clock runs from the first unanswered words: a visitor who writes three lines
// does not wait from the third one.
func turnAfter(turn Turn, since time.Time, side Side, at time.Time) (Turn, time.Time) {
	if side == TeamSide {
		return VisitorTurn, at
	}
	if turn == TeamTurn {
		return TeamTurn, since
	}
	return TeamTurn, at
}

// stillFresh returns the words that can be withdrawn at a time, with room for one
// more.
func stillFresh(words []Word, now time.Time) []Word {
	var fresh []Word
	for _, w := range words[max(0, len(words)-freshKept+1):] {
		if now.Sub(w.At) <= CorrectWithin {
			fresh = append(fresh, w)
		}
	}
	return fresh
}

// unsaid takes words out that were withdrawn: the turn is as if they had not
// been said. When a visitor has taken back all that they had asked, it is
// theirs.
func (s State) unsaid(number int64, now time.Time) State {
	at := slices.IndexFunc(s.Fresh, func(w Word) bool { return w.Number == number })
	if at < 0 {
		return s
	}
	gone := s.Fresh[at]
	turn, since, open := gone.Turn, gone.Since, gone.Open
	words := slices.Clone(s.Fresh[:at])
	for _, w := range s.Fresh[at+1:] {
		w.Turn, w.Since, w.Open = turn, since, open
		turn, since = turnAfter(turn, since, w.Side, w.At)
		open = openAfter(open, w.Side)
		words = append(words, w)
	}
	if s.Fresh = words; len(words) == 0 {
		s.Fresh = nil
	}
	s.OpenWords = open
	if s.Phase != Active {
		return s // somebody must take it, whatever stands
	}
	if s.Turn, s.TurnSince = turn, since; turn == TeamTurn && open == 0 {
		s.Turn, s.TurnSince = VisitorTurn, now
	}
	return s
}

// openAfter counts the visitor's words that nobody has answered.
func openAfter(open int, side Side) int {
	if side == TeamSide {
		return 0
	}
	return open + 1
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
