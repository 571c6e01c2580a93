package chat

import (
	"slices"
	"time"

	"stoop/core/channel"
)

// The acts in this file are about the way by which words go: on the site, or by text message or
// mail. A chat is on the way by which its visitor wrote last; the team's words go back by it.

// Way is one beside the site by which a chat goes on.
type Way struct {
	Kind    channel.Kind `json:"kind"`
	Line    string       `json:"line,omitempty"`    // id of the team's line; none for mails about a chat
	Address string       `json:"address,omitempty"` // the visitor's: a number in E.164, an email
	Stopped bool         `json:"stopped,omitempty"` // they want no more text messages
}

// Source returns how reports name those who came by the way: apart from the ways to the site.
func (w Way) Source() string { return "by-" + string(w.Kind) }

// OverAsking is the team's question whether the visitor will go on by another way.
type OverAsking struct {
	Kind   channel.Kind `json:"kind"`
	Number int64        `json:"number"` // of the event that asked
}

// What the visitor did about the way by which a chat goes on.
const (
	OverAccepted = "accepted" // it goes on there
	OverDeclined = "declined"
	OverStopped  = "stopped"
	OverStarted  = "started"
)

// undeliveredMost bounds why words were not delivered, in code points.
const undeliveredMost = 300

// MaxAskedOver bounds how often a chat's visitor is asked to go on by another way.
const MaxAskedOver = 20

// WayKind returns the kind of way on which the chat is.
func (s State) WayKind() channel.Kind {
	if s.Over == nil {
		return channel.Site
	}
	return s.Over.Kind
}

// SayOver adds words that the visitor wrote by a way beside the site, on which the chat is from
// then on. Without one they are words on the site.
func (s State) SayOver(by Party, clientID, words string, over *Way, limit int, now time.Time) (Event, error) {
	if by.Side != VisitorSide {
		return Event{}, ErrNotYours
	}
	e, err := s.Say(by, clientID, words, limit, now)
	if err == nil && over != nil {
		e.Detail = &Detail{Over: over}
	}
	return e, err
}

// ShareOver is SayOver for a file.
func (s State) ShareOver(by Party, clientID string, file File, over *Way, now time.Time) (Event, error) {
	if by.Side != VisitorSide {
		return Event{}, ErrNotYours
	}
	e, err := s.Share(by, clientID, file, now)
	if err == nil && over != nil {
		e.Detail.Over = over
	}
	return e, err
}

// AskOver asks the visitor to go on by another way. Asking for the same again, while the question
// stands, changes nothing.
func (s State) AskOver(by Party, kind channel.Kind, now time.Time) ([]Event, error) {
	if by.Side != TeamSide {
		return nil, ErrNotYours
	}
	if err := s.mayTalk(by); err != nil {
		return nil, err
	}
	switch {
	case !channel.Known(kind) || kind == s.WayKind():
		return nil, ErrSameWay
	case s.OverAsked != nil && s.OverAsked.Kind == kind:
		return nil, nil
	case s.TimesAskedOver >= MaxAskedOver:
		return nil, ErrAskedOften
	}
	return []Event{s.next(Event{Kind: ChannelAsked, By: by, Detail: &Detail{Over: &Way{Kind: kind}}}, now)}, nil
}

// AnswerOver is the visitor's word on whether they go on by another way, on which the chat is then.
// To say yes they need not have been asked. What was answered already, or is asked no longer,
// changes nothing.
func (s State) AnswerOver(by Party, over Way, yes bool, now time.Time) ([]Event, error) {
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case by.Side != VisitorSide || by.ID != s.Visitor:
		return nil, ErrNotYours
	case s.Phase == Over:
		return nil, ErrEnded
	case s.Helping():
		return nil, ErrWithHelper
	case !channel.LimitsOf(over.Kind).Addressed || yes && over.Address == "":
		return nil, ErrSameWay
	case yes && s.Over != nil && s.Over.Kind == over.Kind && s.Over.Address == over.Address:
		return nil, nil
	}
	asked := s.OverAsked != nil && s.OverAsked.Kind == over.Kind
	if !yes && !asked {
		return nil, nil
	}
	if !yes {
		return []Event{s.next(Event{Kind: ChannelMoved, By: by, Detail: &Detail{How: OverDeclined, Over: &Way{Kind: over.Kind}}}, now)}, nil
	}
	if !asked && s.TimesAskedOver >= MaxAskedOver {
		return nil, ErrAskedOften
	}
	told := Intro{Phone: over.Address}
	if over.Kind == channel.Email {
		told = Intro{Email: over.Address}
	}
	return []Event{s.next(Event{Kind: ChannelMoved, By: by, Intro: &told, Detail: &Detail{How: OverAccepted, Over: &over}}, now)}, nil
}

