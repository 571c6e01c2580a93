package chat

import (
	"time"

	"stoop/core/routing"
)

// The acts in this file move a chat between people: where it is routed, to whom
// it is offered, who hands it on to whom.

// Route sends a chat to a department. A message left while closed becomes a
// live chat by it when live is set.
func (s State) Route(d routing.Decision, live bool, now time.Time) (Event, error) {
	if err := s.mustWait(); err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: Routed, By: House, Detail: &Detail{
		Department: d.Department, Operator: d.Prefer, Priority: d.Priority, Reasons: d.Reasons, Live: live && s.Message,
		Rule: d.Rule, Target: d.Target,
	}}, now), nil
}

// Overflow lets another department's members take a chat too.
func (s State) Overflow(department string, reasons []routing.Reason, now time.Time) ([]Event, error) {
	if !s.seeks() {
		return nil, s.whyNotSeeking()
	}
	for _, open := range append([]string{s.Department}, s.OpenTo...) {
		if open == department {
			return nil, nil
		}
	}
	return []Event{s.next(Event{Kind: Overflowed, By: House, Detail: &Detail{Department: department, Reasons: reasons}}, now)}, nil
}

// Offer shows a chat to one operator, who has until a time to take it.
func (s State) Offer(operator string, until time.Time, reasons []routing.Reason, now time.Time) (Event, error) {
	if !s.seeks() {
		return Event{}, s.whyNotSeeking()
	}
	if operator == s.Owner {
		return Event{}, ErrNobodyElse // they hand it on
	}
	if s.Offered != nil {
		return Event{}, &OfferedError{To: s.Offered.To, Until: s.Offered.Until}
	}
	until = stamp(until)
	return s.next(Event{Kind: Offered, By: House, Detail: &Detail{Operator: operator, Until: &until, Reasons: reasons}}, now), nil
}

// Assign makes an operator the owner without asking.
func (s State) Assign(operator string, reasons []routing.Reason, now time.Time) (Event, error) {
	if !s.seeks() {
		return Event{}, s.whyNotSeeking()
	}
	if operator == s.Owner {
		return Event{}, ErrNobodyElse
	}
	return s.next(Event{Kind: Taken, By: Operator(operator), Detail: &Detail{How: Assigned, Reasons: reasons}}, now), nil
}

// Pass lets an offer go by: to the next in the queue, or back to the one who
// hands the chat on.
func (s State) Pass(by Party, now time.Time) (Event, error) {
	switch {
	case s.Offered != nil && s.Offered.To == by.ID:
		return s.next(Event{Kind: Passed, By: by, Detail: &Detail{Operator: by.ID}}, now), nil
	case s.HandingOn != nil && s.HandingOn.To == by.ID:
		return s.next(Event{Kind: Returned, By: by, Detail: &Detail{Operator: s.Owner, Why: Declined}}, now), nil
	}
	return Event{}, ErrNoOffer
}

// Lapse ends an offer that was not answered. The offer is named by the number
// of its event, so that a late time-out cannot end another one.
func (s State) Lapse(offer int64, now time.Time) ([]Event, error) {
	switch {
	case s.Offered != nil && s.Offered.Number == offer:
		return []Event{s.next(Event{Kind: Passed, By: House, Detail: &Detail{Operator: s.Offered.To, Why: Unanswered}}, now)}, nil
	case s.HandingOn != nil && s.HandingOn.Number == offer:
		return []Event{s.next(Event{Kind: Returned, By: House, Detail: &Detail{Operator: s.Owner, Why: Unanswered}}, now)}, nil
	}
	return nil, nil
}

// HandOn offers a chat to another operator or department, with a note for them.
// Until it is taken there it stays with its owner, and it comes back at the
// given time.
func (s State) HandOn(by Party, operator, department, note string, until, now time.Time) (Event, error) {
	if err := s.mustOwn(by); err != nil {
		return Event{}, err
	}
	if s.HandingOn != nil {
		return Event{}, ErrHandingOn
	}
	if operator == by.ID || (operator == "") == (department == "") {
		return Event{}, ErrNobodyElse
	}
	until = stamp(until)
	return s.next(Event{Kind: HandedOn, By: by, Text: CleanLine(note, noteLimit), Detail: &Detail{
		Operator: operator, Department: department, Until: &until,
	}}, now), nil
}

