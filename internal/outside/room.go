package outside

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/buckets"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
)

// People is who is behind a chat.
type People interface {
	// CustomerOf returns who is behind a chat that somebody of the team may read.
	CustomerOf(ctx context.Context, o access.Actor, chatID string) (register.Customer, error)
	// CustomerWith returns a contact.
	CustomerWith(ctx context.Context, o access.Actor, contactID string) (register.Customer, error)
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
}

// Room is where the system outside is asked. Its methods are safe for concurrent use.
type Room struct {
	System   System // may be nil: there is none
	Settings *settings.Cache
	Register register.Tables
	People   People
	Log      *slog.Logger

	askers   buckets.Buckets
	learning sync.WaitGroup
	slots    chan struct{}
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.askers, room.slots = buckets.New(askersKept), make(chan struct{}, learnedAtOnce)
}

// learnedAtOnce bounds how many records are read for visitors at once.
const learnedAtOnce = 8

// Learn reads the record of a contact whose email is vouched for or proven, in the
// background, so that routing knows it when they write. Nobody waits for it.
func (room *Room) Learn(contactID, email string) {
	if room.System == nil || email == "" {
		return
	}
	select {
	case room.slots <- struct{}{}:
	default:
		return // when somebody looks at the contact, it is read
	}
	room.learning.Go(func() {
		defer func() { <-room.slots }()
		ctx, cancel := context.WithTimeout(context.Background(), 2*Deadline)
		defer cancel()
		r, err := room.System.Record(ctx, email)
		if err == nil {
			err = room.keep(ctx, contactID, r)
		}
		if err != nil && !hasNot(err) && !errors.Is(err, errUnreachable) { // that was told once
			room.Log.Warn("a record could not be read ahead; it is read when it is looked at", "contact", contactID, "error", err)
		}
	})
}

// Close waits for what is being read.
func (room *Room) Close() { room.learning.Wait() }

// keep puts down what a record says with its contact, for routing and for times at
// which the system cannot be reached.
func (room *Room) keep(ctx context.Context, contactID string, r Record) error {
	said := map[string]string{}
	for _, f := range r.Fields {
		said[f.Name] = f.Value
	}
	return room.Register.SetOutside(ctx, contactID, said)
}

// The states in which a record can be.
const (
	RecordKnown   = "known"
	RecordUnknown = "unknown"
	RecordNoEmail = "no-email"
	RecordNone    = "none" // no system is connected
	RecordAway    = "away" // it cannot be reached
)

// RecordView is what the system outside says of somebody, as operators see it.
type RecordView struct {
	State   string        `json:"state" enum:"known,unknown,no-email,none,away" doc:"away: it cannot be reached now; none: no system is connected"`
	Claimed bool          `json:"claimed,omitempty" doc:"Found by an email that is not verified"`
	Name    string        `json:"name,omitempty"`
	Link    string        `json:"link,omitempty" doc:"Where the whole record is read"`
	Fields  []RecordField `json:"fields" doc:"Those that the admin chose, in their order"`
}

// RecordOf returns the record of the person behind a chat.
func (room *Room) RecordOf(ctx context.Context, o access.Actor, chatID string) (RecordView, error) {
	p, err := room.People.CustomerOf(ctx, o, chatID)
	if err != nil {
		return RecordView{}, err
	}
	return room.record(ctx, p)
}

// RecordWith returns the record of a contact.
func (room *Room) RecordWith(ctx context.Context, o access.Actor, contactID string) (RecordView, error) {
	p, err := room.People.CustomerWith(ctx, o, contactID)
	if err != nil {
		return RecordView{}, err
	}
	return room.record(ctx, p)
}

func (room *Room) record(ctx context.Context, p register.Customer) (RecordView, error) {
	v := RecordView{Claimed: p.Claimed, Fields: []RecordField{}}
	switch {
	case room.System == nil:
		v.State = RecordNone
		return v, nil
	case p.Email == "":
		v.State = RecordNoEmail
		return v, nil
	}
	r, err := room.System.Record(ctx, p.Email)
	switch {
	case hasNot(err):
		v.State = RecordUnknown
		return v, nil
	case errors.Is(err, errUnreachable):
		v.State = RecordAway
		return v, nil
	case err != nil:
		return v, err
	}
	return room.shown(ctx, p, r, v)
}

