// Package contact reads contacts from files and writes them to files: as CSV
// (RFC 4180) and as vCards (RFC 6350).
package contact

import (
	"errors"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/spreadsheet"
)

// Person is a contact as files give it.
type Person struct {
	ID      string
	Name    string
	Email   string
	Phone   string
	Company string
	Fields  map[string]string // the team's own, by their names
}

// Field is one of the team's own fields: the name by which it is stored, and what
// people call it.
type Field struct {
	Name, Label string
	Kind        Kind
}

// Kind is what a field of the team's own holds.
type Kind string

// The kinds of own fields.
const (
	Text   Kind = "text"
	Number Kind = "number"
	Date   Kind = "date" // as in ISO 8601, 2026-03-31
)

// Kinds are all kinds of own fields.
var Kinds = []Kind{Text, Number, Date}

// Check returns what is wrong with a value; empty is none, which is right.
func (k Kind) Check(value string) string {
	if value == "" {
		return ""
	}
	switch k {
	case Number:
		if n, err := strconv.ParseFloat(value, 64); err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
			return "This must be a number."
		}
	case Date:
		if _, err := time.Parse(time.DateOnly, value); err != nil {
			return "This must be a date, like 2026-03-31."
		}
	}
	return ""
}

// CheckFields returns what is wrong with what somebody put into own fields. What
// stood there before is not theirs to mend.
func CheckFields(fields []Field, before, after map[string]string) (wrong []form.Wrong) {
	for _, f := range fields {
		if value := after[f.Name]; value != before[f.Name] {
			if words := f.Kind.Check(value); words != "" {
				wrong = append(wrong, form.Wrong{Field: "fields." + f.Name, Words: words})
			}
		}
	}
	return wrong
}

// Row is what one entry of a file says.
type Row struct {
	Number int // of a line of a CSV file, of a card among cards; from 1
	Person Person
}

// Most is how many contacts one file may have.
const Most = 20_000

// ErrTooMany: a file has more contacts than can be looked through at once.
var ErrTooMany = errors.New("it has more than 20,000 contacts; split it")

// FieldLimit bounds what stands in a field of the team's own, in characters.
const FieldLimit = 500

// Clean returns a contact as it is stored, and what is wrong with it.
func Clean(p Person) (Person, []form.Wrong) {
	var wrong []form.Wrong
	p.Name, p.Phone, p.Company = chat.CleanLine(p.Name, chat.NameLimit), chat.CleanLine(p.Phone, 40), chat.CleanLine(p.Company, 120)
	p.Email = chat.CleanLine(p.Email, form.EmailLimit)
	if p.Email != "" && !form.ValidEmail(p.Email) {
		wrong = append(wrong, form.Wrong{Field: form.EmailField, Words: "This does not look like an email address."})
	}
	if p.Phone != "" && !form.ValidPhone(p.Phone) {
		wrong = append(wrong, form.Wrong{Field: form.PhoneField, Words: "This does not look like a phone number."})
	}
	fields := map[string]string{}
	for name, value := range p.Fields {
		fields[name] = chat.CleanLine(value, FieldLimit)
	}
	p.Fields = fields
	return p, wrong
}

// Nameless is said of a contact by which nobody could be found again.
const Nameless = "Give a name, an email or a phone number."

// Line returns a contact in a line, for people to compare.
func (p Person) Line() string {
	parts := []string{p.Name, p.Email, p.Phone, p.Company}
	for _, name := range slices.Sorted(maps.Keys(p.Fields)) {
		parts = append(parts, p.Fields[name])
	}
	return strings.Join(slices.DeleteFunc(parts, func(part string) bool { return part == "" }), " · ")
}

func (p Person) nameless() bool { return p.Name == "" && p.Email == "" && p.Phone == "" }

// Change is a contact that a file would change.
type Change struct {
	Number        int
	Before, After Person
}

// Plan is what taking a file in would do.
type Plan struct {
	Add      []Row
	Change   []Change
	Same     int
	Rejected []spreadsheet.Reject
}

