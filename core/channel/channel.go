// Package channel holds the rules of the ways by which visitors and the team write to each other
// beside the site: what each can carry, how long a text message is as it is sent, and the words
// by which people stop text messages. It does no I/O.
package channel

// Kind is a way by which words go.
type Kind string

// The kinds. Site is the chat on the site itself.
const (
	Site  Kind = "site"
	Text  Kind = "text"  // text messages to and from a telephone number
	Email Kind = "email" // mail to and from an address
)

// Limits are what a way can carry.
type Limits struct {
	Parts     int  // of one message, at the most; 0: any
	Files     bool // go along
	Addressed bool // the other side has an address, and need not be on the site
}

// MostParts is how many parts a text message of ours may have: a reader's telephone puts that many
// together, and each is paid for.
const MostParts = 10

// LimitsOf returns what a way can carry.
func LimitsOf(k Kind) Limits {
	switch k {
	case Text:
		return Limits{Parts: MostParts, Addressed: true}
	case Email:
		return Limits{Files: true, Addressed: true}
	}
	return Limits{Files: true}
}

// Known reports whether there is such a way.
func Known(k Kind) bool { return k == Site || k == Text || k == Email }
