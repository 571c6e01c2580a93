package app

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/mileusna/useragent"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// AboutView is what is known of the person behind a chat.
type AboutView struct {
	Contact ContactView       `json:"contact"`
	Fields  []ContactField    `json:"fields" doc:"The team's own fields, in their order"`
	Notes   []ContactNoteView `json:"notes"`
	Earlier []EarlierView     `json:"earlier" doc:"Other chats of the same person, newest first"`
	Tags    []string          `json:"tags" doc:"Tags in use, the most used first"`
	Outside map[string]string `json:"outside,omitempty" doc:"What the outside system says"`

	Browser  string `json:"browser,omitempty"`
	Device   string `json:"device,omitempty"`
	Language string `json:"language,omitempty"`
	Address  string `json:"address,omitempty" doc:"Of the network"`
	Referrer string `json:"referrer,omitempty" doc:"From where they came"`
	Visits   int    `json:"visits"`
}

// ContactView is a contact as it is edited. Version 0: not stored yet.
type ContactView struct {
	ID      string            `json:"id,omitempty"`
	Version int64             `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Name    string            `json:"name"`
	Email   string            `json:"email"`
	Phone   string            `json:"phone"`
	Company string            `json:"company"`
	Claimed bool              `json:"claimed" doc:"Found by an email that the visitor gave and nobody has verified"`
	Fields  map[string]string `json:"fields"`
}

// ContactNoteView is a note about a contact.
type ContactNoteView struct {
	ID   string    `json:"id"`
	By   string    `json:"by"`
	Mine bool      `json:"mine"`
	Text string    `json:"text"`
	At   time.Time `json:"at"`
}

// EarlierView is another chat of the same person.
type EarlierView struct {
	ID        string    `json:"id"`
	StartedAt time.Time `json:"startedAt"`
	Words     string    `json:"words" doc:"Its summary, or else the last words"`
	OwnerName string    `json:"ownerName,omitempty"`
	Outcome   string    `json:"outcome,omitempty"`
	Ending    string    `json:"ending,omitempty"`
	Tags      []string  `json:"tags"`
}

// earlierLimit bounds how many earlier chats are listed.
const earlierLimit = 50

// ContactChangedError: a colleague changed the contact meanwhile.
type ContactChangedError struct{ Now ContactView }

func (e *ContactChangedError) Error() string { return "a colleague changed this contact meanwhile" }

// About returns what is known of the person behind a chat.
func (a *App) About(ctx context.Context, o access.Actor, chatID string) (AboutView, error) {
	c, s, err := a.readable(ctx, o, chatID)
	if err != nil {
		return AboutView{}, err
	}
	contact, err := a.contactOf(ctx, c)
	if err != nil {
		return AboutView{}, err
	}
	visitor, err := a.store.Visitor(ctx, c.VisitorID)
	if err != nil {
		return AboutView{}, err
	}
	v := AboutView{
		Contact: claimed(contactView(contact), visitor, c), Fields: append([]ContactField{}, s.desk.ContactFields...), Outside: contact.Outside,
		Notes: []ContactNoteView{}, Earlier: []EarlierView{},
	}
	if contact.Version > 0 {
		notes, err := a.store.ContactNotes(ctx, contact.ID)
		if err != nil {
			return v, err
		}
		for _, n := range notes {
			v.Notes = append(v.Notes, ContactNoteView{ID: n.ID, By: a.operatorName(n.ByID), Mine: n.ByID == o.ID, Text: n.Text, At: n.CreatedAt})
		}
	}
	earlier, err := a.store.EarlierChats(ctx, c.VisitorID, c.ID, earlierLimit)
	if err != nil {
		return v, err
	}
	for _, e := range earlier {
		view := EarlierView{ID: e.ID, StartedAt: e.StartedAt, Words: or(e.Summary, e.LastWords), Outcome: e.Outcome, Ending: string(e.Ending), Tags: append([]string{}, e.Tags...)}
		if e.OwnerID != nil {
			view.OwnerName = a.operatorName(*e.OwnerID)
		}
		v.Earlier = append(v.Earlier, view)
	}
	if v.Tags, err = a.tagsInUse(ctx); err != nil {
		return v, err
	}
	return v, a.technical(ctx, c, &v)
}

// tags are those in use, and when they were counted.
type tags struct {
	list []string
	at   time.Time
}

// tagsFor is how long they are remembered when this server puts none on: half a
// year of chats is counted for them, and they are asked for at each turn to
// another lane.
const tagsFor = time.Minute

func (a *App) tagsInUse(ctx context.Context) ([]string, error) {
	count := func() (*tags, error) {
		now := a.now()
		counted, err := a.store.TagsInUse(ctx, now.AddDate(0, -6, 0), 200)
		t := &tags{list: make([]string, len(counted)), at: now}
		for i, c := range counted {
			t.list[i] = c.Tag
		}
		return t, err
	}
	t, err := a.tags.get(count)
	if err == nil && a.now().Sub(t.at) > tagsFor {
		a.tags.forget()
		t, err = a.tags.get(count)
	}
	if err != nil {
		return nil, err
	}
	return t.list, nil
}

func (a *App) technical(ctx context.Context, c store.Chat, v *AboutView) error {
	visit, n, err := a.store.VisitsOf(ctx, c.VisitorID)
	if err != nil {
		return err
	}
	visitor, err := a.store.Visitor(ctx, c.VisitorID)
	if err != nil {
		return err
	}
	v.Visits, v.Referrer, v.Language, v.Address = n, visit.Referrer, visit.Language, or(visit.Address, visitor.Address)
	if visit.UserAgent != "" {
		ua := useragent.Parse(visit.UserAgent)
		v.Browser, v.Device = ua.Name+" "+ua.VersionNoShort(), ua.OS+" "+ua.OSVersionNoShort()
	}
	return nil
}

// readable returns a chat that an operator may read, with the settings.
func (a *App) readable(ctx context.Context, o access.Actor, chatID string) (store.Chat, *setup, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return c, nil, err
	}
	s, err := a.setup(ctx)
	if err == nil && !o.Sees(c.State) {
		err = chat.ErrNotYours
	}
	return c, s, err
}

// contactOf returns the contact behind a chat; one that is not stored yet is
// made of what the visitor told, with version 0.
func (a *App) contactOf(ctx context.Context, c store.Chat) (store.Contact, error) {
	contact, err := a.store.ContactOf(ctx, c.VisitorID)
	if errors.Is(err, store.ErrNotFound) && c.Email != "" {
		contact, err = a.store.Contact(ctx, c.Email)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return contact, err
	}
	contact = store.Contact{Name: c.Name, Phone: c.Phone}
	if c.Email != "" {
		contact.Email = &c.Email
	}
	return contact, nil
}

// claimed marks a contact that was found by an email which the visitor gave.
// Nothing of it is copied to the visitor.
func claimed(v ContactView, visitor store.Visitor, c store.Chat) ContactView {
	given := or(c.Email, visitor.Email)
	v.Claimed = v.Version > 0 && visitor.ContactID == nil && given != "" && strings.EqualFold(v.Email, given)
	return v
}

func contactView(c store.Contact) ContactView {
	v := ContactView{ID: c.ID, Version: c.Version, Name: c.Name, Phone: c.Phone, Company: c.Company, Fields: map[string]string{}}
	if c.Email != nil {
		v.Email = *c.Email
	}
	for name, value := range c.Fields {
		v.Fields[name] = value
	}
	return v
}

// SaveContact changes the contact behind a chat, or makes it, and tells the team
// by what name the visitor goes now. When a colleague changed it meanwhile, the
// error is a *ContactChangedError with what it is now.
func (a *App) SaveContact(ctx context.Context, o access.Actor, chatID string, in ContactView) (ContactView, error) {
	c, s, err := a.readable(ctx, o, chatID)
	if err != nil {
		return in, err
	}
	before, err := a.contactOf(ctx, c)
	if err != nil {
		return in, err
	}
	if before.ID != in.ID || before.Version != in.Version {
		return in, &ContactChangedError{Now: contactView(before)}
	}
	after, wrong := edited(before, in, s.desk.ContactFields)
	if err := refuse(wrong); err != nil {
		return in, err
	}
	if after.ID == "" {
		after.ID, after.CreatedAt = uuid.NewString(), a.now()
	}
	after, err = a.store.SaveContact(ctx, after)
	switch {
	case errors.Is(err, store.ErrNameTaken):
		return in, refuse([]form.Wrong{{Field: "email", Words: "Another contact has this email."}})
	case errors.Is(err, store.ErrChanged):
		if before, err = a.contactOf(ctx, c); err == nil {
			err = &ContactChangedError{Now: contactView(before)}
		}
		return in, err
	case err != nil:
		return in, err
	}
	if err := a.store.LinkContact(ctx, c.VisitorID, after.ID); err != nil {
		return in, err
	}
	view := contactView(after)
	if view.Name != c.Name || view.Email != c.Email || view.Phone != c.Phone {
		// The team's log says who it is. The visitor's own browser is not told: an
		// email that somebody gave proves nothing of who they are.
		intro := chat.Intro{Name: view.Name, Email: view.Email, Phone: view.Phone}
		_, err = a.beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
			e, err := s.Name(chat.Operator(o.ID), intro, a.now())
			return []chat.Event{e}, err
		})
	}
	return view, err
}

// edited returns a contact with what was typed, and what is wrong with that.
func edited(c store.Contact, in ContactView, fields []ContactField) (store.Contact, []form.Wrong) {
	var wrong []form.Wrong
	c.Name, c.Phone, c.Company = chat.CleanLine(in.Name, nameLimit), chat.CleanLine(in.Phone, 40), chat.CleanLine(in.Company, 120)
	c.Email = nil
	if email := chat.CleanLine(in.Email, 254); email != "" {
		if !form.ValidEmail(email) {
			wrong = append(wrong, form.Wrong{Field: "email", Words: "This does not look like an email address."})
		}
		c.Email = &email
	}
	if c.Phone != "" && !form.ValidPhone(c.Phone) {
		wrong = append(wrong, form.Wrong{Field: "phone", Words: "This does not look like a phone number."})
	}
	kept := map[string]string{}
	for name, value := range c.Fields {
		kept[name] = value // also of fields that are not in use now
	}
	for _, f := range fields {
		if value, given := in.Fields[f.Name]; given {
			kept[f.Name] = chat.CleanLine(value, 500)
		}
	}
	c.Fields = kept
	return c, wrong
}

// AddContactNote notes something about the contact behind a chat.
func (a *App) AddContactNote(ctx context.Context, o access.Actor, chatID, text string) error {
	c, _, err := a.readable(ctx, o, chatID)
	if err != nil {
		return err
	}
	text, err = chat.CleanWords(text, 2000)
	if err != nil {
		return err
	}
	contact, err := a.contactOf(ctx, c)
	if err != nil {
		return err
	}
	if contact.Version == 0 {
		if _, err := a.SaveContact(ctx, o, chatID, contactView(contact)); err != nil {
			return err
		}
		if contact, err = a.contactOf(ctx, c); err != nil {
			return err
		}
	}
	return a.store.AddContactNote(ctx, store.ContactNote{ID: uuid.NewString(), ContactID: contact.ID, ByID: o.ID, Text: text, CreatedAt: a.now()})
}

// RemoveContactNote deletes a note of one's own.
func (a *App) RemoveContactNote(ctx context.Context, o access.Actor, noteID string) error {
	return a.store.RemoveContactNote(ctx, noteID, o.ID)
}
