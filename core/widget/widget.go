// Package widget says what the chat on a site may be like: how it looks, what it
// says in which language, where it shows, and what is wrong with it.
package widget

import (
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"stoop/core/form"
	"stoop/core/visit"
)

// How a message's writer can be reached.
const (
	ByEmail = "email"
	ByPhone = "phone"
	ByOne   = "either"
)

// Bounds of a design.
const (
	leastLimit   = 100
	mostLimit    = 20_000
	sitesMost    = 50
	linksMost    = 6
	mostDistance = 400
	titleLimit   = 60
	// GreetingLimit bounds a greeting, in code points.
	GreetingLimit = 500
	// QuestionLimit bounds a question of the survey, in code points.
	QuestionLimit = 120
)

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// wrongs collects what is wrong, at which field.
type wrongs []form.Wrong

func (w *wrongs) at(field, words string) { *w = append(*w, form.Wrong{Field: field, Words: words}) }

// Check returns what is wrong with a design.
func (d Design) Check() []form.Wrong {
	var wrong wrongs
	if d.Name == "" {
		wrong.at("name", "Give it a name, for the team.")
	}
	if d.Title == "" {
		wrong.at("title", "Enter the launcher text.")
	}
	if utf8.RuneCountInString(d.Title) > titleLimit {
		wrong.at("title", "The launcher text can have up to 60 characters.")
	}
	for field, words := range map[string]string{"greeting": d.Greeting, "closedGreeting": d.ClosedGreeting} {
		if utf8.RuneCountInString(words) > GreetingLimit {
			wrong.at(field, "A greeting can have up to 500 characters.")
		}
	}
	if !colour.MatchString(d.Colour) {
		wrong.at("colour", "A colour must be like #9c3f27.")
	}
	if d.Corner != "left" && d.Corner != "right" {
		wrong.at("corner", "Choose left or right.")
	}
	if slices.ContainsFunc(d.Sites, func(s string) bool { return !IsSite(s) }) {
		wrong.at("sites", "A site must be an address like https://www.example.com, without a path.")
	}
	if len(d.Sites) > sitesMost {
		wrong.at("sites", "There can be up to 50 sites.")
	}
	if !slices.Contains([]string{ByEmail, ByPhone, ByOne}, d.ReachBy) {
		wrong.at("reachBy", "Choose email, phone or either.")
	}
	if d.MessageLimit < leastLimit || d.MessageLimit > mostLimit {
		wrong.at("messageLimit", "The longest message must be between 100 and 20,000 characters.")
	}
	if d.AnswerTargetSeconds < 1 || d.AnswerTargetSeconds > 86_400 {
		wrong.at("answerTargetSeconds", "The answer target must be between 1 second and a day.")
	}
	if d.GoneSeconds < 5 || d.GoneSeconds > 3600 {
		wrong.at("goneSeconds", "This must be between 5 seconds and an hour.")
	}
	wrong = append(wrong, d.Looks.check()...)
	wrong = append(wrong, d.checkPlaces()...)
	wrong = append(wrong, d.checkTexts()...)
	wrong = append(wrong, d.Help.check()...)
	wrong = append(wrong, d.Helper.check()...)
	wrong = append(wrong, d.checkAutomatic()...)
	return append(wrong, d.Form.Check()...)
}

func (l Looks) check() (wrong wrongs) {
	if l.Distance < 0 || l.Distance > mostDistance {
		wrong.at("looks.distance", "The distance must be between 0 and 400 pixels.")
	}
	if !slices.Contains([]string{"small", "usual", "large"}, l.Size) {
		wrong.at("looks.size", "Choose small, usual or large.")
	}
	if _, known := Icons[l.Icon]; !known {
		wrong.at("looks.icon", "Choose one of the icons.")
	}
	if len(l.Links) > linksMost {
		wrong.at("looks.links", "There can be up to 6 links.")
	}
	for i, link := range l.Links {
		at, err := url.Parse(link.URL)
		if err != nil || at.Scheme != "https" && at.Scheme != "http" || at.Host == "" || len(link.URL) > 500 {
			wrong.at(fmt.Sprintf("looks.links.%d.url", i), "A link must be an address like https://www.example.com/about.")
		}
		if strings.TrimSpace(link.Label) == "" || utf8.RuneCountInString(link.Label) > 40 {
			wrong.at(fmt.Sprintf("looks.links.%d.label", i), "Say where the link leads, in up to 40 characters.")
		}
	}
	for _, name := range slices.Sorted(maps.Keys(l.Variables)) {
		if words := checkVariable(name, l.Variables[name]); words != "" {
			wrong.at("looks.variables", words)
			break
		}
	}
	return wrong
}

func (d Design) checkPlaces() (wrong wrongs) {
	if words := visit.CheckPatterns(d.ShowOn); words != "" {
		wrong.at("showOn", words)
	}
	if words := visit.CheckPatterns(d.HideOn); words != "" {
		wrong.at("hideOn", words)
	}
	if len(wrong) == 0 && d.hidesAll() {
		wrong.at("hideOn", "With these patterns the chat would not show on any page. Take out the one that fits all of them.")
	}
	return wrong
}

// hidesAll reports whether patterns leave no page of the sites.
func (d Design) hidesAll() bool {
	shown := d.ShowOn
	if len(shown) == 0 {
		shown = []string{"/*"}
	}
	return !slices.ContainsFunc(shown, func(p string) bool {
		return !slices.ContainsFunc(d.HideOn, func(hide string) bool { return visit.Covers(hide, p, d.Sites) })
	})
}

// Shows reports whether the widget is shown on a page.
func (d Design) Shows(page string) bool {
	return (len(d.ShowOn) == 0 || visit.MatchesAny(d.ShowOn, page)) && !visit.MatchesAny(d.HideOn, page)
}

// Carries reports whether the chat stands at an address: on a page of one of the widget's
// sites, on which it is shown.
func (d Design) Carries(address string) bool {
	at, err := url.Parse(address)
	if err != nil || at.Host == "" || at.User != nil {
		return false
	}
	return slices.Contains(d.Sites, SiteOf(at.Scheme+"://"+at.Host)) && d.Shows(address)
}

// IsSite reports whether an address can be that of a site: a scheme and a host,
// and nothing else.
func IsSite(address string) bool {
	at, err := url.Parse(address)
	return err == nil && at.Host != "" && at.Path == "" && at.RawQuery == "" && at.Fragment == "" && at.User == nil && (at.Scheme == "http" || at.Scheme == "https")
}

// SiteOf returns the site of an address that somebody typed: www.example.com/shop is on
// https://www.example.com. What is no address stays as it is.
func SiteOf(typed string) string {
	typed = strings.TrimSpace(typed)
	full := typed
	if !strings.Contains(typed, "://") {
		full = "https://" + typed
	}
	at, err := url.Parse(full)
	if err != nil || at.Host == "" {
		return typed
	}
	return strings.ToLower(at.Scheme + "://" + at.Host)
}
