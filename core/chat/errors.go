package chat

import (
	"errors"
	"fmt"
	"time"
)

// The reasons for which an act is refused.
var (
	// ErrEnded: the chat is over; nothing more can be said or done in it.
	ErrEnded = errors.New("the chat has ended")
	// ErrNotYours: the party does not belong to this chat.
	ErrNotYours = errors.New("the chat belongs to somebody else")
	// ErrNotTaken: an operator must take the chat first.
	ErrNotTaken = errors.New("nobody has taken the chat yet")
	// ErrEmpty: there is nothing to say in the words given.
	ErrEmpty = errors.New("the message is empty")
	// ErrBeyondLog: a receipt names an event that does not exist.
	ErrBeyondLog = errors.New("the receipt is for an event that does not exist")
	// ErrNotStarted: the log does not begin with Started.
	ErrNotStarted = errors.New("the chat has not started")
	// ErrBadEvent: an event cannot follow the log it was applied to.
	ErrBadEvent = errors.New("the event cannot follow this log")
)

// TakenError is returned to an operator who takes a chat that a colleague has.
type TakenError struct {
	By string // the owner's operator id
	At time.Time
}

func (e *TakenError) Error() string { return "the chat was taken by operator " + e.By }

// TooLongError is returned for words over the limit; both counts are in
// Unicode code points.
type TooLongError struct {
	Length, Limit int
}

func (e *TooLongError) Error() string {
	return fmt.Sprintf("the message has %d characters; the limit is %d", e.Length, e.Limit)
}
