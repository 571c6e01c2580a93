// Package outside is the room of the system outside: the one in which a company keeps
// its customers, orders and goods. Stoop reads a customer's record there, looks up what
// can be sold or was booked, and adds a customer; it keeps none of that itself, but for
// what a chat shows.
package outside

import (
	"context"
	"errors"
	"net/http"

	"stoop/core/chat"
	"stoop/internal/problem"
)

// Record is what the system outside knows of a customer.
type Record struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Link   string        `json:"link,omitempty" doc:"Where the whole record is read"`
	Fields []RecordField `json:"fields"`
}

// RecordField is one thing that a record says.
type RecordField struct {
	Name  string `json:"name" doc:"Stable, for programs"`
	Label string `json:"label"`
	Value string `json:"value"`
}

// Person is somebody who is to be added as a customer.
type Person struct {
	Name  string `json:"name"`
	Email string `json:"email"`
	Phone string `json:"phone,omitempty"`
}

// System is the system outside. What it does not know is ErrUnknown. Methods are safe
// for concurrent use.
type System interface {
	// Record returns the record of the customer with an email.
	Record(ctx context.Context, email string) (Record, error)
	// AddRecord makes a record, or returns that which there is for the email.
	AddRecord(ctx context.Context, p Person) (Record, error)
	// Cards returns what fits some words, the best first.
	Cards(ctx context.Context, words string) ([]chat.Card, error)
	// Card returns one thing as it is now.
	Card(ctx context.Context, kind, id string) (chat.Card, error)
	// Lookup returns the booking with a number, if it is in that name.
	Lookup(ctx context.Context, number, name string) (chat.Card, error)
}

// ErrUnknown: the system outside has nothing of that kind.
var ErrUnknown = errors.New("not known to the system outside")

// ErrRefused: the system outside does not take what it was given.
var ErrRefused = errors.New("refused by the system outside")

// Refusals of this room.
var (
	errNone        = problem.New(http.StatusNotFound, "no-outside-system", "No booking system is connected", "An admin can connect one when Stoop is set up.")
	errUnreachable = func() error {
		p := problem.New(http.StatusBadGateway, "outside-unreachable", "The booking system cannot be reached", "Everything else works. Try again in a moment.")
		p.Retry = true
		return p
	}()
	errRefused  = problem.New(http.StatusUnprocessableEntity, "record-refused", "The booking system did not take this", "Look at name, email and phone of the contact, then try again.")
	errNoEmail  = problem.New(http.StatusUnprocessableEntity, "no-email", "There is no email to look for", "Ask for it and add it to the contact.")
	errNotThere = problem.New(http.StatusNotFound, "no-card", "The booking system does not have this any more", "Search again.")
	errTooOften = problem.New(http.StatusTooManyRequests, "too-many-lookups", "Too many lookups", "Try again later, or ask us: we will find it.")
	errNoSuch   = problem.New(http.StatusNotFound, "no-booking", "There is no booking with this number and name", "Check both; they are in the confirmation that you got.")
)
