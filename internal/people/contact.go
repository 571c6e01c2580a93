package people

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/contact"
	"stoop/core/form"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// ContactChangedError: a colleague changed the contact meanwhile.
type ContactChangedError struct{ Now view.ContactView }

func (e *ContactChangedError) Error() string { return "a colleague changed this contact meanwhile" }

// Problem implements problem.Teller.
func (e *ContactChangedError) Problem() *problem.Problem {
	p := problem.New(http.StatusConflict, "contact-changed", "A colleague changed this contact in the meantime", "Their version is shown beside yours. Choose which to keep.")
	p.Contact = &e.Now
	return p
}

// contactOf returns the contact behind a chat; one that is not stored yet is
// made of what the visitor told, with version 0.
func (room *Room) contactOf(ctx context.Context, c chatlog.Chat) (register.Contact, error) {
	contact, err := room.Register.ContactOf(ctx, c.VisitorID)
	if errors.Is(err, store.ErrNotFound) && c.Email != "" {
		contact, err = room.Register.Contact(ctx, c.Email)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return contact, err
	}
	contact = register.Contact{Name: c.Name, Phone: c.Phone}
	if c.Email != "" {
		contact.Email = &c.Email
	}
	return contact, nil
}

// claimed marks a contact that was found by an email which the visitor gave.
// Nothing of it is copied to the visitor.
func claimed(v view.ContactView, visitor register.Visitor, c chatlog.Chat) view.ContactView {
	given := cmp.Or(c.Email, visitor.Email)
	v.Claimed = v.Version > 0 && visitor.ContactID == nil && given != "" && strings.EqualFold(v.Email, given)
	return v
}

// SaveContact changes the contact behind a chat, or makes it, and tells the team
// by what name the visitor goes now. When a colleague changed it meanwhile, the
// error is a *ContactChangedError with what it is now.
func (room *Room) SaveContact(ctx context.Context, o access.Actor, chatID string, in view.ContactView) (view.ContactView, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return in, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return in, err
	}
	before, err := room.contactOf(ctx, c)
	if err != nil {
		return in, err
	}
	if before.ID != in.ID || before.Version != in.Version {
		return in, &ContactChangedError{Now: view.Contact(before)}
	}
	after, wrong := edited(o, before, in, s)
	if err := form.Refuse(wrong); err != nil {
		return in, err
	}
	if after.ID == "" {
		after.ID, after.CreatedAt = uuid.NewString(), room.Now()
	}
	after, err = room.Register.SaveContact(ctx, after)
	switch {
	case errors.Is(err, store.ErrNameTaken):
		return in, form.Refuse([]form.Wrong{{Field: "email", Words: "Another contact has this email."}})
	case errors.Is(err, store.ErrChanged):
		if before, err = room.contactOf(ctx, c); err == nil {
			err = &ContactChangedError{Now: view.Contact(before)}
		}
		return in, err
	case err != nil:
		return in, err
	}
	if err := room.Register.LinkContact(ctx, c.VisitorID, after.ID); err != nil {
		return in, err
	}
	saved := view.Contact(after)
	if saved.Name != c.Name || saved.Email != c.Email || saved.Phone != c.Phone {
		// The team's log says who it is. The visitor's own browser is not told: an
		// email that somebody gave proves nothing of who they are.
		intro := chat.Intro{Name: saved.Name, Email: saved.Email, Phone: saved.Phone}
		_, err = room.Talk.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
			e, err := s.Name(chat.Operator(o.ID), intro, room.Now())
			return []chat.Event{e}, err
		})
	}
	return saved, err
}

// edited returns a contact with what somebody typed, and what is wrong with that.
func edited(o access.Actor, c register.Contact, in view.ContactView, s *settings.Settings) (register.Contact, []form.Wrong) {
	clean, wrong := contact.Clean(contact.Person{Name: in.Name, Email: in.Email, Phone: in.Phone, Company: in.Company, Fields: in.Fields})
	wrong = append(wrong, contact.CheckFields(contactFields(s), c.Fields, clean.Fields)...)
	if in.OwnerID != nil { // a page that knows nothing of owners changes none
		if words := wrongOwner(o, c, *in.OwnerID, s); words != "" {
			wrong = append(wrong, form.Wrong{Field: "ownerId", Words: words})
		}
		if c.AccountOwnerID = in.OwnerID; *in.OwnerID == "" {
			c.AccountOwnerID = nil
		}
	}
	c.Name, c.Phone, c.Company, c.Email = clean.Name, clean.Phone, clean.Company, nil
	if clean.Email != "" {
		c.Email = &clean.Email
	}
	kept := map[string]string{}
	for name, value := range c.Fields {
		kept[name] = value // also of fields that are not in use now
	}
	for _, f := range s.Desk.ContactFields {
		if value, given := clean.Fields[f.Name]; given {
			kept[f.Name] = value
		}
	}
	c.Fields = kept
	return c, wrong
}

// wrongOwner returns why somebody cannot make an operator the one who looks after a
// contact: chats go to whom rules send account owners', so it is for leads to say.
func wrongOwner(o access.Actor, c register.Contact, ownerID string, s *settings.Settings) string {
	before := ""
	if c.AccountOwnerID != nil {
		before = *c.AccountOwnerID
	}
	if ownerID == before {
		return ""
	}
	if !o.Leads() {
		return "Only leads can change who looks after a contact."
	}
	if _, there := s.Operators[ownerID]; ownerID != "" && !there {
		return "This operator is no longer in the team. Choose another one."
	}
	return ""
}
