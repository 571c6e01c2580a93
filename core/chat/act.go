package chat

import "time"

// Start opens a chat with the visitor's first words: it returns the events
// Started and Said. The first words are kept under clientID.
func Start(by Party, clientID string, intro Intro, words string, limit int, now time.Time) ([]Event, error) {
	text, err := CleanWords(words, limit)
	if err != nil {
		return nil, err
	}
	if by.Side != VisitorSide {
		return nil, ErrNotYours
	}
	now = stamp(now)
	return []Event{
		{Number: 1, Kind: Started, At: now, By: by, Intro: &intro},
		{Number: 2, Kind: Said, At: now, By: by, ClientID: clientID, Text: text},
	}, nil
}

// StartOver opens a chat by a way beside the site.
func StartOver(by Party, clientID string, intro Intro, words string, over Way, limit int, now time.Time) ([]Event, error) {
	intro.Channel = over.Kind
	events, err := Start(by, clientID, intro, words, limit, now)
	if err != nil {
		return nil, err
	}
	events[1].Detail = &Detail{Over: &over}
	return events, nil
}

// StartWriting opens a chat in which an operator writes to somebody who is not there:
// a message, of which the team's words come first. It returns the event Started.
func StartWriting(to, by Party, intro Intro, now time.Time) ([]Event, error) {
	if to.Side != VisitorSide || by.Side != TeamSide {
		return nil, ErrNotYours
	}
	intro.Message, intro.WrittenBy = true, by.ID
	return []Event{{Number: 1, Kind: Started, At: stamp(now), By: to, Intro: &intro}}, nil
}

// Take makes an operator the owner of a waiting chat, or of one that is being
// handed on to them or their department. Taking one's own chat
// again changes nothing and returns no event; a colleague's is a *TakenError.
func (s State) Take(by Party, now time.Time) ([]Event, error) {
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case by.Side != TeamSide:
		return nil, ErrNotYours
	case s.Phase == Over:
		return nil, ErrEnded
	case s.Phase == Active && s.Owner == by.ID:
		return nil, nil
	case s.Offered != nil && s.Offered.To != by.ID:
		return nil, &OfferedError{To: s.Offered.To, Until: s.Offered.Until}
	case s.Phase == Active && s.HandingOn != nil && (s.HandingOn.To == by.ID || s.HandingOn.Department != ""):
		// It was offered to them, or to their department.
	case s.Phase == Active:
		return nil, &TakenError{By: s.Owner, At: s.OwnedAt}
	}
	return []Event{s.next(Event{Kind: Taken, By: by}, now)}, nil
}

// End closes the chat, by the visitor or by the owner. A chat in which nobody
// answered is missed; ending an ended chat changes nothing and returns no event.
func (s State) End(by Party, w WrapUp, now time.Time) ([]Event, error) {
	if s.Phase == Over && s.belongs(by) {
		return nil, nil
	}
	if err := s.mayAct(by); err != nil {
		return nil, err
	}
	e := Event{Kind: Ended, By: by}
	switch {
	case s.Message && s.Phase == Waiting:
		return nil, ErrIsMessage // it must be answered yet
	}
	e.Ending = s.ending()
	e = s.next(e, now)
	if s.Phase == Waiting {
		return []Event{WrapUp{Survey: w.Survey}.on(e)}, nil // nobody has it in hand to wrap up
	}
	return []Event{w.on(e)}, nil
}

// ending tells how a chat is counted that ends now: answered if somebody of the
// team has said something in it, whoever holds it at the end.
func (s State) ending() Ending {
	switch {
	case s.Message:
		return LeftMessage
	case !s.RepliedAt.IsZero():
		return Answered
	case s.Helping() && s.Helper.Answered:
		return Helped
	}
	return Missed
}

// WrapUp is what a department wants after a chat that somebody held. The owner's load
// counts the chat for a time; zero is none. An outcome is wanted of answered chats, and
// their visitors are asked how it was, if the widget has a survey.
type WrapUp struct {
	Time         time.Duration
	NeedsOutcome bool
	Survey       bool
}

func (w WrapUp) on(e Event) Event {
	if e.Ending == LeftMessage || w == (WrapUp{}) {
		return e
	}
	// Who was never answered had nothing that could come out well or badly.
	d := &Detail{Required: w.NeedsOutcome && e.Ending == Answered, Survey: w.Survey && e.Ending == Answered}
	if e.Detail != nil {
		d.Why = e.Detail.Why
		d.Survey = d.Survey && d.Why != Banned
	}
	if w.Time > 0 {
		until := e.At.Add(w.Time)
		d.Until = &until
	}
	e.Detail = d
	return e
}

// belongs reports whether a party is the chat's visitor or its owner.
func (s State) belongs(by Party) bool {
	if by.Side == VisitorSide {
		return by.ID == s.Visitor
	}
	return by.ID == s.Owner
}

// mayAct refuses with the reason that helps most: an operator looking at a
// waiting chat is told to take it, not that it is somebody else's.
func (s State) mayAct(by Party) error {
	switch {
	case s.Phase == "":
		return ErrNotStarted
	case by.Side == TeamSide && s.Phase == Waiting:
		return ErrNotTaken
	case !s.belongs(by):
		return ErrNotYours
	case s.Phase == Over:
		return ErrEnded
	}
	return nil
}

// next numbers an event and dates it, and says by which way it goes: never before the one in front of it,
// since the clocks of two servers differ.
func (s State) next(e Event, now time.Time) Event {
	e.Number = s.Last + 1
	e.At = stamp(now)
	if e.At.Before(s.LastAt) {
		e.At = s.LastAt
	}
	return s.outward(e)
}

// stamp cuts a time to what every store and browser can hold, so that a state
// that was lived through equals one that was read back.
func stamp(t time.Time) time.Time { return t.UTC().Truncate(time.Millisecond) }