func (room *Room) shown(ctx context.Context, p register.Customer, r Record, v RecordView) (RecordView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return v, err
	}
	v.State, v.Name, v.Link, v.Fields = RecordKnown, r.Name, r.Link, chosen(r.Fields, s.SiteData.Record)
	if p.ContactID != "" && !p.Claimed {
		err = room.keep(ctx, p.ContactID, r)
	}
	return v, err
}

// chosen returns the fields that an admin chose, in their order and by their labels;
// all of them as long as none is chosen.
func chosen(fields []RecordField, of []settings.SiteField) []RecordField {
	if len(of) == 0 {
		return fields
	}
	out := []RecordField{}
	for _, c := range of {
		for _, f := range fields {
			if f.Name == c.Name {
				out = append(out, RecordField{Name: f.Name, Label: c.Label, Value: f.Value})
			}
		}
	}
	return out
}

// AddRecord adds the person behind a chat as a customer.
func (room *Room) AddRecord(ctx context.Context, o access.Actor, chatID string) (RecordView, error) {
	p, err := room.People.CustomerOf(ctx, o, chatID)
	switch {
	case err != nil:
		return RecordView{}, err
	case room.System == nil:
		return RecordView{}, errNone
	case p.Email == "" || !form.ValidEmail(p.Email):
		return RecordView{}, errNoEmail
	}
	r, err := room.System.AddRecord(ctx, Person{Name: p.Name, Email: p.Email, Phone: p.Phone})
	if errors.Is(err, ErrRefused) {
		return RecordView{}, errRefused
	}
	if err != nil {
		return RecordView{}, err
	}
	return room.shown(ctx, p, r, RecordView{Claimed: p.Claimed})
}

// hasNot reports whether the system outside has nothing of what was asked for, or does
// not take the question.
func hasNot(err error) bool { return errors.Is(err, ErrUnknown) || errors.Is(err, ErrRefused) }

// cardWordsMost bounds what can be searched for, in code points.
const cardWordsMost = 100

// Cards returns what fits some words.
func (room *Room) Cards(ctx context.Context, words string) ([]chat.Card, error) {
	if room.System == nil {
		return nil, errNone
	}
	cards, err := room.System.Cards(ctx, chat.CleanLine(words, cardWordsMost))
	if hasNot(err) {
		return []chat.Card{}, nil
	}
	return cards, err
}

// Card returns one thing as it is now.
func (room *Room) Card(ctx context.Context, kind, id string) (chat.Card, error) {
	if room.System == nil {
		return chat.Card{}, errNone
	}
	c, err := room.System.Card(ctx, kind, id)
	if hasNot(err) {
		return c, errNotThere
	}
	return c, err
}

// How often somebody may look for a booking: who guesses numbers gets nowhere.
const (
	askersKept    = 20_000
	looksAtOnce   = 6
	looksPerHour  = 20
	networkFactor = 5
)

// Lookup returns somebody's own booking by its number and the name that it is in.
func (room *Room) Lookup(ctx context.Context, visitorID, address, number, name string) (chat.Card, error) {
	if room.System == nil {
		return chat.Card{}, errNone
	}
	number, name = chat.CleanLine(number, 40), chat.CleanLine(name, chat.NameLimit)
	if number == "" || name == "" {
		return chat.Card{}, errNoSuch
	}
	if !room.mayLook("visitor "+visitorID, 1) || address != "" && !room.mayLook("network "+address, networkFactor) {
		return chat.Card{}, errTooOften
	}
	c, err := room.System.Lookup(ctx, number, name)
	if hasNot(err) {
		return c, errNoSuch
	}
	return c, err
}

func (room *Room) mayLook(who string, factor int) bool {
	return room.askers.Of(who, rate.Every(time.Hour/time.Duration(looksPerHour*factor)), looksAtOnce*factor).Allow()
}
