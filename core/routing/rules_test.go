package routing_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/routing"
)

var facts = routing.Facts{
	PageURL: "https://kelpwick.example/Freight/lorries?ton=12", PageTitle: "Lorries", Referrer: "https://search.example/", Country: "DK",
	Language: "da-DK", Device: "phone", Widget: "kelpwick", Visits: 3, Basket: 412.8, Hour: 9,
	Form:    map[string]string{"topic": "Group travel"},
	Contact: map[string]string{"email": "wren@example.com"},
	Outside: map[string]string{"nan": "NaN", "tier": "Gold", "bookings": "31"},
}

func rule(conditions ...routing.Condition) routing.Rule {
	return routing.Rule{ID: "r", Name: "Rule", On: true, Match: routing.All, Conditions: conditions, Department: "freight"}
}

func matches(t *testing.T, r routing.Rule) bool {
	t.Helper()
	set, wrong := routing.Compile([]routing.Rule{r})
	require.Empty(t, wrong)
	return set.Decide(facts, places).Rule == "r"
}

var places = routing.Places{
	Departments: map[string]string{"freight": "Freight", "help": "Travel help"}, Operators: map[string]string{"tove": "Tove", "idris": "Idris"},
	AccountOwner: "tove", Default: "help",
}

func TestConditions(t *testing.T) {
	for _, c := range []struct {
		field string
		op    routing.Operator
		value string
		want  bool
	}{
		{"page.url", routing.Contains, "/freight", true},
		{"page.url", routing.Contains, "/fares", false},
		{"page.url", routing.StartsWith, "https://kelpwick", true},
		{"page.url", routing.Matches, `/freight/\w+\?ton=1[0-9]$`, true},
		{"page.url", routing.Matches, `^/freight`, false},
		{"page.title", routing.Equals, " lorries ", true},
		{"referrer", routing.Contains, "search", true},
		{"country", routing.InList, "SE, dk\nNO", true},
		{"country", routing.InList, "SE, NO", false},
		{"country", routing.Not, "SE", true},
		{"outside.nothing", routing.InList, "SE, , NO", false},
		{"language", routing.Equals, "da", true},
		{"language", routing.Equals, "da_DK", true},
		{"language", routing.Equals, "da-GL", false},
		{"language", routing.InList, "no, da", true},
		{"language", routing.Not, "no", true},
		{"outside.nan", routing.AtLeast, "0", false},
		{"language", routing.StartsWith, "da", true},
		{"device", routing.Equals, "phone", true},
		{"widget", routing.Equals, "kelpwick", true},
		{"visits", routing.AtLeast, "3", true},
		{"visits", routing.AtMost, "2", false},
		{"basket", routing.AtLeast, "412.80", true},
		{"hour", routing.AtMost, "8.5", false},
		{"form.topic", routing.Equals, "group travel", true},
		{"contact.email", routing.Contains, "@example.com", true},
		{"outside.tier", routing.Equals, "gold", true},
		{"outside.bookings", routing.AtLeast, "30", true},
		// What is not known equals nothing and is no number.
		{"outside.nothing", routing.Equals, "x", false},
		{"outside.nothing", routing.Equals, "", true},
		{"outside.nothing", routing.AtLeast, "0", false},
		{"form.topic", routing.AtLeast, "0", false},
	} {
		require.Equal(t, c.want, matches(t, rule(routing.Condition{Field: c.field, Operator: c.op, Value: c.value})), "%s %s %q", c.field, c.op, c.value)
	}
}

func TestAllAnyAndNone(t *testing.T) {
	yes, no := routing.Condition{Field: "country", Operator: routing.Equals, Value: "dk"}, routing.Condition{Field: "country", Operator: routing.Equals, Value: "se"}
	any := func(c ...routing.Condition) routing.Rule {
		r := rule(c...)
		r.Match = routing.Any
		return r
	}
	require.True(t, matches(t, rule(yes, yes)))
	require.False(t, matches(t, rule(yes, no)))
	require.True(t, matches(t, any(no, yes)))
	require.False(t, matches(t, any(no, no)))
	require.True(t, matches(t, rule()), "a rule without conditions is for every chat")
	require.True(t, matches(t, any()))
}

