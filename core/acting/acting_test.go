package acting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/acting"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
)

var (
	begin = time.Date(2026, 11, 29, 10, 0, 0, 0, time.UTC)
	wren  = chat.Visitor("wren")
	maren = chat.Operator("maren")
	known = acting.Known{Departments: map[string]string{"a": "Travel help", "b": "Freight", "c": "Bookings"}, Webhooks: map[string]string{"w": "Records"}}
)

func at(seconds int) time.Time { return begin.Add(time.Duration(seconds) * time.Second) }

// day lives through a chat: asked at 0, taken at 90, answered at 100, quiet, ended at 700, rated
// low at 800.
func day(t require.TestingT) (log []chat.Event) {
	var s chat.State
	do := func(events []chat.Event, err error) {
		require.NoError(t, err)
		for _, e := range events {
			s, err = s.Apply(e)
			require.NoError(t, err)
			log = append(log, e)
		}
	}
	one := func(e chat.Event, err error) ([]chat.Event, error) { return []chat.Event{e}, err }
	do(chat.Start(wren, "c1", chat.Intro{PageURL: "https://kelpwick.example/freight"}, "Is the ramp open?", 1000, at(0)))
	do(one(s.Route(routing.Decision{Department: "b"}, false, at(0))))
	do(s.Take(maren, at(90)))
	do(one(s.Say(maren, "s1", "Yes.", 1000, at(100))))
	do(one(s.Say(wren, "s2", "And at night?", 1000, at(400))))
	do(one(s.Say(maren, "s3", "No.", 1000, at(520))))
	do(s.End(maren, chat.WrapUp{Survey: true}, at(700)))
	do(s.Rate(wren, 2, "", at(800)))
	return log
}

func rule(id string, when acting.When, seconds int) acting.ActingRule {
	return acting.ActingRule{ID: id, Name: id, On: true, When: when, Seconds: seconds, Match: routing.All, Do: []acting.RuleAct{{Kind: acting.Tag, Tag: "late"}}}
}

func anything(string, time.Time) routing.Plain {
	return routing.Facts{PageURL: "https://kelpwick.example/freight"}.Plain()
}

// Worked out by hand from the day: what was waited for, how long somebody was silent, each
// occasion once.
func TestWhenRulesWouldHaveActed(t *testing.T) {
	rules := []acting.ActingRule{
		rule("arrives", acting.Arrives, 0), rule("waits 60", acting.Waits, 60), rule("waits 90", acting.Waits, 90), rule("silent 200", acting.Silent, 200),
		rule("unanswered 110", acting.Unanswered, 110), rule("ends", acting.Ends, 0), rule("low", acting.RatedLow, 0), rule("message", acting.Message, 0),
	}
	off := rule("off", acting.Arrives, 0)
	off.On = false
	elsewhere := rule("elsewhere", acting.Arrives, 0)
	elsewhere.Departments = []string{"a"}
	here := rule("here", acting.Arrives, 0)
	here.Departments = []string{"a", "b"}
	freight, other := rule("freight", acting.Ends, 0), rule("other", acting.Ends, 0)
	freight.If = []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}}
	other.If = []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/fares"}}
	fired, err := acting.Replay(append(rules, off, elsewhere, here, freight, other), day(t), at(10_000), anything)
	require.NoError(t, err)
	got := map[string][]int{}
	for _, f := range fired {
		got[f.Rule] = append(got[f.Rule], int(f.At.Sub(begin).Seconds()))
	}
	require.Equal(t, map[string][]int{
		"arrives": {0}, "waits 60": {60}, "silent 200": {300}, "unanswered 110": {510}, "ends": {700}, "low": {800}, "here": {0}, "freight": {700},
	}, got)
}

// Whatever happens in a chat, a rule acts once for each occasion, in order, and what it saw is
// so at that moment.
func TestARuleActsOncePerOccasion(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		log := day(t)[:rapid.IntRange(0, 8).Draw(t, "events")]
		when := rapid.SampledFrom([]acting.When{acting.Arrives, acting.Waits, acting.Silent, acting.Unanswered, acting.RatedLow, acting.Ends, acting.Message}).Draw(t, "when")
		r := rule("r", when, rapid.IntRange(5, 600).Draw(t, "seconds"))
		until := at(rapid.IntRange(0, 3000).Draw(t, "until"))
		if len(log) > 0 && until.Before(log[len(log)-1].At) {
			until = log[len(log)-1].At
		}
		fired, err := acting.Replay([]acting.ActingRule{r, r}, log, until, anything)
		require.NoError(t, err)
		seen := map[time.Time]bool{}
		for _, f := range fired {
			require.False(t, seen[f.Since], "once")
			seen[f.Since] = true
			var before []chat.Event
			for _, e := range log {
				if e.At.Before(f.At) || !when.Timed() && e.At.Equal(f.At) {
					before = append(before, e)
				}
			}
			s, err := chat.Fold(before)
			require.NoError(t, err)
			require.True(t, when.Holds(s, f.Since))
		}
	})
}

