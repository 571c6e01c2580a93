// Package chat holds the rules of one conversation between a visitor and the
// team: what can happen in it, in which order, and what follows from what has
// happened.
//
// Everything that happens is an [Event] in one numbered log. [State] is what a
// log adds up to; it is small, can be stored as JSON, and moves on one event at
// a time. The package does no I/O and reads no clock: time comes in as an
// argument.
package chat

import "time"

// Kind says what happened.
type Kind string

// The kinds of event that a chat's log can hold.
const (
	Started   Kind = "started"   // the visitor opened the chat; always number 1
	Said      Kind = "said"      // words from either side
	Taken     Kind = "taken"     // an operator became the owner
	Delivered Kind = "delivered" // a side's browser has the other side's words up to UpTo
	Seen      Kind = "seen"      // a side has had the other side's words on screen up to UpTo
	Ended     Kind = "ended"     // the chat is over
)

// Side tells the two sides of a chat apart.
type Side string

// The two sides of a chat.
const (
	VisitorSide Side = "visitor"
	TeamSide    Side = "team"
)

// Other returns the opposite side.
func (s Side) Other() Side {
	if s == TeamSide {
		return VisitorSide
	}
	return TeamSide
}

// Party is one who acts in a chat: the visitor, or an operator of the team.
type Party struct {
	Side Side   `json:"side"`
	ID   string `json:"id"`
}

// Visitor returns the party of the visitor with this id.
func Visitor(id string) Party { return Party{Side: VisitorSide, ID: id} }

// Operator returns the party of the operator with this id.
func Operator(id string) Party { return Party{Side: TeamSide, ID: id} }

// Ending says how an ended chat is counted.
type Ending string

// The endings of a chat. Missed: the visitor gave up before anybody took it.
const (
	Answered Ending = "answered"
	Missed   Ending = "missed"
)

// Intro is what the visitor tells about themselves when the chat starts.
type Intro struct {
	Name      string `json:"name,omitempty"`
	Email     string `json:"email,omitempty"`
	PageURL   string `json:"pageUrl,omitempty"`
	PageTitle string `json:"pageTitle,omitempty"`
}

// Event is one entry of a chat's log. Which fields are set depends on Kind.
type Event struct {
	Number   int64     `json:"number"` // 1, 2, 3 … without gaps
	Kind     Kind      `json:"kind"`
	At       time.Time `json:"at"` // never before the event in front of it
	By       Party     `json:"by"`
	ClientID string    `json:"clientId,omitempty"` // made by the sender, so that sending again changes nothing
	Text     string    `json:"text,omitempty"`     // Said
	UpTo     int64     `json:"upTo,omitempty"`     // Delivered, Seen: number of the last event covered
	Ending   Ending    `json:"ending,omitempty"`   // Ended
	Intro    *Intro    `json:"intro,omitempty"`    // Started
}
