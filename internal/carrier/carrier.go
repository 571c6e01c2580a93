// Package carrier brings words from and to where people are, beside the site: by text message, by
// mail, or by whatever else implements Carrier.
package carrier

import (
	"context"
	"strings"
	"time"

	"stoop/core/chat"
)

// Words are what is to be brought to somebody.
type Words struct {
	ID   string // handing it over again under the same id is the same message; what became of it is told by it
	From string // the team's number or address; empty: the usual one
	To   string
	Text string // what is said, where that is all of it

	ChatID string // the chat from which it is, if it is
	Number int64  // of the event that says it; 0: Text alone
}

// Carrier brings words to somebody. Its methods are safe for concurrent use.
type Carrier interface {
	// Carry hands words over. After a *RefusedError it is no use to try again; after any other
	// error it is.
	Carry(context.Context, Words) error
}

// RefusedError says why words are brought to nobody.
type RefusedError struct{ Why string }

func (e *RefusedError) Error() string { return e.Why }

// Incoming is something that a visitor wrote from elsewhere than the site.
type Incoming struct {
	ClientID   string // the same is the same words
	Text       string
	Over       chat.Way
	Department string // id of the one to which it was written; empty: as rules say
	Mail       MailHead
}

// Agreed says that somebody may be written to at an address, since when, and how they agreed.
type Agreed struct {
	Address string    `json:"address"`
	Since   time.Time `json:"since"`
	How     string    `json:"how"` // wrote: they wrote there first; code: by a code that the chat showed them
}

// Small returns an address of mail as people are found by it.
func Small(address string) string { return strings.ToLower(strings.TrimSpace(address)) }

// MailHead is what stands above a mail.
type MailHead struct {
	Subject string
	ID      string // the Message-ID, without brackets
}
