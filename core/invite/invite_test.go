package invite_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/invite"
	"stoop/core/routing"
)

var noon = time.Date(2026, time.June, 3, 12, 0, 0, 0, time.UTC)

func rule(id string, change func(*invite.InvitationRule)) invite.InvitationRule {
	r := invite.InvitationRule{ID: id, Name: id, On: true, Match: routing.All, Text: "Can I help?", Share: 100,
		Conditions: []routing.Condition{{Field: "page.seconds", Operator: routing.AtLeast, Value: "30"}}}
	if change != nil {
		change(&r)
	}
	return r
}

func decide(t *testing.T, f routing.Facts, page string, h invite.History, draw float64, rules ...invite.InvitationRule) (invite.Decision, bool) {
	t.Helper()
	set, wrong := invite.Compile(rules)
	require.Empty(t, wrong)
	return set.Decide(f.Plain(), page, h, func(string) float64 { return draw }, func(r invite.InvitationRule) bool { return r.Department != "shut" })
}

func TestTheFirstRuleThatMatchesInvites(t *testing.T) {
	stays := routing.Facts{PageSeconds: 30}
	d, ok := decide(t, stays, "https://kelpwick.example/book", invite.History{}, 0,
		rule("off", func(r *invite.InvitationRule) { r.On = false }),
		rule("elsewhere", func(r *invite.InvitationRule) { r.Pages = []string{"/freight*"} }),
		rule("nobody is in", func(r *invite.InvitationRule) { r.Department = "shut" }),
		rule("book", func(r *invite.InvitationRule) { r.Pages = []string{"/book*"} }),
		rule("any", nil))
	require.True(t, ok)
	require.Equal(t, "book", d.Rule.ID)
	require.True(t, d.Invites)

	_, ok = decide(t, routing.Facts{PageSeconds: 29}, "", invite.History{}, 0, rule("any", nil))
	require.False(t, ok, "a second early")
	_, ok = decide(t, stays, "", invite.History{Tried: []string{"any"}}, 0, rule("any", nil))
	require.False(t, ok, "a rule is tried once in a visit")
	set, _ := invite.Compile(nil)
	require.True(t, set.Empty())
}

// All conditions that are there beside those of routing.
func TestConditionsOfAVisit(t *testing.T) {
	f := routing.Facts{
		PageSeconds: 40, SiteSeconds: 300, Pages: 4, FormSeconds: 20, Basket: 268, BasketChange: -12.5, Score: 61, Visits: 2, Country: "DK",
		Topics: []string{"Freight", "Animals"}, Source: "email", Campaign: "winter-sailings", Vouched: map[string]string{"tier": "Gold"},
	}
	for field, value := range map[string]string{
		"page.seconds >=": "40", "site.seconds <=": "300", "pages >=": "4", "form.seconds >=": "20", "basket >=": "200", "basket.change <=": "-10", "score >=": "60",
		"returning =": "yes", "country =": "dk", "topics ~": "freight", "source =": "email", "campaign =": "Winter-Sailings", "vouched.tier =": "gold",
	} {
		name, sign := "", ""
		_, err := fmt.Sscan(field, &name, &sign)
		require.NoError(t, err)
		operator := map[string]routing.Operator{">=": routing.AtLeast, "<=": routing.AtMost, "=": routing.Equals, "~": routing.Contains}[sign]
		r := rule("r", func(r *invite.InvitationRule) {
			r.Conditions = []routing.Condition{{Field: name, Operator: operator, Value: value}}
		})
		_, ok := decide(t, f, "", invite.History{}, 0, r)
		require.True(t, ok, field)
		_, ok = decide(t, routing.Facts{BasketChange: 1, SiteSeconds: 900}, "", invite.History{}, 0, r)
		require.False(t, ok, field)
	}
}