// As on the server, whether a rule covers a chat is asked once for an occasion, when it is due.
func TestARuleIsAskedOnceForAnOccasion(t *testing.T) {
	var s chat.State
	var log []chat.Event
	do := func(events []chat.Event, err error) {
		require.NoError(t, err)
		for _, e := range events {
			s, err = s.Apply(e)
			require.NoError(t, err)
			log = append(log, e)
		}
	}
	do(chat.Start(wren, "c1", chat.Intro{}, "Is the ramp open?", 1000, at(0)))
	for _, to := range []struct {
		department string
		second     int
	}{{"a", 0}, {"b", 100}} {
		e, err := s.Route(routing.Decision{Department: to.department}, false, at(to.second))
		do([]chat.Event{e}, err)
	}
	r := rule("late in b", acting.Waits, 60)
	r.Departments = []string{"b"}
	fired, err := acting.Replay([]acting.ActingRule{r}, log, at(500), anything)
	require.NoError(t, err)
	require.Empty(t, fired, "after sixty seconds it stood in a")
	r.Seconds = 120
	fired, err = acting.Replay([]acting.ActingRule{r}, log, at(500), anything)
	require.NoError(t, err)
	require.Len(t, fired, 1)
}

func TestWhatIsOverDoesNotHold(t *testing.T) {
	log := day(t)
	after := func(n int) chat.State {
		s, err := chat.Fold(log[:n])
		require.NoError(t, err)
		return s
	}
	since, is := acting.Waits.Since(after(3))
	require.True(t, is)
	require.True(t, acting.Waits.Holds(after(3), since))
	require.False(t, acting.Waits.Holds(after(4), since), "it was taken")
	since, is = acting.Silent.Since(after(5))
	require.True(t, is)
	require.False(t, acting.Silent.Holds(after(6), since), "they have answered")
	require.False(t, acting.Silent.Holds(after(7), since), "that is another silence")
	require.False(t, acting.Arrives.Holds(after(8), at(0)), "it is over")
	require.False(t, acting.RatedLow.Holds(after(8), at(800)), "not yet")
	require.True(t, acting.RatedLow.Holds(after(9), at(800)))
}

func wrongOf(rules ...acting.ActingRule) (fields []string) {
	for i := range rules {
		rules[i].Tidy()
	}
	for _, w := range acting.Check(rules, known) {
		fields = append(fields, w.Field+": "+w.Words)
	}
	return fields
}

