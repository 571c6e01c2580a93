package store

import "strings"

// SearchTerms turns words typed on one line into terms of a text search query,
// each matching the beginning of a word. Quoting keeps every character literal.
func SearchTerms(words string) []string {
	var terms []string
	words = strings.NewReplacer("<", " ", ">", " ").Replace(words) // as search_words does
	for _, w := range strings.Fields(words) {
		quoted := strings.NewReplacer(`\`, `\\`, `'`, `''`).Replace(w)
		terms = append(terms, "'"+quoted+"':*")
	}
	return terms
}