func TestFirstMatchDecidesAndSaysWhy(t *testing.T) {
	off, first, second := rule(), rule(), rule()
	off.ID, off.On = "off", false
	first.ID, first.Name, first.AccountOwner, first.Priority = "first", "Gold", true, 3
	second.ID, second.Department = "second", "help"
	set, wrong := routing.Compile([]routing.Rule{off, first, second})
	require.Empty(t, wrong)
	d := set.Decide(facts, places)
	require.Equal(t, routing.Decision{Department: "freight", Prefer: "tove", Priority: 3, Rule: "first", Reasons: []routing.Reason{
		{Code: routing.ByRule, Values: map[string]string{"rule": "Gold"}},
		{Code: routing.ToAccount, Values: map[string]string{"operator": "Tove"}},
		{Code: routing.WithPriority, Values: map[string]string{"priority": "3"}},
	}}, d)
}

func TestWhereChatsGoWithoutARule(t *testing.T) {
	var none routing.RuleSet
	require.Equal(t, "help", none.Decide(facts, places).Department)
	chosen := facts
	chosen.Department = "freight"
	d := none.Decide(chosen, places)
	require.Equal(t, "freight", d.Department)
	require.Equal(t, []routing.Code{routing.ByForm}, codes(d.Reasons))
	chosen.Department = "gone"
	require.Equal(t, "help", none.Decide(chosen, places).Department)
}

// A rule to a department or an operator who is no more does not lose the chat.
func TestRuleToWhatIsNoMore(t *testing.T) {
	r := rule()
	r.Department, r.Operator = "removed", "removed"
	set, _ := routing.Compile([]routing.Rule{r})
	d := set.Decide(facts, places)
	require.Equal(t, "help", d.Department)
	require.Empty(t, d.Prefer)
	require.Equal(t, []routing.Code{routing.ByRule, routing.DepartmentGone, routing.OperatorGone, routing.ByDefault}, codes(d.Reasons))

	r = rule()
	r.AccountOwner, r.Operator = true, "idris"
	nobody := places
	nobody.AccountOwner = ""
	set, _ = routing.Compile([]routing.Rule{r})
	require.Equal(t, "idris", set.Decide(facts, nobody).Prefer, "without an account owner the named operator is asked")
}

func TestWrongRulesAreRefusedAtTheirField(t *testing.T) {
	bad := routing.Rule{On: true, Match: "some", Priority: 99, Conditions: []routing.Condition{
		{Field: "page.url", Operator: routing.Matches, Value: "(["},
		{Field: "visits", Operator: routing.AtLeast, Value: "many"},
		{Field: "weather", Operator: routing.Equals, Value: "rain"},
		{Field: "outside.", Operator: routing.Equals, Value: "x"},
		{Field: "country", Operator: "sounds like", Value: "x"},
		{Field: "country", Operator: routing.Contains, Value: " "},
	}}
	set, wrong := routing.Compile([]routing.Rule{bad, rule()})
	fields := map[string]string{}
	for _, w := range wrong {
		fields[w.Field] = w.Words
	}
	require.Len(t, fields, 9)
	require.Equal(t, "The pattern \"([\" cannot be read: missing closing ]: `[`.", fields["rules.0.conditions.0"])
	require.Equal(t, `"many" is not a number.`, fields["rules.0.conditions.1"])
	require.Equal(t, "r", set.Decide(facts, places).Rule, "the other rules still hold")
	nothing := rule()
	nothing.Department = ""
	_, wrong = routing.Compile([]routing.Rule{nothing})
	require.Equal(t, "Choose what happens: a department, an operator or a priority.", wrong[0].Words)
}
