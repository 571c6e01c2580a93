package chat

import "time"

// The acts in this file are those of looking along: with the visitor's leave somebody of the
// team sees the page that they see, until either ends it. What is seen is no part of the log.

// Along is somebody of the team who looks along, or asks to.
type Along struct {
	Number int64  `json:"number"`           // of the event that asked
	By     string `json:"by"`               // the operator
	On     bool   `json:"on,omitempty"`     // the visitor said yes
	Scroll bool   `json:"scroll,omitempty"` // they let them scroll the page, too
	Kept   bool   `json:"kept,omitempty"`   // what is seen is kept with the chat, as they are told
}

// What becomes of the wish to look along.
const (
	AlongYes       = "accepted"
	AlongNo        = "declined"
	AlongOver      = "ended"     // by either side
	AlongTakenBack = "withdrawn" // by the team, before it was answered
)

// AskAlong asks the visitor whether one may look along, by whoever speaks for the team. One
// person looks along at a time; asking again while one's wish is open changes nothing.
func (s State) AskAlong(by Party, kept bool, now time.Time) ([]Event, error) {
	switch {
	case by.Side != TeamSide:
		return nil, ErrNotYours
	case s.Message:
		return nil, ErrIsMessage
	case s.Over != nil:
		return nil, ErrNotOnSite
	}
	if err := s.mayTalk(by); err != nil {
		return nil, err
	}
	if s.Along != nil {
		if s.Along.By != by.ID {
			return nil, ErrLooksAlong
		}
		return nil, nil
	}
	return []Event{s.next(Event{Kind: AlongAsked, By: by, Detail: &Detail{Along: &Along{Kept: kept}}}, now)}, nil
}

// AnswerAlong is the visitor's word on it, for this time; scroll: whether the page may be
// scrolled for them, too. Saying the same again changes nothing.
func (s State) AnswerAlong(by Party, number int64, yes, scroll bool, now time.Time) ([]Event, error) {
	if by.Side != VisitorSide || by.ID != s.Visitor {
		return nil, ErrNotYours
	}
	if s.Along == nil || s.Along.Number != number {
		return nil, ErrNoAlong
	}
	if s.Along.On {
		return nil, nil
	}
	how := AlongNo
	if yes {
		how = AlongYes
	}
	return []Event{s.next(Event{Kind: AlongMoved, By: by, UpTo: number, Detail: &Detail{How: how, Along: &Along{Scroll: yes && scroll}}}, now)}, nil
}

// EndAlong ends it, by the visitor or by who speaks for the team; a wish is taken back. Doing so
// again changes nothing.
func (s State) EndAlong(by Party, number int64, now time.Time) ([]Event, error) {
	if by.Side == VisitorSide && by.ID != s.Visitor {
		return nil, ErrNotYours
	}
	if by.Side == TeamSide {
		if err := s.mayTalk(by); err != nil {
			return nil, err
		}
	}
	if s.Along == nil || s.Along.Number != number {
		return nil, nil
	}
	how := AlongOver
	switch {
	case by.Side == VisitorSide && !s.Along.On:
		how = AlongNo
	case !s.Along.On:
		how = AlongTakenBack
	}
	return []Event{s.next(Event{Kind: AlongMoved, By: by, UpTo: number, Detail: &Detail{How: how}}, now)}, nil
}

// along applies AlongAsked and AlongMoved.
func (s State) along(e Event, d Detail) State {
	if e.Kind == AlongAsked {
		s.Along = &Along{Number: e.Number, By: e.By.ID, Kept: d.Along != nil && d.Along.Kept}
		return s
	}
	if d.How != AlongYes {
		s.Along = nil
		return s
	}
	a := *s.Along
	a.On, a.Scroll = true, d.Along != nil && d.Along.Scroll
	s.Along = &a
	return s
}

// withoutAlongOf ends what somebody sees who is not in the chat any more.
func (s State) withoutAlongOf(operator string) State {
	if s.Along != nil && s.Along.By == operator {
		s.Along = nil
	}
	return s
}

func (s State) alongFits(e Event, d Detail) bool {
	speaks := e.By.Side == TeamSide && e.By.ID != "" && s.Phase == Active && (e.By.ID == s.Owner || s.isGuest(e.By.ID))
	visitor := e.By.Side == VisitorSide && e.By.ID != "" && e.By.ID == s.Visitor
	if e.Kind == AlongAsked {
		return speaks && s.Along == nil
	}
	if s.Along == nil || e.UpTo != s.Along.Number {
		return false
	}
	switch d.How {
	case AlongYes:
		return visitor && !s.Along.On
	case AlongNo:
		return visitor && !s.Along.On
	case AlongOver:
		return (visitor || speaks) && s.Along.On
	case AlongTakenBack:
		return speaks && !s.Along.On
	}
	return false
}
