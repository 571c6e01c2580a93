// Package ticket holds the rules of what remains to be done after a chat: its log, what that
// adds up to, who owes the next word, and when it is due.
//
// As with a chat, everything that happens is an [Event] in one numbered log, and [State] is what
// the log adds up to. The package does no I/O and reads no clock.
package ticket

import (
	"slices"
	"time"

	"stoop/core/chat"
)

// Status says who has the next word.
type Status string

// The statuses of a ticket.
const (
	Open        Status = "open"     // nobody of the team has answered yet
	ForCustomer Status = "customer" // the team wrote last: the customer is waited for
	ForUs       Status = "us"       // the customer wrote last: the team is waited for
	Done        Status = "done"
)

// Statuses are all of them, in their usual order.
var Statuses = []Status{Open, ForUs, ForCustomer, Done}

// Priority is how soon somebody has to see to a ticket.
type Priority string

// The priorities of a ticket.
const (
	Low    Priority = "low"
	Normal Priority = "normal"
	High   Priority = "high"
	Urgent Priority = "urgent"
)

// Priorities are all of them, in rising order.
var Priorities = []Priority{Low, Normal, High, Urgent}

// Kind says what happened.
type Kind string

// The kinds of event that a ticket's log can hold.
const (
	Opened   Kind = "opened"   // always number 1
	Said     Kind = "said"     // words from either side; what the team says goes to the customer
	Noted    Kind = "noted"    // words that only the team sees
	Changed  Kind = "changed"  // what stands on the ticket: Change
	Linked   Kind = "linked"   // a chat belongs to it
	Unlinked Kind = "unlinked" // that was a mistake
	Merged   Kind = "merged"   // it goes on in ticket Other, and here no more
	Absorbed Kind = "absorbed" // ticket Other goes on in this one

	Called    Kind = "called"     // somebody called the customer who wants a call: Call says how it went
	CalledOff Kind = "called-off" // the customer wants no call any more
)

// The ways in which words come.
const (
	ByMail  = "mail"
	ByPanel = "panel" // the visitor's side of the chat
)

// Change is what somebody changes of what stands on a ticket. What is nil stays as it is.
type Change struct {
	Title      *string           `json:"title,omitempty"`
	Status     *Status           `json:"status,omitempty" enum:"open,us,customer,done"`
	Owner      *string           `json:"owner,omitempty"` // id; empty: nobody
	Department *string           `json:"department,omitempty"`
	Priority   *Priority         `json:"priority,omitempty" enum:"low,normal,high,urgent"`
	Due        *time.Time        `json:"due,omitempty"`     // chosen by hand
	AutoDue    bool              `json:"autoDue,omitempty"` // the one that was chosen is not meant any more
	Tags       *[]string         `json:"tags,omitempty"`
	AddTags    []string          `json:"addTags,omitempty" maxItems:"50"`    // to those that are there by then; in a log they are Tags
	RemoveTags []string          `json:"removeTags,omitempty" maxItems:"50"` // likewise
	Fields     map[string]string `json:"fields,omitempty"`                   // those that change; an empty value takes one away
	Name       *string           `json:"name,omitempty"`
	Email      *string           `json:"email,omitempty"`
}

// Other is another ticket.
type Other struct {
	ID     string `json:"id"`
	Number int64  `json:"number"`
	Waits  bool   `json:"waits,omitempty"` // Absorbed: its customer waits for the team
}

// Call is a call that a customer wants.
type Call struct {
	Phone string    `json:"phone"`          // E.164, such as +4532123456
	At    time.Time `json:"at"`             // when they want it
	Soon  bool      `json:"soon,omitempty"` // from then on as soon as possible
	Tries int       `json:"tries,omitempty"`
}

// CallMade is how a call went.
type CallMade struct {
	Reached bool       `json:"reached"`
	Again   *time.Time `json:"again,omitempty"` // where they were not: when it is tried again
}

// Opening is what a ticket starts with.
type Opening struct {
	Title      string
	Department string
	Owner      string // id; empty: nobody
	Priority   Priority
	Tags       []string
	Name       string // of the customer
	Email      string
	Visitor    string // id of the customer's browser; empty: none is known
	Widget     string // id of the widget by which they came
	Language   string // that they speak, BCP 47
	Chat       string // id of the chat from which it is made; empty: none
	Message    int64  // number of the message from which it is made; 0: the chat as a whole

	Call *Call      `json:",omitempty"` // the customer wants to be called
	Due  *time.Time `json:",omitempty"` // chosen; nil: by its priority
}

// Event is one entry of a ticket's log. Which fields are set depends on Kind.
type Event struct {
	Number   int64      `json:"number"` // 1, 2, 3 … without gaps
	Kind     Kind       `json:"kind"`
	At       time.Time  `json:"at"` // never before the event in front of it
	By       chat.Party `json:"by"`
	ClientID string     `json:"clientId,omitempty"` // made by the sender, so that sending again changes nothing
	Text     string     `json:"text,omitempty"`
	Via      string     `json:"via,omitempty"`  // Said by the customer: how it came
	From     string     `json:"from,omitempty"` // Said by mail: the address from which it came
	Opening  *Opening   `json:"opening,omitempty"`
	Change   *Change    `json:"change,omitempty"`
	Chat     string     `json:"chat,omitempty"`
	Other    *Other     `json:"other,omitempty"`
	Call     *CallMade  `json:"call,omitempty"`
	Due      *time.Time `json:"due,omitempty"`    // from here on; nil: it is due at no time
	InTime   *bool      `json:"inTime,omitempty"` // Said by the team to a customer who waited: before it was due
}

