package app

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/text/currency"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/files"
	"stoop/internal/store"
)

// DeskSettings are what an admin says of every Desk.
type DeskSettings struct {
	Version       string         `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Outcomes      []string       `json:"outcomes" doc:"How a chat can come out"`
	Currency      string         `json:"currency" doc:"Of sales, ISO 4217"`
	MaxMegabytes  int            `json:"maxMegabytes" doc:"Largest file"`
	FileKinds     []string       `json:"fileKinds" doc:"Which files are let in"`
	ContactFields []ContactField `json:"contactFields" doc:"What the team notes about contacts besides name, email and phone"`

	PriorityMinutes int `json:"priorityMinutes" doc:"Head start in a queue that each step of priority gives: nobody waits longer behind urgent chats"`
}

// ContactField is something of their own that a team notes about contacts.
type ContactField struct {
	Name  string `json:"name" doc:"By which it is stored; empty for a new one"`
	Label string `json:"label"`
}

const deskKey = "desk"

// defaultDesk is what holds until an admin says otherwise.
var defaultDesk = DeskSettings{
	Outcomes: []string{"Answered", "Sold", "Sent on to others", "Nothing to be done"}, Currency: "EUR", MaxMegabytes: 25,
	FileKinds: []string{"picture", "pdf", "video", "sound", "text", "document"}, ContactFields: []ContactField{},
	PriorityMinutes: 10,
}

// readDesk returns the settings with the text that they are stored as.
func (a *App) readDesk(ctx context.Context) (DeskSettings, string, error) {
	first, err := json.Marshal(defaultDesk)
	if err != nil {
		return DeskSettings{}, "", err
	}
	text, err := a.store.Setting(ctx, deskKey, string(first))
	if err != nil {
		return DeskSettings{}, "", err
	}
	var d DeskSettings
	if err := json.Unmarshal([]byte(text), &d); err != nil {
		return d, "", fmt.Errorf("reading the Desk's settings: %w", err)
	}
	if d.PriorityMinutes == 0 { // stored before there was this setting
		d.PriorityMinutes = defaultDesk.PriorityMinutes
	}
	return d, text, nil
}

// DeskSetup returns the settings of every Desk.
func (a *App) DeskSetup(ctx context.Context, o access.Actor) (DeskSettings, error) {
	if err := mustAdmin(o); err != nil {
		return DeskSettings{}, err
	}
	d, _, err := a.readDesk(ctx)
	return d, err
}

// SaveDeskSetup replaces them.
func (a *App) SaveDeskSetup(ctx context.Context, o access.Actor, in DeskSettings) (DeskSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	before, text, err := a.readDesk(ctx)
	if err != nil {
		return in, err
	}
	if before.Version != in.Version {
		return in, store.ErrChanged
	}
	in.tidy()
	if err := refuse(in.check()); err != nil {
		return in, err
	}
	in.Version = nextVersion(before.Version)
	data, err := json.Marshal(in)
	if err != nil {
		return in, err
	}
	if err := a.store.SaveSetting(ctx, deskKey, text, string(data)); err != nil {
		return in, err
	}
	a.settingsChanged()
	return in, nil
}

func nextVersion(v string) string {
	n := 0
	_, _ = fmt.Sscan(v, &n) // the first version is empty
	return fmt.Sprint(n + 1)
}

var notInNames = regexp.MustCompile(`[^a-z0-9]+`)

func (d *DeskSettings) tidy() {
	d.Currency = strings.ToUpper(strings.TrimSpace(d.Currency))
	for i, o := range d.Outcomes {
		d.Outcomes[i] = chat.CleanLine(o, 60)
	}
	for i := range d.ContactFields {
		f := &d.ContactFields[i]
		f.Label = chat.CleanLine(f.Label, 60)
		if f.Name == "" {
			f.Name = strings.Trim(notInNames.ReplaceAllString(strings.ToLower(f.Label), "-"), "-")
		}
	}
}

func (d DeskSettings) check() []form.Wrong {
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
	names := map[string]bool{}
	for _, f := range d.ContactFields {
		if f.Label == "" || f.Name == "" || names[f.Name] {
			at("contactFields", "Each field needs a name of its own.")
			break
		}
		names[f.Name] = true
	}
	if len(d.ContactFields) > 20 {
		at("contactFields", "There can be up to 20 fields.")
	}
	return wrong
}
