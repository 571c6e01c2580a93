// Package invite decides whom to invite to a chat who has not written: by rules in
// their order, never so often that anybody is pestered, and only when somebody can
// answer.
package invite

import (
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"time"

	"stoop/core/routing"
	"stoop/core/visit"
)

// InvitationRule invites visitors who match its conditions. Rules stand in order; the first
// that matches, and for which somebody can answer, invites.
type InvitationRule struct {
	ID         string              `json:"id"`
	Name       string              `json:"name"`
	On         bool                `json:"on"`
	Match      routing.Match       `json:"match"`
	Conditions []routing.Condition `json:"conditions"`
	// Pages are patterns; none: every page.
	Pages []string `json:"pages"`
	// Text is what the visitor reads. With Other, half of those who are invited read
	// that instead.
	Text  string `json:"text"`
	Other string `json:"other,omitempty"`
	// Department answers; empty: the one to which a chat of the visitor would go.
	Department string `json:"department,omitempty"`
	// Opens: the panel opens by itself, and no card is shown before.
	Opens bool `json:"opens,omitempty"`
	// Share is how many of a hundred who match are invited. The others are counted
	// as matched and not invited, so that it can be seen what inviting does.
	Share int `json:"share"`
}

// Limits keep visitors from being pestered, whatever the rules.
type Limits struct {
	PerVisit   int `json:"perVisit"`   // invitations of one visit
	PerWeek    int `json:"perWeek"`    // of one visitor in seven days
	QuietHours int `json:"quietHours"` // after one was refused
	Apart      int `json:"apart"`      // seconds between two
	Stays      int `json:"stays"`      // seconds that one is shown at most
}

// Usual are the limits that hold unless an admin says otherwise.
var Usual = Limits{PerVisit: 1, PerWeek: 3, QuietHours: 72, Apart: 120, Stays: 90}

// Week is the time over which PerWeek counts.
const Week = 7 * 24 * time.Hour

// History is what a visitor has been shown before.
type History struct {
	ThisVisit int       // invitations by rules and by hand in this visit
	Week      int       // in the last seven days
	Last      time.Time // the last one; zero for none
	Refused   time.Time // when one was refused last; zero for never
	Tried     []string  // rules that matched in this visit, whether they invited or not
	Served    bool      // in a chat, waiting, or a message of theirs is open
	Standing  bool      // an invitation is on their screen
}

// May reports whether a visitor may be invited at all; if not, why.
func (l Limits) May(h History, now time.Time) (bool, Refusal) {
	switch {
	case h.Served:
		return false, Served
	case h.Standing:
		return false, Standing
	case l.QuietHours > 0 && !h.Refused.IsZero() && now.Sub(h.Refused) < time.Duration(l.QuietHours)*time.Hour:
		return false, Quiet
	case h.ThisVisit >= l.PerVisit:
		return false, OftenThisVisit
	case h.Week >= l.PerWeek:
		return false, OftenThisWeek
	case !h.Last.IsZero() && now.Sub(h.Last) < time.Duration(l.Apart)*time.Second:
		return false, TooSoon
	}
	return true, ""
}

// PeaceByHand is how long nobody may invite by hand who has just refused.
const PeaceByHand = 10 * time.Minute

// MayByHand reports whether an operator may invite somebody of their own will. The
// limits of rules do not hold for that, but nobody is asked again who has just said no.
func MayByHand(h History, now time.Time) bool { return now.Sub(h.Refused) >= PeaceByHand }

// Refusal is why somebody is not invited.
type Refusal string

// The refusals.
const (
	Served         Refusal = "served"
	Standing       Refusal = "standing"
	Quiet          Refusal = "quiet"
	OftenThisVisit Refusal = "visit"
	OftenThisWeek  Refusal = "week"
	TooSoon        Refusal = "soon"
)

// Set is a list of rules, ready to be asked. The zero value invites nobody.
type Set struct {
	rules []compiled
}

type compiled struct {
	InvitationRule
	conditions routing.Conditions
}

// Empty reports whether no rule is on.
func (set Set) Empty() bool { return len(set.rules) == 0 }

// Limits of rules.
const (
	RulesMost  = 50
	TextLength = 300 // code points
)

// Wrong is one thing that is wrong with settings, at a field of them.
type Wrong struct{ Field, Words string }

