package repeat

import (
	"math"
	"time"
	"unicode/utf8"
)

// Who types writes about 40 words of five letters a minute, and takes a few seconds to
// choose a stored answer: common practice in the trade, without a source.
const (
	lettersAMinute = 200
	choosing       = 4 * time.Second
)

// Saved returns how much time it would have saved to have a text stored that was typed so
// many times; of a text that is typed as quickly as it is chosen, nothing.
func Saved(text string, times int) time.Duration {
	typing := time.Duration(float64(utf8.RuneCountInString(text)) / lettersAMinute * float64(time.Minute))
	return max(0, typing-choosing) * time.Duration(times)
}

// Telling returns how much each word tells of what a text is about, among all texts in which
// words stand: the logarithm of in how few of them it stands (inverse document frequency,
// Spärck Jones 1972). Words that nobody used tell as much as one that was used once.
func Telling(texts [][]string) func(word string) float64 {
	in := map[string]int{}
	for _, words := range texts {
		seen := map[string]bool{}
		for _, w := range words {
			if !seen[w] {
				seen[w] = true
				in[w]++
			}
		}
	}
	return func(word string) float64 { return math.Log(float64(len(texts)+1) / float64(max(1, in[word]))) }
}

// stem is how many letters of a word must be the same: ferry and ferries, book and booking.
const stem = 5

// Covered returns what part of a question's telling words a text has, from 0 to 1.
func Covered(question []string, text map[string]bool, tells func(string) float64) float64 {
	sum, has := 0.0, 0.0
	seen := map[string]bool{}
	for _, w := range question {
		if w == Number || seen[w] {
			continue
		}
		seen[w] = true
		weight := tells(w)
		sum += weight
		if text[Stem(w)] {
			has += weight
		}
	}
	if sum == 0 {
		return 0
	}
	return has / sum
}

// Stem returns what of a word is compared.
func Stem(word string) string {
	for i, n := 0, 0; i < len(word); n++ {
		if n == stem {
			return word[:i]
		}
		_, size := utf8.DecodeRuneInString(word[i:])
		i += size
	}
	return word
}

// Stems returns what of the words of a text is compared.
func Stems(words []string) map[string]bool {
	all := map[string]bool{}
	for _, w := range words {
		all[Stem(w)] = true
	}
	return all
}
