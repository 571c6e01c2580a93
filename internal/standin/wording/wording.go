// Package wording stands in for a language model that words the helper's answers. It is
// deterministic: of the first passage it says the sentences in which words of the question
// stand, and nothing of its own.
package wording

import (
	"encoding/json"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"unicode"
)

// Question is what it is asked.
type Question struct {
	Question string    `json:"question"`
	Language string    `json:"language"`
	Passages []Passage `json:"passages"`
}

// Passage is a part of an article, of which it may use the text.
type Passage struct {
	Title string `json:"title"`
	Text  string `json:"text"`
}

// Answer is what it answers.
type Answer struct {
	Text    string `json:"text"`
	Passage int    `json:"passage"` // that it is from; -1: none answers the question
}

// Handler answers by the interface that docs/guide/helper.md describes. Whoever does not
// send the key is turned away.
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
		w.Header().Set("Content-Type", "application/json")
		if err := json.NewEncoder(w).Encode(Word(in)); err != nil {
			log.Warn("an answer could not be sent", "error", err)
		}
	})
}

// sentencesMost bounds an answer.
const sentencesMost = 2

// Word words an answer.
func Word(in Question) Answer {
	asked := wordsOf(in.Question)
	for i, p := range in.Passages {
		var said []string
		for _, s := range sentences(p.Text) {
			if len(said) < sentencesMost && slices.ContainsFunc(wordsOf(s), func(w string) bool { return slices.Contains(asked, w) }) {
				said = append(said, s)
			}
		}
		if len(said) > 0 {
			return Answer{Text: strings.Join(said, " "), Passage: i}
		}
	}
	return Answer{Passage: -1}
}

// wordsOf returns the words of a text that are long enough to mean something, by their
// beginnings.
func wordsOf(text string) []string {
	var list []string
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if runes := []rune(w); len(runes) >= 4 {
			list = append(list, string(runes[:4]))
		}
	}
	return list
}

func sentences(text string) []string {
	var list []string
	for _, line := range strings.Split(text, "\n") {
		for _, s := range strings.SplitAfter(line, ". ") {
			if s = strings.TrimSpace(s); s != "" {
				list = append(list, s)
			}
		}
	}
	return list
}
