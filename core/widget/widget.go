// Package widget says what the chat on a site may be like.
package widget

import (
	"net/url"
	"regexp"
	"slices"

	"stoop/core/form"
)

// How a message's writer can be reached.
const (
	ByEmail = "email"
	ByPhone = "phone"
	ByOne   = "either"
)

// Widget is the chat as it stands on a site, as far as it can be wrong.
type Widget struct {
	Name         string
	Title        string // what the launcher says
	Colour       string // #rrggbb
	Sites        []string
	ReachBy      string
	MessageLimit int
	Form         form.Form
}

// The bounds of the longest message, in code points.
const (
	leastLimit = 100
	mostLimit  = 20_000
)

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// Check returns what is wrong with a widget.
func (w Widget) Check() []form.Wrong {
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	if w.Name == "" {
		at("name", "Give it a name, for the team.")
	}
	if w.Title == "" {
		at("title", "Enter the launcher text.")
	}
	if !colour.MatchString(w.Colour) {
		at("colour", "A colour must be like #9c3f27.")
	}
	if slices.ContainsFunc(w.Sites, func(s string) bool { return !IsSite(s) }) {
		at("sites", "A site must be an address like https://www.example.com, without a path.")
	}
	if !slices.Contains([]string{ByEmail, ByPhone, ByOne}, w.ReachBy) {
		at("reachBy", "Choose email, phone or either.")
	}
	if w.MessageLimit < leastLimit || w.MessageLimit > mostLimit {
		at("messageLimit", "The longest message must be between 100 and 20,000 characters.")
	}
	return append(wrong, w.Form.Check()...)
}

// IsSite reports whether an address can be that of a site: a scheme and a host,
// and nothing else.
func IsSite(address string) bool {
	at, err := url.Parse(address)
	return err == nil && at.Host != "" && at.Path == "" && at.RawQuery == "" && at.Fragment == "" && at.User == nil && (at.Scheme == "http" || at.Scheme == "https")
}
