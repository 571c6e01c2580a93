package chat

import (
	"slices"
	"strings"
	"time"
)

// The acts in this file put things down beside a conversation: for the team
// only, and also after the chat's end.

const (
	tagLimit     = 40  // code points
	tagsLimit    = 20  // of one chat
	summaryLimit = 300 // code points
)

// Note adds words that only the team sees.
func (s State) Note(by Party, clientID, words string, now time.Time) (Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return Event{}, err
	}
	text, err := CleanWords(words, noteLimit)
	if err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: Noted, By: by, ClientID: clientID, Text: text}, now), nil
}

// CleanTag returns a tag as it is stored: one line, in lower case.
func CleanTag(tag string) string { return strings.ToLower(CleanLine(tag, tagLimit)) }

// Tag says what a chat is about. A tag that it has changes nothing.
func (s State) Tag(by Party, tag string, now time.Time) ([]Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return nil, err
	}
	tag = CleanTag(tag)
	if tag == "" {
		return nil, ErrEmpty
	}
	if slices.Contains(s.Tags, tag) {
		return nil, nil
	}
	if len(s.Tags) >= tagsLimit {
		return nil, ErrManyTags
	}
	return []Event{s.next(Event{Kind: Tagged, By: by, Detail: &Detail{Tag: tag}}, now)}, nil
}

// Untag takes a tag off again.
func (s State) Untag(by Party, tag string, now time.Time) ([]Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return nil, err
	}
	if tag = CleanTag(tag); !slices.Contains(s.Tags, tag) {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Untagged, By: by, Detail: &Detail{Tag: tag}}, now)}, nil
}

// Summarise puts a chat into one line; an empty one takes the line away.
func (s State) Summarise(by Party, line string, now time.Time) ([]Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return nil, err
	}
	if line = CleanLine(line, summaryLimit); line == s.Summary {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Summarised, By: by, Text: line}, now)}, nil
}

// Ticketed puts down that a ticket was made of the chat, or linked with it: how is empty, or
// TicketLinked.
func (s State) Ticketed(by Party, t TicketRef, how string, now time.Time) ([]Event, error) {
	if by.Side != TeamSide && by != House {
		return nil, ErrNotYours
	}
	return []Event{s.next(Event{Kind: Ticketed, By: by, Detail: &Detail{Ticket: &t, How: how}}, now)}, nil
}

// Conclude says how a chat came out, with the sale if there was one.
func (s State) Conclude(by Party, outcome string, sale *Money, now time.Time) ([]Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return nil, err
	}
	if outcome == s.Outcome && (sale == nil) == (s.Sale == nil) && (sale == nil || *sale == *s.Sale) {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Concluded, By: by, Detail: &Detail{Outcome: outcome, Sale: sale}}, now)}, nil
}

// Name fills in who the visitor is.
func (s State) Name(by Party, intro Intro, now time.Time) (Event, error) {
	if err := s.mustBeTeam(by); err != nil {
		return Event{}, err
	}
	return s.next(Event{Kind: Named, By: by, Intro: &intro}, now), nil
}

// SetAside marks an active chat unread for its owner, or takes the mark away.
func (s State) SetAside(by Party, aside bool, now time.Time) ([]Event, error) {
	if err := s.mustOwn(by); err != nil {
		return nil, err
	}
	if s.Unread == aside {
		return nil, nil
	}
	kind := SetAside
	if !aside {
		kind = PickedUp
	}
	return []Event{s.next(Event{Kind: kind, By: by}, now)}, nil
}

func (s State) mustBeTeam(by Party) error {
	switch {
	case s.Phase == "":
		return ErrNotStarted
	case by.Side != TeamSide:
		return ErrNotYours
	}
	return nil
}

// putDown applies the events of this file.
func (s State) putDown(e Event, d Detail) State {
	switch e.Kind {
	case Tagged:
		s.Tags = append(slices.Clone(s.Tags), d.Tag)
	case Untagged:
		s.Tags = without(s.Tags, d.Tag)
	case Summarised:
		s.Summary = e.Text
	case Concluded:
		s.Outcome, s.Sale, s.NeedsOutcome = d.Outcome, d.Sale, s.WantsOutcome && d.Outcome == ""
	case SetAside, PickedUp:
		s.Unread = e.Kind == SetAside
	}
	return s
}