// State is what a ticket's log adds up to.
type State struct {
	Number     int64             `json:"number"` // of the last event
	Last       time.Time         `json:"last"`   // its time
	Title      string            `json:"title"`
	Status     Status            `json:"status"`
	Department string            `json:"department"`
	Owner      string            `json:"owner,omitempty"`
	Priority   Priority          `json:"priority"`
	Due        *time.Time        `json:"due,omitempty"`
	Chosen     *time.Time        `json:"chosen,omitempty"` // a due time that somebody chose
	Tags       []string          `json:"tags,omitempty"`
	Fields     map[string]string `json:"fields,omitempty"`
	Name       string            `json:"name,omitempty"`
	Email      string            `json:"email,omitempty"`
	Visitor    string            `json:"visitor,omitempty"`
	Widget     string            `json:"widget,omitempty"`
	Language   string            `json:"language,omitempty"`
	Chats      []string          `json:"chats,omitempty"`    // ids, as they were linked
	Absorbed   []string          `json:"absorbed,omitempty"` // ids of tickets that go on in this one
	MergedInto *Other            `json:"mergedInto,omitempty"`
	Call       *Call             `json:"call,omitempty"`

	OpenedBy      chat.Party `json:"openedBy"`
	OpenedAt      time.Time  `json:"openedAt"`
	FirstAnswerAt *time.Time `json:"firstAnswerAt,omitempty"`
	DoneAt        *time.Time `json:"doneAt,omitempty"`
	Since         time.Time  `json:"since"` // since when the team is waited for, while it is
}

// Waits reports whether the team has the next word.
func (s State) Waits() bool { return s.Status == Open || s.Status == ForUs }

// Fold returns what a log adds up to.
func Fold(log []Event) State {
	var s State
	for _, e := range log {
		s = s.Apply(e)
	}
	return s
}

// Apply moves a state on by an event that the acts of this package made.
func (s State) Apply(e Event) State {
	s.Number, s.Last = e.Number, e.At
	switch e.Kind {
	case Opened:
		o := e.Opening
		s.Title, s.Status, s.Department, s.Owner, s.Priority = o.Title, Open, o.Department, o.Owner, o.Priority
		s.Tags, s.Name, s.Email, s.Visitor, s.Widget, s.Language = slices.Clone(o.Tags), o.Name, o.Email, o.Visitor, o.Widget, o.Language
		s.OpenedBy, s.OpenedAt, s.Since = e.By, e.At, e.At
		s.Call, s.Chosen = o.Call, o.Due
		if o.Chat != "" {
			s.Chats = []string{o.Chat}
		}
	case Said:
		s = s.said(e)
	case Changed:
		s = s.changed(e)
	case Linked:
		s.Chats = append(slices.Clone(s.Chats), e.Chat)
	case Unlinked:
		s.Chats = slices.DeleteFunc(slices.Clone(s.Chats), func(id string) bool { return id == e.Chat })
	case Called:
		s = s.called(e)
	case CalledOff:
		s = s.to(Done, e.At)
	case Merged:
		s = s.to(Done, e.At)
		s.MergedInto = e.Other
	case Absorbed:
		s.Absorbed = append(slices.Clone(s.Absorbed), e.Other.ID)
		if e.Other.Waits && !s.Waits() {
			s = s.to(ForUs, e.At)
		}
	}
	s.Due = e.Due
	return s
}

func (s State) said(e Event) State {
	if e.By.Side != chat.TeamSide {
		if s.Status == Open {
			return s // nobody has answered yet: it waits since before
		}
		return s.to(ForUs, e.At)
	}
	if s.FirstAnswerAt == nil {
		s.FirstAnswerAt = &e.At
	}
	if s.Chosen != nil && !s.Chosen.After(e.At) {
		s.Chosen = nil // it was for this answer
	}
	return s.to(ForCustomer, e.At)
}

func (s State) called(e Event) State {
	if s.Call != nil {
		c := *s.Call
		c.Tries++
		s.Call = &c
	}
	if !e.Call.Reached {
		s.Chosen = e.Call.Again
		return s.to(ForUs, e.At)
	}
	if s.FirstAnswerAt == nil {
		s.FirstAnswerAt = &e.At
	}
	return s.to(Done, e.At)
}

// to sets who has the next word. Who waits already goes on waiting since then.
func (s State) to(status Status, at time.Time) State {
	was := s.Waits()
	s.Status = status
	if s.Waits() && !was {
		s.Since = at
	}
	switch {
	case status == Done && s.DoneAt == nil:
		s.DoneAt, s.Chosen = &at, nil
	case status != Done:
		s.DoneAt = nil
	}
	return s
}

func (s State) changed(e Event) State {
	c := e.Change
	set(&s.Title, c.Title)
	set(&s.Owner, c.Owner)
	set(&s.Department, c.Department)
	set(&s.Priority, c.Priority)
	set(&s.Name, c.Name)
	set(&s.Email, c.Email)
	if c.AutoDue {
		s.Chosen = nil
	}
	if c.Due != nil {
		s.Chosen = c.Due
	}
	if c.Tags != nil {
		s.Tags = slices.Clone(*c.Tags)
	}
	if len(c.Fields) > 0 {
		fields := map[string]string{}
		for name, value := range s.Fields {
			fields[name] = value
		}
		for name, value := range c.Fields {
			if fields[name] = value; value == "" {
				delete(fields, name)
			}
		}
		s.Fields = fields
	}
	if c.Status != nil {
		s = s.to(*c.Status, e.At)
	}
	return s
}

func set[T any](to *T, value *T) {
	if value != nil {
		*to = *value
	}
}
