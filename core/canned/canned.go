// Package canned finds and fills canned responses: stored answers with a
// shortcut and placeholders. It knows neither where they are stored nor who is
// asking; both come in as arguments.
package canned

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Scope says for whom a response is.
type Scope string

// The scopes: one operator's, a department's, or everybody's.
const (
	Own        Scope = "own"
	Department Scope = "department"
	Common     Scope = "common"
)

// Response is a stored answer.
type Response struct {
	ID       string
	Shortcut string // by which it is called; unique for its scope, owner and language
	Text     string // with placeholders
	Folder   string
	Language string // tag like "en"; empty for any
	Scope    Scope
	Owner    string // id of the operator or department; empty for common ones
}

// Limits of a response, in code points.
const (
	ShortcutLimit = 40
	TextLimit     = 4000
	FolderLimit   = 80
)

// Wrong is something that is not right with a field.
type Wrong struct {
	Field string
	Words string
}

// CleanLanguage returns a language's tag as it is stored: da_DK is da-DK.
func CleanLanguage(tag string) string {
	return strings.ReplaceAll(strings.TrimSpace(tag), "_", "-")
}

// Check returns what is wrong with a response before it is stored.
func (r Response) Check() []Wrong {
	var wrong []Wrong
	at := func(field, words string, args ...any) {
		wrong = append(wrong, Wrong{field, fmt.Sprintf(words, args...)})
	}
	switch n := utf8.RuneCountInString(r.Shortcut); {
	case n == 0:
		at("shortcut", "Give it a shortcut.")
	case n > ShortcutLimit:
		at("shortcut", "The shortcut has %d characters; the limit is %d.", n, ShortcutLimit)
	case strings.ContainsFunc(r.Shortcut, func(c rune) bool { return unicode.IsSpace(c) || unicode.IsControl(c) || c == ';' }):
		at("shortcut", "A shortcut is one word, without spaces or semicolons.")
	}
	switch n := utf8.RuneCountInString(r.Text); {
	case strings.TrimSpace(r.Text) == "":
		at("text", "Write the answer.")
	case n > TextLimit:
		at("text", "The answer has %d characters; the limit is %d.", n, TextLimit)
	}
	for _, p := range placeholders(r.Text) {
		if !Known(p.name) {
			at("text", "There is no placeholder {%s}. Use one from the list, or write {{ for a brace.", p.name)
		}
	}
	if words := stray(r.Text); words != "" {
		at("text", "“%s” is not a placeholder and would be sent as it is. Use one from the list, or write {{ for a brace.", words)
	}
	if n := utf8.RuneCountInString(r.Folder); n > FolderLimit {
		at("folder", "The folder's name has %d characters; the limit is %d.", n, FolderLimit)
	}
	if len(r.Language) > 35 || strings.ContainsFunc(r.Language, func(c rune) bool {
		return c != '-' && (c > unicode.MaxASCII || !unicode.IsLetter(c) && !unicode.IsDigit(c))
	}) {
		at("language", "A language is a code like en or pt-BR.")
	}
	switch r.Scope {
	case Own, Department:
		if r.Owner == "" {
			at("scope", "Choose who it is for.")
		}
	case Common:
	default:
		at("scope", "Choose own, department or common.")
	}
	return wrong
}
