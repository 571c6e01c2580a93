package chat

import (
	"slices"
	"time"

	"stoop/core/channel"
)

// CorrectWithin is how long after they were said words can be corrected or
// withdrawn.
const CorrectWithin = time.Minute

// Say adds words. The visitor may speak while the chat waits or is active; of
// the team, the owner and colleagues who are in it.
func (s State) Say(by Party, clientID, words string, limit int, now time.Time) (Event, error) {
	if err := s.mayTalk(by); err != nil {
		return Event{}, err
	}
	text, err := CleanWords(words, limit)
	if err != nil {
		return Event{}, err
	}
	if err := s.mayReach(by, text); err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: Said, By: by, ClientID: clientID, Text: text}, now), nil
}

// Share adds a file, by whoever may speak.
func (s State) Share(by Party, clientID string, file File, now time.Time) (Event, error) {
	if err := s.mayTalk(by); err != nil {
		return Event{}, err
	}
	if by.Side == TeamSide && !channel.LimitsOf(s.WayKind()).Files {
		return Event{}, ErrNoFilesThere
	}
	return s.next(Event{Kind: Shared, By: by, ClientID: clientID, Detail: &Detail{File: &file}}, now), nil
}

// Refuse is the visitor's word that they do not want a file of the team. It is
// not served to them any more.
func (s State) Refuse(by Party, file Event, now time.Time) ([]Event, error) {
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case by.Side != VisitorSide || by.ID != s.Visitor:
		return nil, ErrNotYours
	case file.Kind != Shared || file.By.Side != TeamSide:
		return nil, ErrNotThat
	case slices.Contains(s.TakenBack, file.Number):
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Refused, By: by, UpTo: file.Number}, now)}, nil
}

// Correct replaces one's own words, within CorrectWithin.
func (s State) Correct(by Party, said Event, words string, limit int, now time.Time) ([]Event, error) {
	if err := s.mayChange(by, said, now); err != nil {
		return nil, err
	}
	if said.Kind != Said || said.Detail != nil && said.Detail.Card != nil {
		return nil, ErrNotThat
	}
	text, err := CleanWords(words, limit)
	if err != nil {
		return nil, err
	}
	return []Event{s.next(Event{Kind: Corrected, By: by, UpTo: said.Number, Text: text}, now)}, nil
}

// Withdraw takes one's own words or file back, within CorrectWithin. Doing so
// again changes nothing.
func (s State) Withdraw(by Party, said Event, now time.Time) ([]Event, error) {
	if slices.Contains(s.TakenBack, said.Number) && said.By == by {
		return nil, nil
	}
	if err := s.mayChange(by, said, now); err != nil {
		return nil, err
	}
	return []Event{s.next(Event{Kind: Withdrawn, By: by, UpTo: said.Number}, now)}, nil
}

func (s State) mayTalk(by Party) error {
	err := s.mayAct(by)
	if err != nil && s.Phase == Active && by.Side == TeamSide && s.isGuest(by.ID) {
		return nil
	}
	return err
}

func (s State) mayChange(by Party, said Event, now time.Time) error {
	switch {
	case s.Phase == "":
		return ErrNotStarted
	case s.Phase == Over:
		return ErrEnded
	case said.Kind != Said && said.Kind != Shared || slices.Contains(s.TakenBack, said.Number):
		return ErrNotThat
	case said.By != by:
		return ErrNotYours
	case now.Sub(said.At) > CorrectWithin || detailOf(said).Over != nil: // or it has gone out
		return ErrTooLate
	}
	return s.mayTalk(by) // who has left the chat changes nothing in it any more
}

// changed applies Corrected, Withdrawn and Refused.
func (s State) changed(e Event) State {
	if e.Kind == Corrected {
		if e.By.Side == VisitorSide {
			s = s.owesTranslation(e.UpTo, e.Number)
		}
		return s
	}
	s = s.translationOf(e.UpTo)
	s.TakenBack = append(slices.Clone(s.TakenBack), e.UpTo)
	if e.Kind == Refused {
		return s
	}
	s.Recent = s.Recent.with(e.By.Side, s.Recent.of(e.By.Side).without(e.UpTo))
	if e.UpTo == s.Replied {
		s.RepliedAt, s.Replied = time.Time{}, 0
		for _, w := range s.Fresh {
			if w.Side == TeamSide && w.Number != e.UpTo && s.Replied == 0 {
				s.RepliedAt, s.Replied = w.At, w.Number
			}
		}
	}
	return s.unsaid(e.UpTo, e.At)
}
