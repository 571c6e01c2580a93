// Package tongue tells whether two language tags name the same language.
package tongue

import (
	"strings"

	"golang.org/x/text/language"
)

// Base returns the language of a tag: whoever speaks da speaks da-DK and da_DK.
// Tags are read as BCP 47 has them (RFC 5646), with old and local codes brought
// to their usual form: Bokmål (nb) is Norwegian (no). What cannot be read is
// its first part in small letters; nothing has no language.
func Base(tag string) string {
	tag = strings.ReplaceAll(strings.TrimSpace(tag), "_", "-")
	if tag == "" {
		return ""
	}
	parsed, err := language.All.Parse(tag)
	if err != nil {
		first, _, _ := strings.Cut(strings.ToLower(tag), "-")
		return first
	}
	base, _ := parsed.Base()
	return base.String()
}
