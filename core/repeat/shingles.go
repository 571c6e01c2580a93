// Package repeat finds what is written again and again in other words: near-duplicates
// among many short texts.
package repeat

import (
	"hash/fnv"
	"slices"
	"strings"
	"unicode"

	"stoop/core/search"
)

// Number is the word that stands for any with a digit in it: times, prices, bookings.
const Number = "0"

// Normal returns the words of a text as they are compared: folded, numbers all the same,
// and without those that are put aside, as names are.
func Normal(text string, aside func(word string) bool) []string {
	var words []string
	for _, w := range search.Words(text) {
		switch {
		case strings.ContainsFunc(w.Folded, unicode.IsDigit):
			if len(words) == 0 || words[len(words)-1] != Number { // 14:10 is two words, and one number
				words = append(words, Number)
			}
		case aside == nil || !aside(w.Folded):
			words = append(words, w.Folded)
		}
	}
	return words
}

// Set is a text as what it is compared by: its shingles, hashed, in order, each once.
type Set []uint64

// Shingles returns every so many words in a row of a text. A text that is shorter is one
// shingle. (Broder, "On the resemblance and containment of documents", 1997.)
func Shingles(words []string, inARow int) Set {
	if len(words) == 0 {
		return nil
	}
	if len(words) < inARow {
		return Set{hashOf(words)}
	}
	set := make(Set, 0, len(words)-inARow+1)
	for i := range len(words) - inARow + 1 {
		set = append(set, hashOf(words[i:i+inARow]))
	}
	slices.Sort(set)
	return slices.Compact(set)
}

func hashOf(words []string) uint64 {
	h := fnv.New64a()
	for _, w := range words {
		_, _ = h.Write([]byte(w)) // a hash takes all
		_, _ = h.Write([]byte{0})
	}
	return h.Sum64()
}

// Jaccard returns what share of all shingles of two texts is in both: from 0 to 1. Two texts
// without any have none in common.
func Jaccard(a, b Set) float64 {
	both := 0
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch {
		case a[i] == b[j]:
			both, i, j = both+1, i+1, j+1
		case a[i] < b[j]:
			i++
		default:
			j++
		}
	}
	if all := len(a) + len(b) - both; all > 0 {
		return float64(both) / float64(all)
	}
	return 0
}
