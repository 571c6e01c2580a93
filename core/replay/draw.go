package replay

import (
	"hash/fnv"
	"math"
	"slices"
	"strings"
	"time"
)

// Chance returns a number from 0 to 1, both excluded, that is always the same for a chat
// and a purpose, and has nothing to do with that of any other (FNV-1a, mixed by the last
// step of SplitMix64: Steele, Lea and Flood, "Fast splittable pseudorandom number
// generators", 2014; constants from memory).
func Chance(chat, purpose string) float64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(purpose + " " + chat)) // never fails
	x := h.Sum64()
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	x ^= x >> 31
	return (float64(x>>11) + 0.5) / (1 << 53)
}

// StillPatient returns how long a visitor would have waited who was taken, or went to a
// closed door, after having waited so long: what is left of an exponential patience does
// not depend on how long it has lasted.
func StillPatient(chat string, waited, mean time.Duration) time.Duration {
	return waited + time.Duration(-math.Log(Chance(chat, "patience"))*float64(mean))
}

// OneOf returns one of some durations for a chat, or a usual one if there are none.
func OneOf(chat string, of []time.Duration, usual time.Duration) time.Duration {
	if len(of) == 0 {
		return usual
	}
	return of[int(Chance(chat, "handling")*float64(len(of)))]
}

// Knows reports whether a field that rules ask for is kept of each chat. What is not is
// unknown in a replay.
func Knows(field string) bool {
	return slices.Contains([]string{"page.url", "page.title", "country", "source", "language", "widget", "hour"}, field) ||
		strings.HasPrefix(field, "form.") || strings.HasPrefix(field, "contact.") || strings.HasPrefix(field, "outside.")
}