func TestWhatIsWrongWithARule(t *testing.T) {
	fine := acting.ActingRule{Name: "Late", On: true, When: acting.Waits, Seconds: 60, Do: []acting.RuleAct{
		{Kind: acting.Say, Text: "Still busy."}, {Kind: acting.Tag, Tag: " Late "}, {Kind: acting.Priority, Priority: 3}, {Kind: acting.Ticket, Urgency: "high"},
		{Kind: acting.Mail, To: "lead@example.com"}, {Kind: acting.Webhook, Webhook: "w"}, {Kind: acting.HandOn, Department: "b"},
	}}
	require.Empty(t, wrongOf(fine))
	change := func(how func(*acting.ActingRule)) acting.ActingRule {
		r := fine
		r.Do = append([]acting.RuleAct{}, fine.Do...)
		how(&r)
		return r
	}
	for want, r := range map[string]acting.ActingRule{
		"rules.0.name: Give the rule a name. It stands in its log.":                          change(func(r *acting.ActingRule) { r.Name = " " }),
		"rules.0.seconds: This must be between 5 seconds and a day.":                         change(func(r *acting.ActingRule) { r.Seconds = 4 }),
		"rules.0.departments: A department is no longer in use. Choose others.":              change(func(r *acting.ActingRule) { r.Departments = []string{"gone"} }),
		"rules.0.do: Choose what the rule does.":                                             change(func(r *acting.ActingRule) { r.Do = nil }),
		"rules.0.do.0: Write what is said.":                                                  change(func(r *acting.ActingRule) { r.Do[0].Text = " \n" }),
		"rules.0.do.1: Enter the tag.":                                                       change(func(r *acting.ActingRule) { r.Do[1].Tag = "" }),
		"rules.0.do.1: A rule says one thing: nobody reads two automatic messages in a row.": change(func(r *acting.ActingRule) { r.Do[1] = r.Do[0] }),
		"rules.0.do.2: The priority must be between -9 and 9.":                               change(func(r *acting.ActingRule) { r.Do[2].Priority = 10 }),
		"rules.0.do.3: Choose a department that is in use.":                                  change(func(r *acting.ActingRule) { r.Do[3].Department = "gone" }),
		"rules.0.do.4: Enter an email address, like lead@example.com.":                       change(func(r *acting.ActingRule) { r.Do[4].To = "Maren <lead@example.com>" }),
		"rules.0.do.5: Choose a webhook.":                                                    change(func(r *acting.ActingRule) { r.Do[5].Webhook = "gone" }),
		"rules.0.do.6: The chats of this rule are there already. Choose another department.": change(func(r *acting.ActingRule) { r.Departments = []string{"b"} }),
		"rules.0.do.0: This cannot be done on this occasion.":                                change(func(r *acting.ActingRule) { r.When, r.Do = acting.Ends, r.Do[:1] }),
		"rules.0.if.0: This is not known of a chat that has begun. Ask for something else.": change(func(r *acting.ActingRule) {
			r.If = []routing.Condition{{Field: "basket", Operator: routing.AtLeast, Value: "1"}}
		}),
		"rules.0.if.0: The pattern cannot be read: error parsing regexp: missing closing ]: `[`.": change(func(r *acting.ActingRule) {
			r.If = []routing.Condition{{Field: "page.url", Operator: routing.Matches, Value: "["}}
		}),
	} {
		got := wrongOf(r)
		require.Len(t, got, 1, want)
		if r.If == nil || r.If[0].Operator != routing.Matches {
			require.Equal(t, []string{want}, got)
		}
	}
	require.Contains(t, acting.Check(make([]acting.ActingRule, 51), known), form.Wrong{Field: "rules", Words: "There can be up to 50 rules."})
}

// Rules that would hand a chat round are refused, whatever their conditions; those that lead
// away are not.
func TestRulesDoNotGoRoundInCircles(t *testing.T) {
	hands := func(to string, from ...string) acting.ActingRule {
		return acting.ActingRule{Name: to, On: true, When: acting.Waits, Seconds: 60, Departments: from, Do: []acting.RuleAct{{Kind: acting.HandOn, Department: to}}}
	}
	const words = "This would hand chats round in a circle with another rule. Choose another department, or narrow the rules."
	require.Empty(t, wrongOf(hands("b", "a"), hands("c", "b"), hands("c", "a")))
	require.Equal(t, []string{"rules.0.do.0: " + words, "rules.1.do.0: " + words}, wrongOf(hands("b", "a"), hands("a", "b")))
	require.Equal(t, []string{"rules.0.do.0: " + words, "rules.1.do.0: " + words, "rules.2.do.0: " + words}, wrongOf(hands("b", "a"), hands("c", "b"), hands("a", "c")))
	require.Len(t, wrongOf(hands("b"), hands("a", "b")), 2, "one for all departments")
	require.Empty(t, wrongOf(hands("b")), "alone it leads to where it does not lead away from")
	off := hands("a", "b")
	off.On = false
	require.Empty(t, wrongOf(hands("b", "a"), off))
}

// Why nothing came of an act is what an admin reads in the log.
func TestWhyNothingCameOfIt(t *testing.T) {
	waiting, held, over := chat.State{Phase: chat.Waiting}, chat.State{Phase: chat.Active}, chat.State{Phase: chat.Over}
	helped, offered := waiting, waiting
	helped.Helper = &chat.Helping{On: true}
	offered.Offered = &chat.Offering{To: "maren"}
	for _, c := range []struct {
		kind  acting.Kind
		state chat.State
		want  acting.Why
	}{
		{acting.Say, waiting, acting.InARow}, {acting.Say, held, acting.InARow}, {acting.Say, helped, acting.WithHelper}, {acting.Say, over, acting.NotSo},
		{acting.Priority, waiting, acting.Already}, {acting.Priority, held, acting.NotSo}, {acting.Priority, offered, acting.Asked}, {acting.Priority, helped, acting.WithHelper},
		{acting.AskTeam, held, acting.Already}, {acting.AskTeam, waiting, acting.NotSo}, {acting.AskTeam, over, acting.NotSo},
		{acting.HandOn, held, acting.Already}, {acting.HandOn, offered, acting.Asked}, {acting.HandOn, over, acting.NotSo},
		{acting.Tag, over, acting.Already},
	} {
		require.Equal(t, c.want, acting.WhyNot(c.kind, c.state), "%s %s", c.kind, c.state.Phase)
	}
}
