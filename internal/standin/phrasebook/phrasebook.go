// Package phrasebook stands in for a translator: a phrase book of the demo's languages. It is
// deterministic, says what it does not know by marking it ‹so›, and is no more than a phrase
// book: it knows no grammar.
package phrasebook

import (
	_ "embed"
	"encoding/json"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

//go:embed phrases.txt
var file string

// Question is what it is asked.
type Question struct {
	Text string `json:"text"`
	From string `json:"from"`
	Into string `json:"into"`
}

// Answer is what it answers.
type Answer struct {
	Text    string   `json:"text"`
	Unknown []string `json:"unknown"`
}

// Handler answers by the interface that docs/guide/translation.md describes. Whoever does
// not send the key is turned away.
func Handler(key string, log *slog.Logger) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		if q.Header.Get("Authorization") != "Bearer "+key {
			http.Error(w, "wrong key", http.StatusUnauthorized)
			return
		}
		var in Question
		if err := json.NewDecoder(http.MaxBytesReader(w, q.Body, 1<<20)).Decode(&in); err != nil {
			http.Error(w, "this is no question", http.StatusBadRequest)
			return
		}
		if column(in.From) < 0 || column(in.Into) < 0 {
			http.Error(w, "this phrase book does not know the language", http.StatusUnprocessableEntity)
			return
		}
		w.Header().Set("Content-Type", "application/json")
		if err := json.NewEncoder(w).Encode(Translate(in)); err != nil {
			log.Warn("a translation could not be sent", "error", err)
		}
	})
}

// languages are the columns of the book, and phrases its lines.
var languages, phrases = func() ([]string, [][]string) {
	var lines [][]string
	for line := range strings.Lines(file) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
			lines = append(lines, strings.Split(line, "|"))
		}
	}
	return lines[0], lines[1:]
}()

// Languages returns the tags of the languages that the book knows.
func Languages() []string { return slices.Clone(languages) }

// names are those of the demo, which are the same in all languages.
var names = []string{"Kelpwick", "Ferries", "Aldermouth", "Sandry", "Northholm", "Little", "Fenna", "Isle", "Brae", "MV", "Curlew", "Sandpiper", "Dunlin"}

func column(language string) int { return slices.Index(languages, language) }

// piece is a word, or what stands between words.
type piece struct {
	text string
	word bool
}

// Translate looks up the longest phrases that a text is made of.
func Translate(in Question) Answer {
	from, into := column(in.From), column(in.Into)
	pieces, a := split(in.Text), Answer{Unknown: []string{}}
	var out strings.Builder
	for i := 0; i < len(pieces); {
		if !pieces[i].word {
			out.WriteString(pieces[i].text)
			i++
			continue
		}
		if line, used := longest(pieces[i:], from); line != nil {
			out.WriteString(likeWritten(line[into], out.String()))
			i += used
			continue
		}
		if word := pieces[i].text; same(word) {
			out.WriteString(word)
		} else {
			out.WriteString("‹" + word + "›")
			if !slices.Contains(a.Unknown, word) {
				a.Unknown = append(a.Unknown, word)
			}
		}
		i++
	}
	a.Text = out.String()
	return a
}

// longest returns the longest phrase with which some pieces begin, and how many it takes.
func longest(pieces []piece, from int) (line []string, used int) {
	most := 0
	for _, p := range phrases {
		wanted := words(p[from])
		if len(wanted) <= most {
			continue
		}
		if n := begins(pieces, wanted); n > 0 {
			line, used, most = p, n, len(wanted)
		}
	}
	return line, used
}

// begins returns how many pieces some words take that stand at their beginning, with nothing
// but spaces between them; none if they do not.
func begins(pieces []piece, wanted []string) int {
	at := 0
	for _, w := range wanted {
		if at > 0 && at < len(pieces) && strings.TrimSpace(pieces[at].text) == "" {
			at++
		}
		if at >= len(pieces) || !pieces[at].word || !strings.EqualFold(pieces[at].text, w) {
			return 0
		}
		at++
	}
	return at
}

// likeWritten begins a phrase with a capital where a sentence begins.
func likeWritten(phrase, before string) string {
	before = strings.TrimRight(before, " \t")
	begins := before == "" || strings.ContainsAny(before[len(before)-1:], ".!?\n")
	if begins {
		_, size := utf8.DecodeRuneInString(phrase)
		return strings.ToUpper(phrase[:size]) + phrase[size:]
	}
	return phrase
}

// same reports whether a word is the same in all languages: numbers, codes and names.
func same(word string) bool {
	return strings.ContainsFunc(word, unicode.IsDigit) || slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, word) })
}

func words(text string) []string {
	var list []string
	for _, p := range split(text) {
		if p.word {
			list = append(list, p.text)
		}
	}
	return list
}

// split cuts a text into words and what stands between them.
func split(text string) []piece {
	var list []piece
	for _, r := range text {
		word := unicode.IsLetter(r) || unicode.IsDigit(r) || r == '\'' || r == '’' || r == '-'
		if n := len(list); n > 0 && list[n-1].word == word {
			list[n-1].text += string(r)
		} else {
			list = append(list, piece{string(r), word})
		}
	}
	return list
}