// noteLimit bounds the note of one who hands a chat on, in code points.
const noteLimit = 1000

// TakeBack withdraws what an owner has begun to hand on.
func (s State) TakeBack(by Party, now time.Time) ([]Event, error) {
	if err := s.mustOwn(by); err != nil {
		return nil, err
	}
	if s.HandingOn == nil {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Returned, By: by, Detail: &Detail{Operator: s.Owner, Why: TakenBack}}, now)}, nil
}

// PutBack returns a chat to the queue, where it keeps the place of its first
// arrival. The one who puts it back is not the first to be asked again.
func (s State) PutBack(by Party, note string, now time.Time) (Event, error) {
	if err := s.mustOwn(by); err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: WasPutBack, By: by, Text: CleanLine(note, noteLimit), Detail: &Detail{Operator: by.ID}}, now), nil
}

// Release returns a chat to the queue because its owner is gone.
func (s State) Release(owner string, now time.Time) ([]Event, error) {
	if s.Phase != Active || s.Owner != owner {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: WasPutBack, By: House, Detail: &Detail{Operator: owner, Why: OwnerGone}}, now)}, nil
}

// KeepAsMessage turns a waiting chat into a message, to be answered later: by
// its visitor, with a way to answer them, or by the house when the team closes.
func (s State) KeepAsMessage(by Party, intro *Intro, now time.Time) ([]Event, error) {
	if by.Side == TeamSide || by.Side == VisitorSide && by.ID != s.Visitor {
		return nil, ErrNotYours
	}
	if s.Message && s.Phase == Waiting {
		return nil, nil
	}
	if err := s.mustWait(); err != nil {
		return nil, err
	}
	return []Event{s.next(Event{Kind: KeptAsMessage, By: by, Intro: intro}, now)}, nil
}

// Miss ends a waiting chat whose visitor has gone; it is missed, if nobody had
// answered before it waited again.
func (s State) Miss(now time.Time) ([]Event, error) {
	if s.Phase != Waiting || s.Message || s.Over != nil { // who writes from elsewhere does not stand at the counter
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Ended, By: House, Ending: s.ending(), Detail: &Detail{Why: VisitorGone}}, now)}, nil
}

// WrapUp ends the owner's wrap-up of an ended chat, by them or by the house
// when its time is over. A wrap-up that is over changes nothing. The owner
// cannot put a chat away that still needs an outcome.
func (s State) WrapUp(by Party, now time.Time) ([]Event, error) {
	if s.Phase != Over || s.WrapUntil == nil {
		return nil, nil
	}
	if by.Side == TeamSide && by.ID != s.Owner || by.Side == VisitorSide {
		return nil, ErrNotYours
	}
	if by.Side == TeamSide && s.NeedsOutcome {
		return nil, ErrNeedsOutcome
	}
	return []Event{s.next(Event{Kind: WrappedUp, By: by}, now)}, nil
}

// seeks reports whether the chat looks for somebody: it waits in a queue, or it
// is being handed on to a department.
func (s State) seeks() bool {
	return s.Phase == Waiting && !s.Message && !s.withHelper() || s.Phase == Active && s.HandingOn != nil && s.HandingOn.Department != ""
}

// whyNotSeeking is the reason for which a chat cannot be given to somebody.
func (s State) whyNotSeeking() error {
	if err := s.mustWait(); err != nil {
		return err
	}
	if s.withHelper() {
		return ErrWithHelper
	}
	return ErrIsMessage
}

func (s State) mustWait() error {
	switch s.Phase {
	case "":
		return ErrNotStarted
	case Over:
		return ErrEnded
	case Active:
		return &TakenError{By: s.Owner, At: s.OwnedAt}
	}
	return nil
}

// mustBeHeld refuses what only a chat allows that somebody of the team holds.
func (s State) mustBeHeld() error {
	switch s.Phase {
	case "":
		return ErrNotStarted
	case Over:
		return ErrEnded
	case Waiting:
		return ErrNotTaken
	}
	return nil
}

func (s State) mustOwn(by Party) error {
	if err := s.mustBeHeld(); err != nil {
		return err
	}
	if by.Side != TeamSide || by.ID != s.Owner {
		return ErrNotYours
	}
	return nil
}
