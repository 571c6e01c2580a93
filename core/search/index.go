package search

import (
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Weight says what kind of text a word stands in.
type Weight byte

// The weights, by PostgreSQL's letters.
const (
	Named Weight = 'A' // names and emails
	Filed Weight = 'B' // names of files
	Noted Weight = 'C' // what only the team sees
	Said  Weight = 'D'
)

// Text is a text of one kind.
type Text struct {
	Weight Weight
	Text   string
}

// What PostgreSQL can hold of one document: positions up to 16383, of each word no more
// than 255, and 1 MB in all.
const (
	lastPosition  = 16383
	positionsMost = 255
	indexBytes    = 700_000
)

// TSVector returns texts in PostgreSQL's text form of a tsvector. Between two texts
// there is a gap, so that no phrase reaches over it. Of what is too much for an index
// the first part is found.
func TSVector(texts []Text) string {
	positions := map[string][]string{}
	at, size := 0, 0
	for _, t := range texts {
		for _, w := range Words(t.Text) {
			at++
			if _, known := positions[w.Folded]; !known {
				if size += len(w.Folded) + 8; size > indexBytes {
					return vector(positions)
				}
			}
			if len(positions[w.Folded]) < positionsMost {
				size += 2
				positions[w.Folded] = append(positions[w.Folded], strconv.Itoa(min(at, lastPosition))+string(rune(t.Weight)))
			}
		}
		at++
	}
	return vector(positions)
}

func vector(positions map[string][]string) string {
	words := make([]string, 0, len(positions))
	for w := range positions {
		words = append(words, w)
	}
	slices.Sort(words)
	var b strings.Builder
	for _, w := range words {
		b.WriteString(quote(w) + ":" + strings.Join(positions[w], ",") + " ")
	}
	return strings.TrimSpace(b.String())
}

// Piece is a part of a passage; of a hit it is what was looked for.
type Piece struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit,omitempty"`
}

// Marked splits a text into what some terms find and the rest.
func Marked(text string, terms []Term) []Piece {
	var pieces []Piece
	done := 0
	words := Words(text)
	for i := 0; i < len(words); i++ {
		n := 0
		for _, t := range terms {
			n = max(n, t.at(words[i:]))
		}
		if n == 0 {
			continue
		}
		from, to := words[i].From, words[i+n-1].To
		if from > done {
			pieces = append(pieces, Piece{Text: text[done:from]})
		}
		pieces = append(pieces, Piece{Text: text[from:to], Hit: true})
		done, i = to, i+n-1
	}
	if done < len(text) {
		pieces = append(pieces, Piece{Text: text[done:]})
	}
	return pieces
}

// Score returns how many of some terms a text has.
func Score(text string, terms []Term) int {
	words := Words(text)
	score := 0
	for _, t := range terms {
		if t.in(words) {
			score++
		}
	}
	return score
}

func (t Term) in(words []Word) bool {
	for i := range words {
		if t.at(words[i:]) > 0 {
			return true
		}
	}
	return false
}

// Excerpt cuts a text to about so many code points around the first of what was looked
// for, on one line.
func Excerpt(text string, terms []Term, length int) string {
	text = strings.Join(strings.Fields(text), " ")
	if utf8.RuneCountInString(text) <= length {
		return text
	}
	from := 0
	words := Words(text)
	for i := range words {
		if slices.ContainsFunc(terms, func(t Term) bool { return t.at(words[i:]) > 0 }) {
			from = words[max(0, i-4)].From
			break
		}
	}
	if rest := utf8.RuneCountInString(text[from:]); rest < length { // as much of the end as there is room for
		runes := []rune(text)
		return "… " + strings.TrimSpace(string(runes[len(runes)-length:]))
	}
	out := string([]rune(text[from:])[:length])
	if from > 0 {
		out = "… " + out
	}
	return strings.TrimSpace(out) + " …"
}