// Nobody is pestered: each limit alone holds somebody back, and none of them for ever.
func TestNobodyIsPestered(t *testing.T) {
	l := invite.Limits{PerVisit: 2, PerWeek: 3, QuietHours: 72, Apart: 120, Stays: 90}
	for _, c := range []struct {
		h    invite.History
		want invite.Refusal
	}{
		{invite.History{}, ""},
		{invite.History{Served: true}, invite.Served},
		{invite.History{Standing: true}, invite.Standing},
		{invite.History{ThisVisit: 2}, invite.OftenThisVisit},
		{invite.History{Week: 3}, invite.OftenThisWeek},
		{invite.History{Last: noon.Add(-119 * time.Second)}, invite.TooSoon},
		{invite.History{Last: noon.Add(-120 * time.Second)}, ""},
		{invite.History{Refused: noon.Add(-72*time.Hour + time.Second)}, invite.Quiet},
		{invite.History{Refused: noon.Add(-72 * time.Hour)}, ""},
	} {
		may, why := l.May(c.h, noon)
		require.Equal(t, c.want, why)
		require.Equal(t, c.want == "", may)
	}
	require.Empty(t, invite.Usual.Check())
	require.Len(t, invite.Limits{PerVisit: -1, PerWeek: 101, QuietHours: -1, Apart: 4000, Stays: 5}.Check(), 5)
}

// The shares come out as they were asked for: of those who match, who is invited, and
// who of them reads which text.
func TestSharesComeOut(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	invited, second := 0, 0
	const n = 20_000
	for range n {
		d, ok := decide(t, routing.Facts{PageSeconds: 60}, "", invite.History{}, random.Float64(), rule("r", func(r *invite.InvitationRule) { r.Share, r.Other = 60, "Any questions?" }))
		require.True(t, ok)
		if d.Invites {
			invited++
		}
		if d.Second {
			second++
			require.Equal(t, "Any questions?", d.Text)
			require.True(t, d.Invites)
		}
	}
	require.InDelta(t, 0.6, float64(invited)/n, 0.015)
	require.InDelta(t, 0.3, float64(second)/n, 0.015)
}

func TestRulesAreChecked(t *testing.T) {
	_, wrong := invite.Compile([]invite.InvitationRule{
		{ID: "1", Match: "some", Share: 101, Pages: []string{"freight"}, Conditions: []routing.Condition{{Field: "score", Operator: routing.AtLeast, Value: "many"}}},
		rule("everybody", func(r *invite.InvitationRule) { r.Conditions = nil }),
	})
	fields := []string{}
	for _, w := range wrong {
		fields = append(fields, w.Field)
	}
	require.ElementsMatch(t, []string{"rules.0.name", "rules.0.match", "rules.0.text", "rules.0.share", "rules.0.pages", "rules.0.conditions.0", "rules.1.conditions"}, fields)
}

// The draw is the same at all times, and fair over many: of 20,000 visitors the share
// below each tenth lies within 4 standard errors of a tenth (binomial), and two rules
// draw apart from each other.
func TestTheDrawIsFair(t *testing.T) {
	const n = 20_000
	var tenths [10]int
	both := 0
	for i := range n {
		draw := invite.Draw(fmt.Sprintf("visitor %d", i))
		at := draw("fares")
		require.Equal(t, at, draw("fares"))
		require.True(t, at >= 0 && at < 1)
		tenths[int(at*10)]++
		if at < 0.5 && draw("groups") < 0.5 {
			both++
		}
	}
	within := func(got int, share float64) {
		t.Helper()
		require.InDelta(t, share, float64(got)/n, 4*math.Sqrt(share*(1-share)/n))
	}
	for _, got := range tenths {
		within(got, 0.1)
	}
	within(both, 0.25)
}

// By hand the limits of rules do not hold, but a no does.
func TestAskedAgainByHand(t *testing.T) {
	now := time.Date(2026, time.June, 3, 12, 0, 0, 0, time.UTC)
	require.True(t, invite.MayByHand(invite.History{ThisVisit: 9, Week: 9, Last: now}, now))
	require.False(t, invite.MayByHand(invite.History{Refused: now.Add(-invite.PeaceByHand + time.Second)}, now))
	require.True(t, invite.MayByHand(invite.History{Refused: now.Add(-invite.PeaceByHand)}, now))
}
