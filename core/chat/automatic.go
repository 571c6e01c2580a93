package chat

import (
	"slices"
	"time"
)

// Occasion is when automatic words are said.
type Occasion string

// The occasions.
const (
	AtStart   Occasion = "start"   // a chat has begun
	AtMessage Occasion = "message" // a message was left while closed
	AtWait    Occasion = "wait"    // nobody has taken the chat for so long
	AtSilence Occasion = "silence" // the visitor has not answered for so long
	AtTake    Occasion = "take"    // somebody took the chat: their own words of welcome
	AtRule    Occasion = "rule"    // a rule that acts
)

// Planned are words that are said by themselves on an occasion.
type Planned struct {
	Rule     string // id of the rule that says them
	On       Occasion
	After    time.Duration // AtWait, AtSilence: since the wait, the silence began
	Operator string        // AtTake: whose words they are
	Text     string
}

// AutomaticPause is the least time between two automatic words in a chat: never two
// at once. A person's welcome follows sooner: they are about to write.
const (
	AutomaticPause = 20 * time.Second
	welcomePause   = 5 * time.Second
)

// freshFor is how long after its beginning a chat is greeted: a rule that is made later
// greets nobody who has long been there.
const freshFor = time.Minute

// AutomaticSaid is what was said by itself, and need not be said again.
type AutomaticSaid struct {
	Rule string   `json:"rule"`
	On   Occasion `json:"on"`
}

// Automatic says the first of some planned words that are due at a time, at most one,
// each once for its occasion: a new wait and a new silence are new ones.
func (s State) Automatic(planned []Planned, now time.Time) []Event {
	if s.Phase != Waiting && s.Phase != Active || s.RemindedAt != nil || s.Helping() || s.RuleSpoke > s.Spoken {
		return nil // or a rule has spoken since anybody did: never two in a row
	}
	for _, p := range planned {
		pause := AutomaticPause
		if p.On == AtTake {
			pause = welcomePause
		}
		if !s.AutomaticAt.IsZero() && now.Sub(s.AutomaticAt) < pause {
			continue
		}
		if slices.ContainsFunc(s.Automated, func(a AutomaticSaid) bool { return a.Rule == p.Rule }) || !s.due(p, now) {
			continue
		}
		return []Event{s.next(Event{Kind: Automatic, By: House, Text: p.Text, Detail: &Detail{Rule: p.Rule, On: p.On, Operator: p.Operator}}, now)}
	}
	return nil
}

func (s State) due(p Planned, now time.Time) bool {
	wrote := s.LastSaid.Visitor > 0 // and was not written to by the team
	switch p.On {
	case AtStart:
		return wrote && !s.Message && now.Sub(s.StartedAt) < freshFor && s.RepliedAt.IsZero()
	case AtMessage:
		return wrote && s.Message && s.Phase == Waiting && now.Sub(s.StartedAt) < freshFor
	case AtWait:
		return !s.Message && s.Phase == Waiting && now.Sub(s.Since) >= p.After
	case AtSilence:
		return !s.Message && s.Over == nil && s.Phase == Active && s.Turn == VisitorTurn && s.HandingOn == nil && now.Sub(s.TurnSince) >= p.After
	case AtTake:
		// Who has spoken already has said what they want to say first.
		return !s.Message && s.Phase == Active && s.Owner == p.Operator && now.Sub(s.OwnedAt) < freshFor &&
			!slices.ContainsFunc(s.Fresh, func(w Word) bool { return w.Side == TeamSide && !w.At.Before(s.OwnedAt) })
	}
	return false
}

// SayByRule says a rule's words, unless nobody has spoken since something was said by itself:
// nothing is returned then.
func (s State) SayByRule(rule, clientID, words string, now time.Time) []Event {
	spoken := s.Spoken > 0 && s.Spoken > s.AutomaticLast
	if s.Phase != Waiting && s.Phase != Active || s.RemindedAt != nil || s.Helping() || !spoken {
		return nil
	}
	return []Event{s.next(Event{Kind: Automatic, By: House, ClientID: clientID, Text: words, Detail: &Detail{Rule: rule, On: AtRule}}, now)}
}

func (s State) automatic(e Event) State {
	d := detailOf(e)
	s.AutomaticAt, s.AutomaticLast = e.At, e.Number
	if d.On == AtRule {
		s.RuleSpoke = e.Number
		return s // its own log knows when it did
	}
	s.Automated = append(slices.Clone(s.Automated), AutomaticSaid{d.Rule, d.On})
	return s
}

// forgetting returns what was said by itself, without that of an occasion which is over.
func (s State) forgetting(on Occasion) []AutomaticSaid {
	rest := slices.DeleteFunc(slices.Clone(s.Automated), func(a AutomaticSaid) bool { return a.On == on })
	if len(rest) == 0 {
		return nil
	}
	return rest
}
