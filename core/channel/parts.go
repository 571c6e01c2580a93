package channel

import (
	"strings"
	"unicode/utf16"
)

// Alphabet is the one in which a text message is sent.
type Alphabet string

// The alphabets of 3GPP TS 23.038 (GSM 03.38): the default one with its extension, and UCS-2,
// in which everything is sent as soon as one character is not in the former.
const (
	Default Alphabet = "gsm"
	UCS2    Alphabet = "ucs2"
)

// How many units a message has that is sent in one part, and a part of one that is sent in
// several: 140 octets, of which a header takes 6 (3GPP TS 23.040, 9.2.3.24.1). A unit of the
// default alphabet has 7 bits, one of UCS-2 16.
const (
	defaultAlone, defaultPart = 160, 153
	ucs2Alone, ucs2Part       = 70, 67
)

// The default alphabet (3GPP TS 23.038, 6.2.1) without the escape, and its extension (6.2.1.1),
// whose characters count as two.
const (
	basic = "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?" +
		"¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà"
	extension = "\f^{}\\[~]|€"
)

var basicUnits = func() map[rune]int {
	units := map[rune]int{}
	for _, r := range basic {
		units[r] = 1
	}
	for _, r := range extension {
		units[r] = 2
	}
	return units
}()

// Length is how long words are as a text message.
type Length struct {
	Alphabet Alphabet
	Units    int    // that count: septets of the default alphabet, UTF-16 code units of UCS-2
	Parts    int    // in which it is sent; 0 for no words
	Left     int    // units that still fit into the last part
	Because  string // the first character for which it is not the default alphabet
}

// Measure returns how long words are as a text message. A character of two units stands in one
// part, whole.
func Measure(words string) Length {
	l := Length{Alphabet: Default}
	var sizes []int
	for _, r := range words {
		units, ok := basicUnits[r]
		if !ok {
			l.Alphabet, l.Because = UCS2, string(r)
			break
		}
		sizes = append(sizes, units)
	}
	alone, part := defaultAlone, defaultPart
	if l.Alphabet == UCS2 {
		alone, part = ucs2Alone, ucs2Part
		sizes = sizes[:0]
		for _, r := range words {
			sizes = append(sizes, max(1, utf16.RuneLen(r)))
		}
	}
	for _, size := range sizes {
		l.Units += size
	}
	switch {
	case l.Units == 0:
		l.Left = alone
	case l.Units <= alone:
		l.Parts, l.Left = 1, alone-l.Units
	default:
		l.Parts, l.Left = 1, part
		for _, size := range sizes {
			if size > l.Left {
				l.Parts, l.Left = l.Parts+1, part
			}
			l.Left -= size
		}
	}
	return l
}

// Plain returns words with the typographic marks that keyboards put in by themselves as those of
// the default alphabet, so that one of them does not halve what fits.
func Plain(words string) string { return plain.Replace(words) }

var plain = strings.NewReplacer("’", "'", "‘", "'", "“", `"`, "”", `"`, "„", `"`, "–", "-", "—", "-", "…", "...", "\u00a0", " ", "\u202f", " ", "\t", " ")
