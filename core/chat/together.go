package chat

import (
	"slices"
	"time"
)

// The acts in this file are those by which several of the team are in one chat.

// Add lets a colleague speak in a chat beside its owner.
func (s State) Add(by Party, colleague string, now time.Time) ([]Event, error) {
	if err := s.mustOwn(by); err != nil {
		return nil, err
	}
	if colleague == "" || colleague == by.ID {
		return nil, ErrNobodyElse
	}
	if s.isGuest(colleague) {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Joined, By: by, Detail: &Detail{Operator: colleague}}, now)}, nil
}

// Leave takes a colleague out of a chat again, by themselves or by its owner.
func (s State) Leave(by Party, colleague string, now time.Time) ([]Event, error) {
	if s.Phase != Active || !s.isGuest(colleague) {
		return nil, nil
	}
	if by.Side != TeamSide || by.ID != colleague && by.ID != s.Owner {
		return nil, ErrNotYours
	}
	return []Event{s.next(Event{Kind: Left, By: by, Detail: &Detail{Operator: colleague}}, now)}, nil
}

// Join lets somebody of the team speak in a chat beside its owner of their own
// will: a lead who steps in, or anybody while the team is asked for help.
func (s State) Join(by Party, lead bool, now time.Time) ([]Event, error) {
	if err := s.mustBeHeld(); err != nil {
		return nil, err
	}
	switch {
	case by.Side != TeamSide || !lead && s.Call == nil:
		return nil, ErrNotYours
	case by.ID == s.Owner || s.isGuest(by.ID):
		return nil, nil
	}
	how := SteppedIn
	if s.Call != nil {
		how = Answering
	}
	return []Event{s.next(Event{Kind: Joined, By: by, Detail: &Detail{Operator: by.ID, How: how}}, now)}, nil
}

// TakeOver makes a lead the owner of a colleague's chat. The colleague stays
// beside them until they leave.
func (s State) TakeOver(by Party, now time.Time) ([]Event, error) {
	if err := s.mustBeHeld(); err != nil {
		return nil, err
	}
	switch {
	case by.Side != TeamSide:
		return nil, ErrNotYours
	case by.ID == s.Owner:
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Taken, By: by, Detail: &Detail{How: TookOver, Operator: s.Owner}}, now)}, nil
}

// CallTeam asks a department for help in a chat: any member may join.
func (s State) CallTeam(by Party, department, words string, now time.Time) (Event, error) {
	if err := s.mustOwn(by); err != nil {
		return Event{}, err
	}
	if s.Call != nil {
		return Event{}, ErrCalling
	}
	return s.next(Event{Kind: Called, By: by, Text: CleanLine(words, noteLimit), Detail: &Detail{Department: department}}, now), nil
}

// EndCall ends the call for help, by the owner.
func (s State) EndCall(by Party, now time.Time) ([]Event, error) {
	if err := s.mustOwn(by); err != nil {
		return nil, err
	}
	if s.Call == nil {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: CallOver, By: by}, now)}, nil
}

// Watch notes that a lead reads along, or does not any more. The visitor does
// not learn of it, nor do operators; it is kept in the log.
func (s State) Watch(by Party, begins bool, now time.Time) ([]Event, error) {
	if s.Phase == "" {
		return nil, ErrNotStarted
	}
	if by.Side != TeamSide {
		return nil, ErrNotYours
	}
	if s.Phase == Over || slices.Contains(s.Watchers, by.ID) == begins {
		return nil, nil
	}
	kind := Watched
	if !begins {
		kind = Unwatched
	}
	return []Event{s.next(Event{Kind: kind, By: by}, now)}, nil
}

// Whisper tells a chat's owner something that the visitor does not see.
func (s State) Whisper(by Party, clientID, words string, now time.Time) (Event, error) {
	if err := s.mustBeHeld(); err != nil {
		return Event{}, err
	}
	if by.Side != TeamSide {
		return Event{}, ErrNotYours
	}
	text, err := CleanWords(words, noteLimit)
	if err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: Whispered, By: by, ClientID: clientID, Text: text}, now), nil
}

// inTeam applies the events of this file.
func (s State) inTeam(e Event, d Detail) State {
	switch e.Kind {
	case Joined:
		s.Guests = append(slices.Clone(s.Guests), d.Operator)
		if s.Call != nil && d.Operator != s.Owner {
			s.Call = nil
		}
	case Left:
		s.Guests = without(s.Guests, d.Operator)
		s = s.withoutAlongOf(d.Operator)
	case Called:
		s.Call = &Calling{Department: d.Department, Number: e.Number, Since: e.At}
	case CallOver:
		s.Call = nil
	case Watched:
		s.Watchers = append(slices.Clone(s.Watchers), e.By.ID)
	case Unwatched:
		s.Watchers = without(s.Watchers, e.By.ID)
	}
	return s
}

func (s State) isGuest(operator string) bool {
	return slices.Contains(s.Guests, operator)
}
