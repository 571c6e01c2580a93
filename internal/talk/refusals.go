package talk

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"stoop/internal/problem"
)

// ErrNoFiles: visitors of this widget may not send files.
var ErrNoFiles = problem.New(http.StatusForbidden, "no-files", "Files cannot be sent here", "Describe it in a message instead.")

// ErrTooManyFiles: a visitor, or their network, has sent as much as they may for
// now.
var ErrTooManyFiles = problem.New(http.StatusTooManyRequests, "too-many-files", "Too many files", "Send the rest in an hour, or describe them in a message.")

// errNotOnSite: the chat does not stand at this address, so it would be lost there.
var errNotOnSite = problem.New(http.StatusUnprocessableEntity, "not-on-site", "This page is not on a site of this chat", "Only pages that carry the chat can be shown. Send it as a link in a message instead.")

// ClosedError is the answer to a visitor who begins a chat while nobody can
// take it: they may leave a message.
type ClosedError struct {
	OpensAt *time.Time
}

func (e *ClosedError) Error() string { return "the team is closed" }

// Problem implements problem.Teller.
func (e *ClosedError) Problem() *problem.Problem {
	p := problem.New(http.StatusConflict, "closed", "Nobody can answer right now", "Leave a message and we will reply as soon as somebody is back.")
	p.OpensAt = e.OpensAt
	return p
}

// OverCapacityError asks an operator who takes a chat by hand whether they mean
// it: it is more than they should hold.
type OverCapacityError struct {
	Load, Capacity int
}

func (e *OverCapacityError) Error() string {
	return fmt.Sprintf("you hold %d of %d chats", e.Load, e.Capacity)
}

// Problem implements problem.Teller.
func (e *OverCapacityError) Problem() *problem.Problem {
	p := problem.New(http.StatusConflict, "over-capacity", "You have reached your limit of chats", "Take it anyway, or leave it to a colleague.")
	p.Load, p.Capacity = e.Load, e.Capacity
	return p
}

// AwayError: who is to get a chat wants none now, or is not there.
type AwayError struct{ Name string }

func (e *AwayError) Error() string { return e.Name + " is away" }

// Problem implements problem.Teller.
func (e *AwayError) Problem() *problem.Problem {
	p := problem.New(http.StatusConflict, "not-there", e.Error(), "Choose somebody else, or a department.")
	p.Names = []string{e.Name}
	return p
}

// UnfilledError: words still hold placeholders of a canned response.
type UnfilledError struct{ Names []string }

func (e *UnfilledError) Error() string {
	return "placeholders without a value: " + strings.Join(e.Names, ", ")
}

// Problem implements problem.Teller.
func (e *UnfilledError) Problem() *problem.Problem {
	p := problem.New(http.StatusUnprocessableEntity, "unfilled", "A placeholder has no value", "Fill it in or remove it: {"+strings.Join(e.Names, "}, {")+"}.")
	p.Names = e.Names
	return p
}
