// Package search is the language in which transcripts are searched: how text is cut
// into words, how words are compared, what a typed search means, and which passages it
// finds. Its results are PostgreSQL's text forms of tsvector and tsquery, so that the
// database searches by the very words that are marked on screen.
package search

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// letters are those that a normal form does not take apart, by PostgreSQL's list for
// unaccent.
var letters = map[rune]string{
	'ß': "ss", 'æ': "ae", 'œ': "oe", 'ø': "o", 'đ': "d", 'ð': "d", 'þ': "th", 'ł': "l", 'ħ': "h", 'ı': "i", 'ŋ': "n", 'ŧ': "t", 'ĸ': "q",
}

// Fold returns a word as it is compared: in small letters, without accents, and with
// letters in which two were joined written apart. Fjörð, fjord and FJORD are the same.
func Fold(word string) string {
	if isASCII(word) {
		return strings.ToLower(word)
	}
	var b strings.Builder
	for _, r := range norm.NFKD.String(strings.ToLower(word)) {
		switch {
		case unicode.Is(unicode.Mn, r), r == '·', r == 'ʼ': // what stood above, in or before a letter
		case letters[r] != "":
			b.WriteString(letters[r])
		default:
			b.WriteRune(unicode.ToLower(r))
		}
	}
	return b.String()
}

func isASCII(text string) bool {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// Word is a word in a text: where it stands, in bytes, and as it is compared.
type Word struct {
	From, To int
	Folded   string
}

// longestWord bounds a word, in bytes; what is longer is found by its beginning.
const longestWord = 120

// Words returns the words of a text: runs of letters and digits of any script. All else
// separates them, so an address is several words in a row.
func Words(text string) []Word {
	var words []Word
	from := -1
	end := func(to int) {
		if from >= 0 {
			if folded := cut(Fold(text[from:to]), longestWord); folded != "" {
				words = append(words, Word{from, to, folded})
			}
			from = -1
		}
	}
	for i, r := range text {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsNumber(r):
			if from < 0 {
				from = i
			}
		case unicode.Is(unicode.M, r) && from >= 0: // a mark on the letter before
		default:
			end(i)
		}
	}
	end(len(text))
	return words
}

// cut shortens a text to so many bytes, at a whole character.
func cut(text string, limit int) string {
	if len(text) <= limit {
		return text
	}
	return strings.ToValidUTF8(text[:limit], "")
}
