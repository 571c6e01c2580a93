package settings

import (
	"fmt"
	"regexp"
	"time"

	"stoop/core/chat"
	"stoop/core/form"
)

// SiteData is what sites tell of their visitors, and what of it the team sees.
type SiteData struct {
	Version  string      `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Audience string      `json:"audience" doc:"That signed tokens must be for"`
	Fields   []SiteField `json:"fields" doc:"What operators see, in this order"`
	Record   []SiteField `json:"record" doc:"What operators see of a customer's record in the system outside, in this order; empty for all"`
	Keys     []SiteKey   `json:"keys"`
}

// SiteField is something that a site tells.
type SiteField struct {
	Name  string `json:"name" doc:"As the site calls it"`
	Label string `json:"label"`
}

// SiteKey is one that a site signs with. Several may be in use at once, so that they
// can be changed one after the other.
type SiteKey struct {
	ID        string    `json:"id" doc:"The kid of tokens that are signed with it"`
	Secret    string    `json:"secret"`
	CreatedAt time.Time `json:"createdAt"`
}

func firstSiteData() SiteData {
	return SiteData{Audience: "stoop", Fields: []SiteField{}, Record: []SiteField{}, Keys: []SiteKey{}}
}

// Tidy brings what was typed into the form in which it is stored.
func (d *SiteData) Tidy() {
	d.Audience = chat.CleanLine(d.Audience, 200)
	d.Fields, d.Record = tidyFields(d.Fields), tidyFields(d.Record)
}

func tidyFields(list []SiteField) []SiteField {
	for i := range list {
		f := &list[i]
		f.Name, f.Label = chat.CleanLine(f.Name, 60), chat.CleanLine(f.Label, 60)
		if f.Label == "" {
			f.Label = f.Name
		}
	}
	return append([]SiteField{}, list...)
}

var fieldName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_.-]*$`)

// Check returns what is wrong with the settings.
func (d SiteData) Check() []form.Wrong {
	var wrong []form.Wrong
	if d.Audience == "" {
		wrong = append(wrong, form.Wrong{Field: "audience", Words: "Say for whom tokens must be, like stoop."})
	}
	wrong = append(wrong, wrongFields("fields", d.Fields, "Each field needs a name of its own, of letters and digits, as the site calls it.")...)
	return append(wrong, wrongFields("record", d.Record, "Each field needs a name of its own, of letters and digits, as the booking system calls it.")...)
}

func wrongFields(at string, list []SiteField, words string) (wrong []form.Wrong) {
	if len(list) > 30 {
		wrong = append(wrong, form.Wrong{Field: at, Words: "There can be up to 30 fields."})
	}
	names := map[string]bool{}
	for i, f := range list {
		if !fieldName.MatchString(f.Name) || names[f.Name] {
			wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("%s.%d.name", at, i), Words: words})
		}
		names[f.Name] = true
	}
	return wrong
}

// KeysMost bounds the keys that may be in use at once.
const KeysMost = 5