// Compile makes the rules ready that are on. What is wrong is returned as well, also
// of those that are off; the set leaves out the rules that are wrong.
func Compile(rules []InvitationRule) (Set, []Wrong) {
	var set Set
	var wrong []Wrong
	if len(rules) > RulesMost {
		wrong = append(wrong, Wrong{"rules", "There can be up to 50 rules."})
	}
	for i, r := range rules {
		before := len(wrong)
		at := func(part, words string) { wrong = append(wrong, Wrong{fmt.Sprintf("rules.%d.%s", i, part), words}) }
		if r.Name == "" {
			at("name", "Give the rule a name. Reports name it.")
		}
		if r.Match != routing.All && r.Match != routing.Any {
			at("match", "Choose whether all or any of the conditions must match.")
		}
		if strings.TrimSpace(r.Text) == "" {
			at("text", "Write what the visitor reads.")
		}
		if len([]rune(r.Text)) > TextLength || len([]rune(r.Other)) > TextLength {
			at("text", "An invitation has up to 300 characters.")
		}
		if r.Share < 1 || r.Share > 100 {
			at("share", "The share must be between 1 and 100.")
		}
		if words := visit.CheckPatterns(r.Pages); words != "" {
			at("pages", words)
		}
		conditions, bad := routing.CompileConditions(r.Match, r.Conditions)
		for j := range r.Conditions {
			if words, is := bad[j]; is {
				at(fmt.Sprintf("conditions.%d", j), words)
			}
		}
		if len(r.Conditions) == 0 && len(r.Pages) == 0 {
			at("conditions", "Say whom to invite: a rule without conditions and pages invites everybody at once.")
		}
		if len(wrong) == before && r.On {
			set.rules = append(set.rules, compiled{r, conditions})
		}
	}
	return set, wrong
}

// Check returns what is wrong with the limits.
func (l Limits) Check() []Wrong {
	var wrong []Wrong
	between := func(field string, n, least, most int) {
		if n < least || n > most {
			wrong = append(wrong, Wrong{field, fmt.Sprintf("This must be between %d and %d.", least, most)})
		}
	}
	between("perVisit", l.PerVisit, 0, 20)
	between("perWeek", l.PerWeek, 0, 100)
	between("quietHours", l.QuietHours, 0, 8760)
	between("apart", l.Apart, 0, 3600)
	between("stays", l.Stays, 10, 600)
	return wrong
}

// Decision is what becomes of a visitor who matches a rule.
type Decision struct {
	Rule InvitationRule
	// Invites is false for those who are only counted, to compare with.
	Invites bool
	Text    string
	// Second: it is the other text.
	Second bool
}

// Decide returns the rule by which somebody is invited, if one does. Draw is a
// number from 0 up to 1 that is the same for the visitor and the rule at all times;
// answers tells whether somebody of the department of a rule could answer now.
func (set Set) Decide(f routing.Plain, page string, h History, draw func(rule string) float64, answers func(InvitationRule) bool) (Decision, bool) {
	for _, r := range set.rules {
		if slices.Contains(h.Tried, r.ID) || len(r.Pages) > 0 && !visit.MatchesAny(r.Pages, page) || !r.conditions.Hold(f) || !answers(r.InvitationRule) {
			continue
		}
		share := float64(r.Share) / 100
		at := draw(r.ID)
		d := Decision{Rule: r.InvitationRule, Invites: at < share, Text: r.Text}
		if d.Invites && r.Other != "" && at >= share/2 {
			d.Text, d.Second = r.Other, true
		}
		return d, true
	}
	return Decision{}, false
}

// Draw returns a number from 0 up to 1 for a visitor and a rule, always the same for
// both: who is left out to be compared with stays so.
func Draw(visitorID string) func(rule string) float64 {
	return func(rule string) float64 {
		h := fnv.New64a()
		_, _ = h.Write([]byte(visitorID + rule)) // never fails
		return float64(mixed(h.Sum64())>>11) / (1 << 53)
	}
}

// mixed spreads a hash over all its bits (the finalizer of MurmurHash3).
func mixed(h uint64) uint64 {
	h ^= h >> 33
	h *= 0xff51afd7ed558ccd
	h ^= h >> 33
	h *= 0xc4ceb9fe1a85ec53
	return h ^ h>>33
}
