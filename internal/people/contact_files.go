package people

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/contact"
	"stoop/core/form"
	"stoop/core/spreadsheet"
	"stoop/internal/people/register"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// ContactImport is what taking a file of contacts in would do, or did.
type ContactImport struct {
	Add      int             `json:"add"`
	Change   int             `json:"change"`
	Same     int             `json:"same"`
	Rejected int             `json:"rejected"`
	Unknown  []string        `json:"unknown" doc:"Columns that nothing is taken from"`
	Lines    []ContactLine   `json:"lines" doc:"The first of those that change or are added"`
	Refused  []RefusedRecord `json:"refused" doc:"The first of those that cannot be used"`
}

// ContactLine is one contact of a file.
type ContactLine struct {
	Number int    `json:"number" doc:"Of the line, or of the card"`
	Before string `json:"before,omitempty"`
	After  string `json:"after"`
}

// RefusedRecord is an entry that cannot be used, and why.
type RefusedRecord struct {
	Number int      `json:"number"`
	Words  []string `json:"words" doc:"Each a sentence"`
}

// linesShown is as many entries of a file as anybody reads; the counts tell the rest.
const linesShown = 100

// ImportContacts compares a file, CSV or vCards, with the contacts there are and, if
// apply is set, stores what it adds and changes, all or nothing.
func (room *Room) ImportContacts(ctx context.Context, o access.Actor, data []byte, apply bool) (ContactImport, error) {
	if !o.May(access.MoveContacts) {
		return ContactImport{}, access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return ContactImport{}, err
	}
	rows, unknown, rejected, err := readContacts(bytes.ToValidUTF8(data, []byte("\uFFFD")), contactFields(s))
	if err != nil {
		return ContactImport{}, form.Refuse([]form.Wrong{{Field: "file", Words: fmt.Sprintf("This file cannot be used: %s.", err)}})
	}
	people := make([]contact.Person, len(rows))
	for i, r := range rows {
		people[i], _ = contact.Clean(r.Person)
	}
	have, err := room.Register.Like(ctx, people)
	if err != nil {
		return ContactImport{}, err
	}
	known := map[string]register.Contact{}
	before := make([]contact.Person, len(have))
	for i, c := range have {
		known[c.ID], before[i] = c, personOf(c)
	}
	plan := contact.Compare(before, contactFields(s), rows, rejected)
	if apply {
		err = room.Register.SaveContacts(ctx, room.plannedContacts(plan, known))
		if errors.Is(err, store.ErrNameTaken) { // a colleague added one of them meanwhile
			err = store.ErrChanged
		}
		if errors.Is(err, store.ErrChanged) {
			err = problem.New(http.StatusConflict, "contacts-changed", "A colleague changed one of these contacts in the meantime", "Nothing of the file was stored. Choose it again to see what it changes now.")
		}
		if err != nil {
			return ContactImport{}, err
		}
	}
	return contactImport(plan, unknown), nil
}

func readContacts(data []byte, fields []contact.Field) ([]contact.Row, []string, []spreadsheet.Reject, error) {
	if contact.LooksLikeCards(data) {
		rows, rejected, err := contact.ReadCards(data, fields)
		return rows, nil, rejected, err
	}
	return contact.ReadCSV(data, fields)
}

func contactFields(s *settings.Settings) []contact.Field {
	fields := make([]contact.Field, len(s.Desk.ContactFields))
	for i, f := range s.Desk.ContactFields {
		fields[i] = contact.Field{Name: f.Name, Label: f.Label, Kind: f.Kind}
	}
	return fields
}

func personOf(c register.Contact) contact.Person {
	p := contact.Person{ID: c.ID, Name: c.Name, Phone: c.Phone, Company: c.Company, Fields: c.Fields}
	if c.Email != nil {
		p.Email = *c.Email
	}
	return p
}

func (room *Room) plannedContacts(plan contact.Plan, known map[string]register.Contact) []register.Contact {
	var list []register.Contact
	put := func(c register.Contact, p contact.Person) {
		c.Name, c.Phone, c.Company, c.Fields, c.Email = p.Name, p.Phone, p.Company, p.Fields, nil
		if p.Email != "" {
			c.Email = &p.Email
		}
		list = append(list, c)
	}
	for _, r := range plan.Add {
		put(register.Contact{ID: uuid.NewString(), CreatedAt: room.Now()}, r.Person)
	}
	for _, c := range plan.Change {
		put(known[c.After.ID], c.After)
	}
	return list
}

func contactImport(plan contact.Plan, unknown []string) ContactImport {
	v := ContactImport{
		Add: len(plan.Add), Change: len(plan.Change), Same: plan.Same, Rejected: len(plan.Rejected),
		Unknown: append([]string{}, unknown...), Lines: []ContactLine{}, Refused: []RefusedRecord{},
	}
	for _, c := range plan.Change {
		v.Lines = append(v.Lines, ContactLine{Number: c.Number, Before: c.Before.Line(), After: c.After.Line()})
	}
	for _, r := range plan.Add {
		v.Lines = append(v.Lines, ContactLine{Number: r.Number, After: r.Person.Line()})
	}
	v.Lines = v.Lines[:min(len(v.Lines), linesShown)]
	for _, r := range plan.Rejected[:min(len(plan.Rejected), linesShown)] {
		v.Refused = append(v.Refused, RefusedRecord{Number: r.Line, Words: r.Words})
	}
	return v
}

// ExportContacts writes all contacts, as vCards or as CSV.
func (room *Room) ExportContacts(ctx context.Context, o access.Actor, w io.Writer, cards bool) error {
	if !o.May(access.MoveContacts) {
		return access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	var people []contact.Person
	var after register.Contact
	for {
		list, err := room.Register.ContactsAfter(ctx, after, 1000)
		if err != nil {
			return err
		}
		if len(list) == 0 {
			break
		}
		for _, c := range list {
			people = append(people, personOf(c))
		}
		after = list[len(list)-1]
	}
	if cards {
		return contact.WriteCards(w, people, contactFields(s))
	}
	return contact.WriteCSV(w, people, contactFields(s))
}
