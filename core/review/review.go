// Package review draws the chats that a lead reads, and adds up what they say of them.
package review

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"slices"
)

// Candidate is a chat that may be drawn.
type Candidate struct {
	Chat  string
	Group string // of those among which the draw is shared out evenly
}

// Draw returns up to so many chats: as many of each group as of any other, as far as it has
// them, and of those of a group each with the same chance. The same candidates and the same
// seed give the same chats, in whatever order the candidates come; they are returned in an
// order that no group leads.
//
// It is stratified sampling with equal allocation (Cochran, Sampling Techniques, 3rd ed.,
// ch. 5; from memory): which chats of a group are drawn is decided by the SHA-256 of seed
// and chat, so that a chat which comes in or goes away moves no other.
func Draw(candidates []Candidate, atMost int, seed string) []string {
	type ticket struct{ chat, number string }
	groups := map[string][]ticket{}
	for _, c := range candidates {
		groups[c.Group] = append(groups[c.Group], ticket{c.Chat, numberOf(seed, c.Chat)})
	}
	var names []string
	for name, tickets := range groups {
		names = append(names, name)
		slices.SortFunc(tickets, func(a, b ticket) int { return cmp.Or(cmp.Compare(a.number, b.number), cmp.Compare(a.chat, b.chat)) })
	}
	// Which group gets what is left over is drawn too.
	slices.SortFunc(names, func(a, b string) int { return cmp.Compare(numberOf(seed, "group "+a), numberOf(seed, "group "+b)) })
	var drawn []string
	for round := 0; len(drawn) < atMost; round++ {
		more := false
		for _, name := range names {
			if round < len(groups[name]) && len(drawn) < atMost {
				drawn, more = append(drawn, groups[name][round].chat), true
			}
		}
		if !more {
			break
		}
	}
	return drawn
}

func numberOf(seed, of string) string {
	sum := sha256.Sum256([]byte(seed + "\x00" + of))
	return hex.EncodeToString(sum[:])
}

// The ways in which the groups of a draw are made.
const (
	ByOperator = "operator"
	ByRating   = "rating"
	ByLength   = "length"
	ByOutcome  = "outcome"
)

// Score is what a reader says of one point of the form.
type Score string

// The scores. A point that does not apply counts neither way.
const (
	Yes    Score = "yes"
	Partly Score = "partly"
	No     Score = "no"
	None   Score = "none"
)

// Scores are all of them.
var Scores = []Score{Yes, Partly, No, None}

// Total adds the scores of a chat up: a yes is one point, a partly a half one, out of as
// many as apply. With none that applies, of is 0 and there is no share.
func Total(scores []Score) (points float64, of int) {
	for _, s := range scores {
		switch s {
		case Yes:
			points++
		case Partly:
			points += 0.5
		case No:
		default:
			continue
		}
		of++
	}
	return points, of
}