// Compare returns what a file's rows would do to the contacts there are. A row means
// the contact of its id, else the one with its email, else one without an email with
// the same name and phone number. What a file leaves empty stays as it is: nothing is
// ever removed by a file.
func Compare(have []Person, fields []Field, rows []Row, rejected []spreadsheet.Reject) Plan {
	plan := Plan{Rejected: slices.Clone(rejected)}
	book := newBook(have)
	seen := map[string]int{}
	emails := map[string]int{}
	for _, row := range rows {
		person, wrong := Clean(row.Person)
		before, known := book.find(person)
		wrong = append(wrong, CheckFields(fields, before.Fields, person.Fields)...)
		after := person
		if known {
			after = filled(before, person)
		}
		switch {
		case len(wrong) > 0:
			words := make([]string, len(wrong))
			for i, w := range wrong {
				words[i] = w.Words
			}
			plan.Rejected = append(plan.Rejected, spreadsheet.Reject{Line: row.Number, Words: words})
			continue
		case after.nameless():
			plan.Rejected = append(plan.Rejected, spreadsheet.Refuse(row.Number, Nameless))
			continue
		}
		email := strings.ToLower(after.Email)
		if other, taken := book.email[email]; email != "" && taken && other.ID != after.ID {
			plan.Rejected = append(plan.Rejected, spreadsheet.Refuse(row.Number, "Another contact has this email."))
			continue
		}
		first, twice := seen[key(after)]
		if line, taken := emails[email]; email != "" && taken {
			first, twice = line, true
		}
		if twice {
			plan.Rejected = append(plan.Rejected, spreadsheet.Refuse(row.Number, "Entry %d is the same contact.", first))
			continue
		}
		seen[key(after)], emails[email] = row.Number, row.Number
		switch {
		case !known:
			after.ID = "" // of elsewhere: it says nothing here
			plan.Add = append(plan.Add, Row{row.Number, after})
		case same(before, after):
			plan.Same++
		default:
			plan.Change = append(plan.Change, Change{row.Number, before, after})
		}
	}
	slices.SortStableFunc(plan.Rejected, func(a, b spreadsheet.Reject) int { return a.Line - b.Line })
	return plan
}

// book finds contacts.
type book struct {
	id, email, bare map[string]Person
}

func newBook(have []Person) book {
	b := book{map[string]Person{}, map[string]Person{}, map[string]Person{}}
	for _, p := range have {
		b.id[p.ID] = p
		if p.Email != "" {
			b.email[strings.ToLower(p.Email)] = p
		} else {
			b.bare[nameAndPhone(p)] = p
		}
	}
	return b
}

func (b book) find(p Person) (Person, bool) {
	if known, ok := b.id[p.ID]; ok && p.ID != "" {
		return known, true
	}
	if p.Email != "" {
		known, ok := b.email[strings.ToLower(p.Email)]
		return known, ok
	}
	known, ok := b.bare[nameAndPhone(p)]
	return known, ok
}

// key tells the contacts of one file apart.
func key(p Person) string {
	switch {
	case p.ID != "":
		return "id " + p.ID
	case p.Email != "":
		return "email " + strings.ToLower(p.Email)
	default:
		return "name " + nameAndPhone(p)
	}
}

func nameAndPhone(p Person) string { return strings.ToLower(p.Name) + "\n" + p.Phone }

// filled returns a contact with what a file says of it.
func filled(p, said Person) Person {
	put := func(to *string, value string) {
		if value != "" {
			*to = value
		}
	}
	put(&p.Name, said.Name)
	put(&p.Email, said.Email)
	put(&p.Phone, said.Phone)
	put(&p.Company, said.Company)
	fields := map[string]string{}
	for name, value := range p.Fields {
		fields[name] = value
	}
	for name, value := range said.Fields {
		if value != "" {
			fields[name] = value
		}
	}
	p.Fields = fields
	return p
}

func same(a, b Person) bool {
	for name, value := range b.Fields {
		if a.Fields[name] != value {
			return false
		}
	}
	return a.Name == b.Name && a.Email == b.Email && a.Phone == b.Phone && a.Company == b.Company
}
