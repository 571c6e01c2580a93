package canned

import (
	"regexp"
	"slices"
	"strings"
)

// Names are the placeholders that every chat can fill, with what they stand for.
var Names = []struct{ Name, Means string }{
	{"visitor.name", "the visitor's name"},
	{"visitor.first", "the first word of it"},
	{"visitor.email", "their email"},
	{"operator.name", "your name"},
	{"operator.first", "the first word of it"},
	{"page.title", "the page they are on"},
	{"page.url", "its address"},
	{"department.name", "the chat's department"},
}

// formPrefix begins the placeholders for answers to the form before the chat.
const formPrefix = "form."

// Known reports whether there is a placeholder of this name.
func Known(name string) bool {
	if field, ok := strings.CutPrefix(name, formPrefix); ok {
		return field != ""
	}
	for _, n := range Names {
		if n.Name == name {
			return true
		}
	}
	return false
}

// Fill puts values in the place of placeholders like {visitor.name|there}; the
// part behind the bar is used when there is no value. Those with neither stay
// as they are and are returned as missing. {{ stands for one brace.
func Fill(text string, value func(name string) string) (filled string, missing []string) {
	var out strings.Builder
	rest := 0
	for _, p := range placeholders(text) {
		out.WriteString(unescape(text[rest:p.from]))
		rest = p.to
		switch v := strings.TrimSpace(value(p.name)); {
		case v != "" && Known(p.name):
			out.WriteString(v)
		case p.hasFallback:
			out.WriteString(p.fallback)
		default:
			out.WriteString(text[p.from:p.to])
			if Known(p.name) && !slices.Contains(missing, p.name) {
				missing = append(missing, p.name)
			}
		}
	}
	out.WriteString(unescape(text[rest:]))
	return out.String(), missing
}

// meant is what somebody meant for a placeholder, well written or not.
var meant = regexp.MustCompile(`\{\s*((?:visitor|operator|page|department|form)(?:[^\pL\pN_{}|\n][^{}|\n]*)?)\s*[|{}]`)

// Unfilled returns the placeholders that still stand in words about to be sent,
// also those that are not written as they should be: a visitor must never read
// one. Other braces are just text.
func Unfilled(text string) []string {
	var names []string
	for _, m := range meant.FindAllStringSubmatch(text, -1) {
		if name := strings.TrimSpace(m[1]); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// stray returns the first single brace that neither begins a placeholder nor
// ends one, with what follows it; nothing if there is none.
func stray(text string) string {
	found := placeholders(text)
	for i := 0; i < len(text); i++ {
		if len(found) > 0 && i == found[0].from {
			i, found = found[0].to-1, found[1:]
			continue
		}
		if strings.HasPrefix(text[i:], "{{") {
			i++
			continue
		}
		if text[i] == '{' {
			excerpt := []rune(text[i:])
			if end := slices.Index(excerpt, '\n'); end >= 0 {
				excerpt = excerpt[:end]
			}
			return string(excerpt[:min(len(excerpt), 30)])
		}
	}
	return ""
}

func unescape(text string) string { return strings.ReplaceAll(text, "{{", "{") }

type placeholder struct {
	name, fallback string
	hasFallback    bool
	from, to       int // in bytes
}

// placeholders finds what stands between single braces and looks like a name.
func placeholders(text string) []placeholder {
	var found []placeholder
	for i := 0; i < len(text); i++ {
		if text[i] != '{' {
			continue
		}
		if strings.HasPrefix(text[i:], "{{") {
			i++
			continue
		}
		length := strings.IndexAny(text[i+1:], "{}\n")
		if length < 0 || text[i+1+length] != '}' {
			continue
		}
		name, fallback, has := strings.Cut(text[i+1:i+1+length], "|")
		if name = strings.TrimSpace(name); isName(name) {
			found = append(found, placeholder{name, fallback, has, i, i + length + 2})
			i += length + 1
		}
	}
	return found
}

func isName(s string) bool {
	part, rest, dotted := strings.Cut(s, ".")
	return dotted && part != "" && rest != "" && !strings.ContainsFunc(s, func(r rune) bool {
		return r != '.' && r != '_' && r != '-' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z')
	})
}