// StopOver puts down that the visitor wants no more text messages, or wants them again. In a chat
// that is not on that way, it changes nothing.
func (s State) StopOver(by Party, stopped bool, now time.Time) []Event {
	if by.Side != VisitorSide || by.ID != s.Visitor || s.Phase == Over || s.Over == nil || s.Over.Kind != channel.Text || s.Over.Stopped == stopped {
		return nil
	}
	how := OverStarted
	if stopped {
		how = OverStopped
	}
	return []Event{s.next(Event{Kind: ChannelMoved, By: by, Detail: &Detail{How: how, Over: &Way{Kind: channel.Text}}}, now)}
}

// NotDelivered puts down that words of the team could not be brought to the visitor, also after
// the end. Once for each.
func (s State) NotDelivered(said Event, why string, now time.Time) []Event {
	if s.Phase == "" || said.Number > s.Last || detailOf(said).Over == nil || slices.Contains(s.Undelivered, said.Number) {
		return nil
	}
	return []Event{s.next(Event{Kind: NotDelivered, By: House, UpTo: said.Number, Text: CleanLine(why, undeliveredMost), Detail: &Detail{Over: detailOf(said).Over}}, now)}
}

// QuietOver ends a chat beside the site in which the visitor has owed a word for so long. Nobody
// is reminded: a message costs them a look at their telephone.
func (s State) QuietOver(after time.Duration, w WrapUp, now time.Time) []Event {
	if s.Over == nil || s.Phase != Active || s.Message || s.Turn != VisitorTurn || s.HandingOn != nil || after <= 0 || now.Sub(s.TurnSince) < after {
		return nil
	}
	w.Survey = false // they are not in front of it
	return []Event{w.on(s.next(Event{Kind: Ended, By: House, Ending: s.ending(), Detail: &Detail{Why: Silent}}, now))}
}

// mayReach refuses words of the team that the way of the chat does not carry.
func (s State) mayReach(by Party, words string) error {
	if by.Side != TeamSide || s.Over == nil {
		return nil
	}
	if s.Over.Stopped {
		return ErrStopped
	}
	most := channel.LimitsOf(s.Over.Kind).Parts
	if parts := channel.Measure(channel.Plain(words)).Parts; most > 0 && parts > most {
		return &TooManyPartsError{Parts: parts, Limit: most}
	}
	return nil
}

// outward puts the way by which they go to what is said to a visitor who is not on the site.
func (s State) outward(e Event) Event {
	team := e.By.Side == TeamSide && (e.Kind == Said || e.Kind == Shared)
	if s.Over == nil || !team && e.Kind != Automatic {
		return e
	}
	d, over := detailOf(e), *s.Over
	d.Over = &over
	e.Detail = &d
	return e
}

// over applies ChannelAsked, ChannelMoved and NotDelivered.
func (s State) over(e Event, d Detail) State {
	switch {
	case e.Kind == NotDelivered:
		s.Undelivered = append(slices.Clone(s.Undelivered), e.UpTo)
		if len(s.Undelivered) > undeliveredKept {
			s.Undelivered = s.Undelivered[len(s.Undelivered)-undeliveredKept:]
		}
	case e.Kind == ChannelAsked:
		s.OverAsked, s.TimesAskedOver = &OverAsking{Kind: d.Over.Kind, Number: e.Number}, s.TimesAskedOver+1
	case d.How == OverStopped || d.How == OverStarted:
		o := *s.Over
		o.Stopped = d.How == OverStopped
		s.Over = &o
	case d.How == OverDeclined:
		s.OverAsked = nil
	default:
		if s.OverAsked == nil {
			s.TimesAskedOver++ // they asked for it themselves
		}
		s = s.spokeOver(d.Over)
		s.OverAsked = nil
	}
	return s
}

// undeliveredKept bounds the words that a State remembers not to have been delivered.
const undeliveredKept = 50

// spokeOver puts the chat on the way by which the visitor has just written.
func (s State) spokeOver(over *Way) State {
	s.Over = over
	if s.OverAsked != nil && s.OverAsked.Kind == s.WayKind() {
		s.OverAsked = nil
	}
	return s
}

func (s State) overFits(e Event, d Detail) bool {
	speaks := e.By.Side == TeamSide && e.By.ID != "" && s.Phase == Active && (e.By.ID == s.Owner || s.isGuest(e.By.ID))
	visitor := e.By.Side == VisitorSide && e.By.ID != "" && e.By.ID == s.Visitor
	switch {
	case d.Over == nil:
		return false
	case e.Kind == NotDelivered:
		return e.By == House && e.UpTo >= 1 && e.UpTo <= s.Last && !slices.Contains(s.Undelivered, e.UpTo)
	case e.Kind == ChannelAsked:
		return speaks && channel.Known(d.Over.Kind) && d.Over.Kind != s.WayKind()
	}
	switch d.How {
	case OverStopped, OverStarted:
		return visitor && s.Over != nil && s.Over.Stopped == (d.How == OverStarted)
	case OverDeclined:
		return visitor && s.OverAsked != nil
	}
	return visitor && d.How == OverAccepted && channel.LimitsOf(d.Over.Kind).Addressed && d.Over.Address != ""
}
