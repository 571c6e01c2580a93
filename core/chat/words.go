package chat

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// DefaultWordLimit is the longest message of a widget that sets no other
// limit, in Unicode code points.
const DefaultWordLimit = 2000

// NameLimit is the longest name of a person or a thing, in code points.
const NameLimit = 80

// CleanWords returns words as they are stored: valid UTF-8, line ends as LF,
// without control characters other than LF and tab, without white space at the
// ends. It returns ErrEmpty when nothing visible remains and a *TooLongError
// over the limit (in code points). Direction marks and joiners stay: they are
// part of right-to-left text and of emoji.
func CleanWords(words string, limit int) (string, error) {
	text := strings.TrimSpace(withoutControls(words, true))
	if !strings.ContainsFunc(text, visible) {
		return "", ErrEmpty
	}
	if n := utf8.RuneCountInString(text); n > limit {
		return "", &TooLongError{Length: n, Limit: limit}
	}
	return text, nil
}

// CleanLine returns a single-line field (a name, an address, a page title):
// like CleanWords, but on one line, without marks that change the direction of
// what stands beside it, and cut to limit code points instead of refused.
func CleanLine(line string, limit int) string {
	text := strings.Join(strings.Fields(withoutControls(line, false)), " ")
	if utf8.RuneCountInString(text) > limit {
		text = strings.TrimSpace(string([]rune(text)[:limit]))
	}
	return text
}

// oneKindOfLine makes all ends of a line the same.
var oneKindOfLine = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u2028", "\n", "\u2029", "\n")

func withoutControls(s string, keepLines bool) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	s = oneKindOfLine.Replace(s)
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t':
			if keepLines {
				return r
			}
			return ' '
		case unicode.IsControl(r):
			return -1
		case !keepLines && (r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069):
			return -1
		}
		return r
	}, s)
}

// visible reports whether a character leaves a mark: white space, joiners and
// direction marks alone do not make a message.
func visible(r rune) bool {
	return !unicode.IsSpace(r) && !unicode.Is(unicode.Cf, r) && !unicode.Is(unicode.Mn, r)
}

// InParts cuts a long text at the limit of a message, in code points, at the end of a word where
// there is one not far before.
func InParts(text string, limit int) []string {
	var parts []string
	for runes := []rune(strings.TrimSpace(text)); len(runes) > 0; {
		n := min(len(runes), limit)
		if n < len(runes) {
			if blank := strings.LastIndexAny(string(runes[:n]), " \n"); blank > 0 {
				if whole := len([]rune(string(runes[:n])[:blank])); whole > n*3/4 {
					n = whole
				}
			}
		}
		if part := strings.TrimSpace(string(runes[:n])); part != "" {
			parts = append(parts, part)
		}
		runes = runes[n:]
	}
	return parts
}
