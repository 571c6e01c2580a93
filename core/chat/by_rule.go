package chat

import (
	"slices"
	"time"

	"stoop/core/routing"
)

// The acts in this file are those of rules that act: done by the house, under a rule's name.
// No event means that it is so already, or not possible any more. Each has a client id, so that
// doing it again changes nothing.

// TagByRule says what a chat is about, also after its end.
func (s State) TagByRule(clientID, tag string, now time.Time) []Event {
	if tag = CleanTag(tag); tag == "" || s.Phase == "" || slices.Contains(s.Tags, tag) || len(s.Tags) >= tagsLimit {
		return nil
	}
	return []Event{s.next(Event{Kind: Tagged, By: House, ClientID: clientID, Detail: &Detail{Tag: tag}}, now)}
}

// PrioritiseByRule moves a waiting chat in its queue.
func (s State) PrioritiseByRule(clientID string, priority int, name string, target int, now time.Time) []Event {
	if s.Phase != Waiting || s.withHelper() || s.Offered != nil || s.Priority == priority {
		return nil
	}
	return s.routeByRule(clientID, s.Department, priority, name, target, now)
}

// MoveByRule sends a waiting chat to another department.
func (s State) MoveByRule(clientID, department, name string, target int, now time.Time) []Event {
	if s.Phase != Waiting || s.withHelper() || s.Offered != nil || s.Department == department {
		return nil
	}
	return s.routeByRule(clientID, department, s.Priority, name, target, now)
}

func (s State) routeByRule(clientID, department string, priority int, name string, target int, now time.Time) []Event {
	prefer := s.Prefer
	if department != s.Department {
		prefer = ""
	}
	reasons := []routing.Reason{routing.Because(routing.ByRule, "rule", name)}
	return []Event{s.next(Event{Kind: Routed, By: House, ClientID: clientID, Detail: &Detail{Department: department, Operator: prefer, Priority: priority, Reasons: reasons, Target: target}}, now)}
}

// HandOnByRule offers a chat that somebody holds to another department; it comes back to them
// if nobody takes it there.
func (s State) HandOnByRule(clientID, department, note string, until, now time.Time) []Event {
	if s.Phase != Active || s.Message || s.HandingOn != nil || s.Department == department {
		return nil
	}
	until = stamp(until)
	return []Event{s.next(Event{Kind: HandedOn, By: House, ClientID: clientID, Text: CleanLine(note, noteLimit), Detail: &Detail{Department: department, Until: &until}}, now)}
}

// CallByRule asks a department to help in a chat that somebody holds.
func (s State) CallByRule(clientID, department, words string, now time.Time) []Event {
	if s.Phase != Active || s.Message || s.Call != nil {
		return nil
	}
	return []Event{s.next(Event{Kind: Called, By: House, ClientID: clientID, Text: CleanLine(words, noteLimit), Detail: &Detail{Department: department}}, now)}
}
