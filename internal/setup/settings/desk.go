package settings

import (
	"regexp"
	"slices"
	"strings"

	"golang.org/x/text/currency"

	"stoop/core/chat"
	"stoop/core/contact"
	"stoop/core/form"
	"stoop/internal/files"
)

// DeskSettings are what an admin says of every Desk.
type DeskSettings struct {
	Version       string         `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Outcomes      []string       `json:"outcomes" doc:"How a chat can come out"`
	Currency      string         `json:"currency" doc:"Of sales, ISO 4217"`
	MaxMegabytes  int            `json:"maxMegabytes" doc:"Largest file"`
	FileKinds     []string       `json:"fileKinds" doc:"Which files are let in"`
	ContactFields []ContactField `json:"contactFields" doc:"What the team notes about contacts besides name, email and phone"`

	// TranslationUnseen is the opposite of what is usual, so that settings which were stored
	// before there was translation mean the usual.
	TranslationUnseen bool `json:"translationUnseen,omitempty" doc:"What an operator says goes out in the visitor's language at once; else they see it first"`

	KeepAlong bool `json:"keepAlong,omitempty" doc:"What is seen while somebody looks along is kept with the chat; the visitor is told"`

	PriorityMinutes int `json:"priorityMinutes" doc:"Head start in a queue that each step of priority gives: nobody waits longer behind urgent chats"`
}

// ContactField is something of their own that a team notes about contacts, or on tickets.
type ContactField struct {
	Name  string `json:"name" doc:"By which it is stored; empty for a new one"`
	Label string `json:"label"`

	Kind contact.Kind `json:"kind" enum:"text,number,date"`
}

func firstDesk() DeskSettings {
	return DeskSettings{
		Outcomes: []string{"Answered", "Sold", "Sent on to others", "Nothing to be done"}, Currency: "EUR", MaxMegabytes: 25,
		FileKinds: []string{"picture", "pdf", "video", "sound", "text", "document"}, ContactFields: []ContactField{},
		PriorityMinutes: 10,
	}
}

var notInNames = regexp.MustCompile(`[^a-z0-9]+`)

// Tidy brings what was typed into the form in which it is stored.
func (d *DeskSettings) Tidy() {
	d.Currency = strings.ToUpper(strings.TrimSpace(d.Currency))
	for i, o := range d.Outcomes {
		d.Outcomes[i] = chat.CleanLine(o, 60)
	}
	tidyOwnFields(d.ContactFields)
}

// tidyOwnFields names the fields of a team's own that have no name yet.
func tidyOwnFields(fields []ContactField) {
	for i := range fields {
		f := &fields[i]
		f.Label = chat.CleanLine(f.Label, 60)
		if !slices.Contains(contact.Kinds, f.Kind) { // stored before there were kinds
			f.Kind = contact.Text
		}
		if f.Name == "" {
			f.Name = strings.Trim(notInNames.ReplaceAllString(strings.ToLower(f.Label), "-"), "-")
		}
	}
}

// checkOwnFields adds what is wrong with fields of a team's own.
func checkOwnFields(at string, fields []ContactField, most int, wrong []form.Wrong) []form.Wrong {
	names := map[string]bool{}
	for _, f := range fields {
		if f.Label == "" || f.Name == "" || names[f.Name] {
			wrong = append(wrong, form.Wrong{Field: at, Words: "Each field needs a name of its own."})
			break
		}
		names[f.Name] = true
	}
	if len(fields) > most {
		wrong = append(wrong, form.Wrong{Field: at, Words: "There can be up to 20 fields."})
	}
	return wrong
}

// Check returns what is wrong with the settings.
func (d DeskSettings) Check() []form.Wrong {
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	seen := map[string]bool{}
	for _, o := range d.Outcomes {
		if o == "" || seen[o] {
			at("outcomes", "Each outcome needs a name of its own.")
			break
		}
		seen[o] = true
	}
	if len(d.Outcomes) == 0 || len(d.Outcomes) > 30 {
		at("outcomes", "There must be between 1 and 30 outcomes.")
	}
	if _, err := currency.ParseISO(d.Currency); err != nil || d.Currency != strings.ToUpper(d.Currency) {
		at("currency", "This is not a currency code. Use three letters, like EUR.")
	}
	if d.MaxMegabytes < 1 || d.MaxMegabytes > 2000 {
		at("maxMegabytes", "The largest file must be between 1 and 2000 MB.")
	}
	for _, k := range d.FileKinds {
		if !slices.Contains(files.Kinds, files.Kind(k)) {
			at("fileKinds", "There is no kind of file "+k+".")
		}
	}
	if d.PriorityMinutes < 1 || d.PriorityMinutes > 240 {
		at("priorityMinutes", "The head start must be between 1 and 240 minutes.")
	}
	return checkOwnFields("contactFields", d.ContactFields, 20, wrong)
}
