package app

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/mileusna/useragent"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/store"
)

// arrival is what is known of a chat when it is routed.
type arrival struct {
	widget     store.Widget
	visitor    store.Visitor
	intro      chat.Intro
	department string // chosen in the form
}

// facts gathers what rules may ask for.
func (a *App) facts(ctx context.Context, in arrival) (routing.Facts, store.Contact, error) {
	f := routing.Facts{
		PageURL: in.intro.PageURL, PageTitle: in.intro.PageTitle, Widget: in.widget.Key, Hour: a.now().In(a.zone).Hour(),
		Form: in.intro.Answers, Department: in.department,
		Contact: map[string]string{"name": in.intro.Name, "email": in.intro.Email, "phone": in.intro.Phone},
	}
	visit, visits, err := a.store.VisitsOf(ctx, in.visitor.ID)
	if err != nil {
		return f, store.Contact{}, err
	}
	f.Visits, f.Referrer, f.Language, f.Device = visits, visit.Referrer, visit.Language, device(visit.UserAgent)
	if f.LastOperator, err = a.store.LastOperator(ctx, in.visitor.ID); err != nil {
		return f, store.Contact{}, err
	}
	email := in.intro.Email
	if email == "" {
		email = in.visitor.Email
	}
	contact, err := a.store.Contact(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		return f, contact, nil
	}
	f.Outside = contact.Outside
	f.Basket, _ = strconv.ParseFloat(contact.Outside["basket"], 64) // no basket is an empty one
	return f, contact, err
}

// device names the kind of a browser's device, or nothing when it is unknown.
func device(agent string) string {
	switch ua := useragent.Parse(agent); {
	case ua.Bot:
		return "bot"
	case ua.Tablet:
		return "tablet"
	case ua.Mobile:
		return "phone"
	case ua.Desktop:
		return "desktop"
	}
	return ""
}

// decide returns where a chat goes.
func (a *App) decide(ctx context.Context, in arrival) (routing.Decision, routing.Facts, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return routing.Decision{}, routing.Facts{}, err
	}
	f, contact, err := a.facts(ctx, in)
	if err != nil {
		return routing.Decision{}, f, err
	}
	return s.rules.Decide(f, s.places(in.widget, contact)), f, nil
}

// places returns what rules may point at for a chat of a widget.
func (s *setup) places(w store.Widget, c store.Contact) routing.Places {
	p := routing.Places{Departments: map[string]string{}, Operators: map[string]string{}, Default: s.deflt}
	for _, d := range s.inUse {
		p.Departments[d.ID] = d.Name
	}
	for _, o := range s.operators {
		if o.Active {
			p.Operators[o.ID] = o.Name
		}
	}
	if c.AccountOwnerID != nil {
		p.AccountOwner = *c.AccountOwnerID
	}
	own := s.departmentsOf(w)
	if len(w.Departments) > 0 && len(own) > 0 && !contains(own, p.Default) {
		p.Default = own[0]
	}
	return p
}

func contains(list []string, one string) bool {
	for _, s := range list {
		if s == one {
			return true
		}
	}
	return false
}

// ClosedError is the answer to a visitor who begins a chat while nobody can
// take it: they may leave a message.
type ClosedError struct {
	OpensAt *time.Time
}

func (e *ClosedError) Error() string { return "the team is closed" }

// BadFieldsError tells what is wrong with a form, field by field.
type BadFieldsError struct {
	Wrong []form.Wrong
}

func (e *BadFieldsError) Error() string {
	words := make([]string, len(e.Wrong))
	for i, w := range e.Wrong {
		words[i] = w.Field + ": " + w.Words
	}
	return strings.Join(words, " ")
}

// refuse returns a *BadFieldsError if anything is wrong.
func refuse(wrong []form.Wrong) error {
	if len(wrong) == 0 {
		return nil
	}
	return &BadFieldsError{Wrong: wrong}
}
