package chat

import "time"

// Patience is how long a department waits for a visitor who owes the next word.
// Zero values wait for ever.
type Patience struct {
	Remind time.Duration // after which the visitor is told that the chat is about to end
	End    time.Duration // after the reminder, until it does
}

// Silence does what a visitor's silence leads to at a time: a reminder, then the
// end of the chat. A word from either side begins it anew.
func (s State) Silence(p Patience, w WrapUp, now time.Time) []Event {
	if s.Phase != Active || s.Message || s.Over != nil || s.Turn != VisitorTurn || s.HandingOn != nil || p.Remind <= 0 || p.End <= 0 {
		return nil
	}
	switch {
	case !s.AutomaticAt.IsZero() && now.Sub(s.AutomaticAt) < AutomaticPause:
		return nil // never two at once
	case s.RemindedAt == nil && now.Sub(s.TurnSince) >= p.Remind:
		return []Event{s.next(Event{Kind: Reminded, By: House}, now)}
	case s.RemindedAt != nil && now.Sub(*s.RemindedAt) >= p.End:
		return []Event{w.on(s.next(Event{Kind: Ended, By: House, Ending: s.ending(), Detail: &Detail{Why: Silent}}, now))}
	}
	return nil
}

// ShutOut ends a chat because its visitor is banned.
func (s State) ShutOut(by Party, w WrapUp, now time.Time) ([]Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return nil, err
	}
	if s.Phase == Over {
		return nil, nil
	}
	e := s.next(Event{Kind: Ended, By: by, Ending: s.ending(), Detail: &Detail{Why: Banned}}, now)
	if s.Phase == Waiting {
		return []Event{e}, nil
	}
	return []Event{w.on(e)}, nil
}
