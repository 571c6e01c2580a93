package search

import (
	"errors"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Limits of what is searched for.
const (
	QueryLength = 500 // in code points
	termsMost   = 40
	// shortest is how long a word must be for its beginning to be enough, in letters:
	// of shorter ones too many words begin with them.
	shortest = 3
)

// What may be wrong with a search.
var (
	ErrTooLong     = errors.New("the search is too long")
	ErrTooMany     = errors.New("the search has too many words")
	ErrNothing     = errors.New("there is no word to look for")
	ErrOnlyWithout = errors.New("the search only says what must not be there")
)

// Term is something that is looked for: words that stand in a row. Of a prefix, the
// last one need only begin so.
type Term struct {
	Words  []string `json:"words"`
	Prefix bool     `json:"prefix"`
}

// Query is what a typed search means: all of All must be there, of each of its lists at
// least one, and nothing of Without.
type Query struct {
	All     [][]Term
	Without []Term
}

// Parse reads a search as it is typed. Words must all be there, in any order, and find
// what begins with them; "words in quotes" stand in that order and are whole; either
// side of OR is enough; what follows - or NOT must not be there; word* finds what begins
// with it, however short. An empty text is the empty Query, which finds everything.
func Parse(text string) (Query, error) {
	var q Query
	if strings.TrimSpace(text) == "" {
		return q, nil
	}
	if utf8.RuneCountInString(text) > QueryLength {
		return q, ErrTooLong
	}
	terms, or, not := 0, false, false
	for _, p := range pieces(text) {
		switch {
		case !p.quoted && (p.text == "OR" || p.text == "|"):
			or = len(q.All) > 0
			continue
		case !p.quoted && p.text == "NOT":
			not = true
			continue
		case !p.quoted && p.text == "AND":
			continue
		}
		t, ok := p.term()
		if !ok {
			continue // signs alone
		}
		if terms++; terms > termsMost {
			return Query{}, ErrTooMany
		}
		switch {
		case p.without || not:
			q.Without = append(q.Without, t)
		case or:
			last := len(q.All) - 1
			q.All[last] = append(q.All[last], t)
		default:
			q.All = append(q.All, []Term{t})
		}
		or, not = false, false
	}
	switch {
	case len(q.All) == 0 && len(q.Without) > 0:
		return Query{}, ErrOnlyWithout
	case len(q.All) == 0:
		return Query{}, ErrNothing
	}
	return q, nil
}

// piece is a part of a typed search: up to the next space, or in quotes.
type piece struct {
	text    string
	quoted  bool
	without bool
}

func pieces(text string) []piece {
	var list []piece
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		var p piece
		if rest, found := strings.CutPrefix(text, "-"); found && rest != "" && !unicode.IsSpace(rune(rest[0])) {
			p.without, text = true, rest
		}
		if open, _ := utf8.DecodeRuneInString(text); strings.ContainsRune(`"“”„«»`, open) {
			p.quoted = true
			text = text[utf8.RuneLen(open):]
			end := strings.IndexAny(text, `"“”«»`)
			if end < 0 { // not closed yet: it is being typed
				end = len(text)
			}
			p.text = text[:end]
			_, size := utf8.DecodeRuneInString(text[end:])
			text = text[end+size:]
		} else {
			end := strings.IndexFunc(text, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(`"“”„«»`, r) })
			if end < 0 {
				end = len(text)
			}
			p.text, text = text[:end], text[end:]
		}
		list = append(list, p)
	}
	return list
}

func (p piece) term() (t Term, ok bool) {
	for _, w := range Words(p.text) {
		t.Words = append(t.Words, w.Folded)
	}
	if len(t.Words) == 0 {
		return t, false
	}
	last := t.Words[len(t.Words)-1]
	t.Prefix = !p.quoted && (strings.HasSuffix(p.text, "*") || utf8.RuneCountInString(last) >= shortest || len(t.Words) > 1)
	return t, true
}

// Empty reports whether nothing is looked for.
func (q Query) Empty() bool { return len(q.All) == 0 }

// Terms returns what may be marked in what was found.
func (q Query) Terms() []Term { return slices.Concat(q.All...) }

// TSQuery returns the search in PostgreSQL's text form of a tsquery.
func (q Query) TSQuery() string {
	var parts []string
	for _, any := range q.All {
		var some []string
		for _, t := range any {
			some = append(some, t.tsquery())
		}
		parts = append(parts, "("+strings.Join(some, " | ")+")")
	}
	for _, t := range q.Without {
		parts = append(parts, "!("+t.tsquery()+")")
	}
	return strings.Join(parts, " & ")
}

func (t Term) tsquery() string {
	words := make([]string, len(t.Words))
	for i, w := range t.Words {
		words[i] = quote(w)
		if t.Prefix && i == len(t.Words)-1 {
			words[i] += ":*"
		}
	}
	return strings.Join(words, " <-> ")
}

// quote writes a word so that PostgreSQL reads it as it is.
func quote(word string) string { return "'" + escaped.Replace(word) + "'" }

var escaped = strings.NewReplacer(`'`, `''`, `\`, `\\`)

// at returns how many words from one on a term stands in, or 0.
func (t Term) at(words []Word) int {
	if len(words) < len(t.Words) {
		return 0
	}
	for i, w := range t.Words {
		got := words[i].Folded
		if got != w && (!t.Prefix || i != len(t.Words)-1 || !strings.HasPrefix(got, w)) {
			return 0
		}
	}
	return len(t.Words)
}
