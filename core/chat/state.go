package chat

import (
	"fmt"
	"time"
)

// Phase is where a chat stands.
type Phase string

// The phases of a chat, in the only order in which they can follow.
const (
	Waiting Phase = "waiting" // nobody has taken it
	Active  Phase = "active"  // an operator holds it
	Over    Phase = "ended"   // nothing more can happen
)

// unseenKept bounds the unseen numbers that a State remembers for each side,
// so that a flood of words cannot make the state grow without end.
const unseenKept = 100

// Mark is how far one side has received and seen the other side's words, as
// event numbers. Seen is never beyond Delivered.
type Mark struct {
	Delivered int64 `json:"delivered"`
	Seen      int64 `json:"seen"`
}

// State is what a log adds up to. The zero value is the state of an empty log.
type State struct {
	Phase     Phase         `json:"phase,omitempty"`
	Ending    Ending        `json:"ending,omitempty"`
	Visitor   string        `json:"visitor,omitempty"`
	Owner     string        `json:"owner,omitempty"`
	Last      int64         `json:"last"` // number of the last event
	LastAt    time.Time     `json:"lastAt"`
	StartedAt time.Time     `json:"startedAt"`
	TakenAt   time.Time     `json:"takenAt"`
	RepliedAt time.Time     `json:"repliedAt"` // the team's first words
	EndedAt   time.Time     `json:"endedAt"`
	Turn      Turn          `json:"turn,omitempty"`
	TurnSince time.Time     `json:"turnSince"`
	ByVisitor Mark          `json:"byVisitor"` // the team's words, as received by the visitor
	ByTeam    Mark          `json:"byTeam"`    // the visitor's words, as received by the team
	Unseen    map[Side]Seqs `json:"unseen,omitempty"`
}

// Seqs are event numbers in rising order.
type Seqs []int64

// Fold returns what a whole log adds up to.
func Fold(log []Event) (State, error) {
	var s State
	for _, e := range log {
		next, err := s.Apply(e)
		if err != nil {
			return s, err
		}
		s = next
	}
	return s, nil
}

// Apply returns the state after one more event. It accepts exactly what the
// acts of this package can produce; anything else is ErrBadEvent, so a damaged
// log is noticed rather than shown.
func (s State) Apply(e Event) (State, error) {
	if e.Number != s.Last+1 {
		return s, fmt.Errorf("%w: number %d after %d", ErrBadEvent, e.Number, s.Last)
	}
	if e.At.Before(s.LastAt) {
		return s, fmt.Errorf("%w: number %d is earlier than the one before it", ErrBadEvent, e.Number)
	}
	if (e.Kind == Started) != (s.Phase == "") {
		return s, fmt.Errorf("%w: %s as number %d", ErrBadEvent, e.Kind, e.Number)
	}
	if s.Phase == Over && e.Kind != Delivered && e.Kind != Seen {
		return s, fmt.Errorf("%w: %s after the end", ErrBadEvent, e.Kind)
	}
	switch e.Kind {
	case Started:
		s.Phase, s.Visitor, s.StartedAt = Waiting, e.By.ID, e.At
		s.Turn, s.TurnSince = TeamTurn, e.At
	case Said:
		s = s.said(e)
	case Taken:
		if s.Phase != Waiting {
			return s, fmt.Errorf("%w: taken while %s", ErrBadEvent, s.Phase)
		}
		s.Phase, s.Owner, s.TakenAt = Active, e.By.ID, e.At
	case Delivered:
		s = s.withMark(e.By.Side, max(s.mark(e.By.Side).Delivered, e.UpTo), s.mark(e.By.Side).Seen)
	case Seen:
		s = s.withMark(e.By.Side, max(s.mark(e.By.Side).Delivered, e.UpTo), max(s.mark(e.By.Side).Seen, e.UpTo))
		s = s.withUnseen(e.By.Side, after(s.Unseen[e.By.Side], e.UpTo))
	case Ended:
		s.Phase, s.Ending, s.EndedAt = Over, e.Ending, e.At
		s.Turn, s.TurnSince = NobodysTurn, e.At
	default:
		return s, fmt.Errorf("%w: unknown kind %q", ErrBadEvent, e.Kind)
	}
	s.Last, s.LastAt = e.Number, e.At
	return s, nil
}

func (s State) said(e Event) State {
	if e.By.Side == TeamSide && s.RepliedAt.IsZero() {
		s.RepliedAt = e.At
	}
	s.Turn, s.TurnSince = turnAfter(s, e)
	reader := e.By.Side.Other()
	unseen := append(append(Seqs{}, s.Unseen[reader]...), e.Number)
	if len(unseen) > unseenKept {
		unseen = unseen[len(unseen)-unseenKept:]
	}
	return s.withUnseen(reader, unseen)
}

// UnseenBy returns how many of the other side's messages this side has not had
// on screen, counting no further than 100.
func (s State) UnseenBy(side Side) int { return len(s.Unseen[side]) }

// withUnseen copies the map, because states share it and must not see each
// other's changes.
func (s State) withUnseen(side Side, numbers Seqs) State {
	fresh := map[Side]Seqs{}
	if other := s.Unseen[side.Other()]; len(other) > 0 {
		fresh[side.Other()] = other
	}
	if len(numbers) > 0 {
		fresh[side] = numbers
	}
	if len(fresh) == 0 {
		fresh = nil
	}
	s.Unseen = fresh
	return s
}

func (s State) mark(side Side) Mark {
	if side == TeamSide {
		return s.ByTeam
	}
	return s.ByVisitor
}

func (s State) withMark(side Side, delivered, seen int64) State {
	m := Mark{Delivered: delivered, Seen: seen}
	if side == TeamSide {
		s.ByTeam = m
	} else {
		s.ByVisitor = m
	}
	return s
}

func after(numbers Seqs, upTo int64) Seqs {
	for i, n := range numbers {
		if n > upTo {
			return numbers[i:]
		}
	}
	return nil
}
