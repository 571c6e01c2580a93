// Package phone reads telephone numbers as people write them, and brings them into the form of
// ITU-T E.164, by the rules of libphonenumber.
package phone

import (
	"strings"

	"github.com/nyaruka/phonenumbers"
)

// Parse returns a number as E.164, such as +4532123456. Region is the country (ISO 3166-1) of
// numbers that are written without one; empty where there is none. It returns false for what
// cannot be a number there.
func Parse(number, region string) (e164 string, ok bool) {
	parsed, err := phonenumbers.Parse(strings.TrimSpace(number), strings.ToUpper(region))
	if err != nil || !phonenumbers.IsPossibleNumber(parsed) {
		return "", false
	}
	return phonenumbers.Format(parsed, phonenumbers.E164), true
}

// Shown returns a number of the form of E.164 as people read it.
func Shown(e164 string) string {
	parsed, err := phonenumbers.Parse(e164, "")
	if err != nil {
		return e164
	}
	return phonenumbers.Format(parsed, phonenumbers.INTERNATIONAL)
}

// Region reports whether there is such a country, for numbers that are written without one.
func Region(code string) bool {
	return phonenumbers.GetCountryCodeForRegion(strings.ToUpper(code)) != 0
}
