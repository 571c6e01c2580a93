package push

import (
	"slices"
	"time"
)

// When somebody is told, and for how long they keep what they have.
const (
	// Patience is how long a chat waits before who is not here is told: somebody who is may
	// take it first.
	Patience = 5 * time.Second
	// Pause is the least time between two messages that chats wait, to one person: what
	// comes within it is told together.
	Pause = 15 * time.Second
	// Comes is within what who is told that a chat waits is here; who is not does not come,
	// and is not counted on any more.
	Comes = 2 * time.Minute
	// Grace is how long who can be pushed keeps their chats without a connection: a phone
	// loses it as soon as its screen is dark, and they come back when they are told.
	Grace = 3 * time.Minute
)

// Person is somebody of the team who can be pushed.
type Person struct {
	Available   bool // by their own word
	Here        bool // has a connection: what is open tells them
	Departments []string
}

// Waiting is a chat that looks for somebody.
type Waiting struct {
	Chat        string
	Departments []string // in whose line it stands
	Since       time.Time
	Offered     bool // somebody is being asked
}

// Wanted returns the chats of which a person is to be told at a time: who is here sees them,
// who is away does not want to know.
func (p Person) Wanted(all []Waiting, now time.Time) []Waiting {
	if p.Here || !p.Available {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(all), func(w Waiting) bool {
		return w.Offered || now.Sub(w.Since) < Patience || !slices.ContainsFunc(w.Departments, func(d string) bool { return slices.Contains(p.Departments, d) })
	})
}
