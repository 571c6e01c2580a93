// Package form holds the questions that a visitor answers before a chat, and
// checks the answers. Browsers check them too, so that nobody loses what they
// typed; what counts is this.
package form

import (
	"fmt"
	"math"
	"net/mail"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// Kind is what a field asks for.
type Kind string

// The kinds of fields.
const (
	Text       Kind = "text"
	LongText   Kind = "long"
	Email      Kind = "email"
	Phone      Kind = "phone"
	Number     Kind = "number"
	OneOf      Kind = "choice"   // one of some options, all in view
	ManyOf     Kind = "choices"  // any of some options
	DropDown   Kind = "dropdown" // one of some options
	DateTime   Kind = "datetime" // like 2026-12-24T18:30
	Department Kind = "department"
	Consent    Kind = "consent" // a line that must be agreed to, if required
)

// The names of fields that become part of the contact.
const (
	NameField  = "name"
	EmailField = "email"
	PhoneField = "phone"
)

// Field is one question.
type Field struct {
	Name     string   `json:"name"` // under which rules and transcripts find the answer
	Kind     Kind     `json:"kind"`
	Label    string   `json:"label"`
	Required bool     `json:"required,omitempty"`
	Pattern  string   `json:"pattern,omitempty"` // RE2; the whole answer must match
	Error    string   `json:"error,omitempty"`   // said when the answer is not accepted
	Options  []string `json:"options,omitempty"` // choices; for departments, their ids
	ShowIf   *ShowIf  `json:"showIf,omitempty"`
}

// ShowIf is when a field is asked for: when one before it is answered by one of some
// values, or by anything if there are none.
type ShowIf struct {
	Field string   `json:"field"`
	Is    []string `json:"is"`
}

// Form is the questions in their order.
type Form []Field

// Answers are a visitor's answers by the fields' names. Several choices are
// joined by a comma and a space.
type Answers map[string]string

// Wrong is one thing that is wrong, with a form or with an answer, at a field.
type Wrong struct {
	Field string `json:"field"`
	Words string `json:"words"`
}

// Limits on what a visitor may send, in code points.
const (
	lineLimit = 250
	longLimit = 4000
)

var fieldName = regexp.MustCompile(`^[a-z][a-z0-9_-]{0,39}$`)

// Check returns everything that is wrong with a form.
func (f Form) Check() []Wrong {
	var wrong []Wrong
	seen := map[string]bool{}
	for i, field := range f {
		at := func(words string) { wrong = append(wrong, Wrong{fmt.Sprintf("form.%d", i), words}) }
		switch {
		case !fieldName.MatchString(field.Name):
			at("A field's name begins with a letter and holds small letters, digits, - and _ only.")
		case seen[field.Name]:
			at(fmt.Sprintf("Two fields are named %q.", field.Name))
		}
		seen[field.Name] = true
		if strings.TrimSpace(field.Label) == "" {
			at("Give the field a label.")
		}
		if !slices.Contains([]Kind{Text, LongText, Email, Phone, Number, OneOf, ManyOf, DropDown, DateTime, Department, Consent}, field.Kind) {
			at(fmt.Sprintf("%q is not a kind of field.", field.Kind))
		}
		if field.hasOptions() && len(field.Options) == 0 {
			at("Give at least one option to choose from.")
		}
		options := map[string]bool{}
		for _, o := range field.Options {
			if o = strings.TrimSpace(o); o == "" || options[o] {
				at("Each option needs words of its own.")
				break
			}
			options[o] = true
		}
		if field.Pattern != "" {
			if words := CheckPattern(field.Pattern); words != "" {
				at(words)
			}
		}
		if words := f[:i].checkShowIf(field); words != "" {
			at(words)
		}
		if len(field.Options) > optionsMost {
			at("There can be up to 50 options.")
		}
		if utf8.RuneCountInString(field.Label) > labelLimit || utf8.RuneCountInString(field.Error) > labelLimit {
			at("A label and the words of an error can have up to 500 characters.")
		}
	}
	if len(f) > fieldsMost {
		wrong = append(wrong, Wrong{"form", "A form can ask for up to 30 things."})
	}
	return wrong
}

// Bounds of a form.
const (
	fieldsMost   = 30
	optionsMost  = 50
	labelLimit   = 500
	patternLimit = 300
)

// CheckPattern returns why a pattern cannot be used, or nothing. Patterns are those of
// RE2, which take a time linear in the answer (https://github.com/google/re2/wiki/Syntax).
func CheckPattern(pattern string) string {
	if utf8.RuneCountInString(pattern) > patternLimit {
		return "A pattern can have up to 300 characters."
	}
	if _, err := regexp.Compile(pattern); err != nil {
		return fmt.Sprintf("The pattern cannot be read: %s.", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	return ""
}

// Matches reports whether a pattern fits the whole of an answer. What cannot be read
// fits nothing.
func Matches(pattern, answer string) bool {
	compiled, err := regexp.Compile(`^(?:` + pattern + `)$`)
	return err == nil && compiled.MatchString(answer)
}

// checkShowIf returns what is wrong with when a field is asked for, given those before it.
func (f Form) checkShowIf(field Field) string {
	if field.ShowIf == nil {
		return ""
	}
	at := slices.IndexFunc(f, func(before Field) bool { return before.Name == field.ShowIf.Field })
	if at < 0 {
		return "It is shown depending on a field that does not stand before it. Move it down, or choose another field."
	}
	if on := f[at]; on.hasOptions() {
		for _, value := range field.ShowIf.Is {
			if !slices.Contains(trimmed(on.Options), strings.TrimSpace(value)) {
				return fmt.Sprintf("It is shown if %q is %q, which is not one of its options any more.", on.Label, value)
			}
		}
	}
	return ""
}

// Asked returns the fields that are asked for with some answers: those whose condition
// holds. What depends on a field that is not asked for is not asked for either.
func (f Form) Asked(given Answers) Form {
	asked := Form{}
	shown := map[string]string{}
	for _, field := range f {
		if !field.ShowIf.holds(shown) {
			continue
		}
		asked = append(asked, field)
		shown[field.Name] = strings.TrimSpace(given[field.Name])
	}
	return asked
}

func (c *ShowIf) holds(answers map[string]string) bool {
	if c == nil {
		return true
	}
	answer := answers[c.Field]
	if answer == "" {
		return false
	}
	return len(c.Is) == 0 || slices.ContainsFunc(c.Is, func(value string) bool {
		return value == answer || joinedWith(answer, value)
	})
}

// joinedWith reports whether a value is one of several choices in an answer.
func joinedWith(answer, value string) bool {
	return strings.Contains(", "+answer+", ", ", "+value+", ")
}

func (f Field) hasOptions() bool {
	return f.Kind == OneOf || f.Kind == ManyOf || f.Kind == DropDown
}

// Clean returns the answers as they are kept: trimmed, and without what the
// form does not ask for, with these answers.
func (f Form) Clean(given Answers) Answers {
	out := Answers{}
	for _, field := range f.Asked(given) {
		if answer := strings.TrimSpace(given[field.Name]); answer != "" {
			out[field.Name] = answer
		}
	}
	return out
}

// AnsweredAnew returns what is wrong with answers of somebody of whom something is known:
// what is known is not asked for again, but checked if it is answered anew. Consent, the
// department and what other fields depend on are asked for each time.
func (f Form) AnsweredAnew(given, known Answers) []Wrong {
	var wrong []Wrong
	for _, field := range f.Asked(given) {
		answer := strings.TrimSpace(given[field.Name])
		if answer == "" && known[field.Name] != "" && !f.eachTime(field) {
			continue
		}
		if words := field.accept(answer); words != "" {
			wrong = append(wrong, Wrong{field.Name, words})
		}
	}
	return wrong
}

// eachTime reports whether a field is asked for though its answer is known.
func (f Form) eachTime(field Field) bool {
	return field.Kind == Consent || field.Kind == Department || slices.ContainsFunc(f, func(other Field) bool {
		return other.ShowIf != nil && other.ShowIf.Field == field.Name
	})
}

// Consents reports whether a field is one by which somebody agrees to something.
func (f Form) Consents(name string) bool {
	return slices.ContainsFunc(f, func(field Field) bool { return field.Name == name && field.Kind == Consent })
}

// Answered returns what is wrong with answers.
func (f Form) Answered(given Answers) []Wrong {
	var wrong []Wrong
	for _, field := range f.Asked(given) {
		if words := field.accept(strings.TrimSpace(given[field.Name])); words != "" {
			wrong = append(wrong, Wrong{field.Name, words})
		}
	}
	return wrong
}

// accept returns why an answer is not accepted, or nothing.
func (f Field) accept(answer string) string {
	if answer == "" {
		if !f.Required {
			return ""
		}
		if f.Kind == Consent {
			return "This needs your agreement."
		}
		return "Please fill this in."
	}
	words := f.problem(answer)
	if words == "" && f.Pattern != "" {
		if !Matches(f.Pattern, answer) {
			words = "This does not look right."
		}
	}
	if words != "" && f.Error != "" {
		return f.Error
	}
	return words
}

func (f Field) problem(answer string) string {
	limit := lineLimit
	if f.Kind == LongText {
		limit = longLimit
	}
	if n := utf8.RuneCountInString(answer); n > limit {
		return fmt.Sprintf("This is %d characters too long.", n-limit)
	}
	switch f.Kind {
	case Email:
		if !ValidEmail(answer) {
			return "This does not look like an email address."
		}
	case Phone:
		if !ValidPhone(answer) {
			return "This does not look like a phone number."
		}
	case Number:
		n, err := strconv.ParseFloat(strings.ReplaceAll(answer, ",", "."), 64)
		if err != nil || math.IsNaN(n) || math.IsInf(n, 0) {
			return "This must be a number."
		}
	case OneOf, DropDown, Department:
		if !slices.Contains(trimmed(f.Options), answer) {
			return "Choose one of the options."
		}
	case ManyOf:
		if !joinedFrom(trimmed(f.Options), answer) {
			return "Choose among the options."
		}
	case DateTime:
		if _, err := time.Parse("2006-01-02T15:04", answer); err != nil {
			return "This must be a date and a time."
		}
	case Consent:
		if answer != "yes" {
			return "This needs your agreement."
		}
	}
	return ""
}

// trimmed returns options as answers give them: without white space at the ends.
func trimmed(options []string) []string {
	out := make([]string, len(options))
	for i, o := range options {
		out[i] = strings.TrimSpace(o)
	}
	return out
}

// joinedFrom reports whether an answer is some of the options, joined by a comma
// and a space. Options may hold commas themselves.
func joinedFrom(options []string, answer string) bool {
	// reached[i]: what stands before the i-th byte is options, joined.
	reached := make([]bool, len(answer)+1)
	reached[0] = true
	for i := range answer {
		if !reached[i] {
			continue
		}
		for _, o := range options {
			if o == "" || !strings.HasPrefix(answer[i:], o) {
				continue
			}
			end := i + len(o)
			if end == len(answer) {
				return true
			}
			if strings.HasPrefix(answer[end:], ", ") && end+2 < len(answer) {
				reached[end+2] = true
			}
		}
	}
	return false
}

// EmailLimit is the longest address that mail servers pass on, in bytes (RFC
// 5321, 4.5.3.1.3, without the angle brackets).
const EmailLimit = 254

// ValidEmail reports whether a text is one plain email address (RFC 5322, as
// net/mail reads it) with a domain of at least two parts.
func ValidEmail(text string) bool {
	if len(text) > EmailLimit {
		return false
	}
	address, err := mail.ParseAddress(text)
	if err != nil || address.Address != text {
		return false
	}
	_, domain, _ := strings.Cut(text, "@")
	return strings.Contains(strings.Trim(domain, "."), ".")
}

var phone = regexp.MustCompile(`^\+?[0-9(][0-9 ()./-]{3,28}[0-9)]$`)

// ValidPhone reports whether a text can be a phone number: digits with the
// usual separators, up to the 15 digits of ITU-T E.164.
func ValidPhone(text string) bool {
	digits := len(regexp.MustCompile(`[0-9]`).FindAllString(text, -1))
	return phone.MatchString(text) && digits >= 5 && digits <= 15
}
