package form_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/form"
)

func TestAnswersAreChecked(t *testing.T) {
	f := form.Form{
		{Name: "name", Kind: form.Text, Label: "Name"}, {Name: "story", Kind: form.LongText, Label: "Story"},
		{Name: "email", Kind: form.Email, Label: "Email", Required: true}, {Name: "phone", Kind: form.Phone, Label: "Phone"},
		{Name: "adults", Kind: form.Number, Label: "Adults"}, {Name: "topic", Kind: form.OneOf, Label: "Topic", Options: []string{"Lorries", "Cars"}},
		{Name: "extras", Kind: form.ManyOf, Label: "Extras", Options: []string{"Dog", "Bicycle"}}, {Name: "port", Kind: form.DropDown, Label: "Port", Options: []string{"Brae"}},
		{Name: "when", Kind: form.DateTime, Label: "When"}, {Name: "team", Kind: form.Department, Label: "Team", Options: []string{"freight"}},
		{Name: "agree", Kind: form.Consent, Label: "I agree", Required: true},
		{Name: "booking", Kind: form.Text, Label: "Booking", Pattern: `KF-\d{5}`, Error: "A booking number looks like KF-20417."},
	}
	require.Empty(t, f.Check())
	good := form.Answers{"email": "wren@example.com", "agree": "yes"}
	require.Empty(t, f.Answered(good))
	for _, c := range []struct{ field, answer, wrong string }{
		{"name", strings.Repeat("é", 250), ""}, {"name", strings.Repeat("é", 251), "1 characters too long"},
		{"story", strings.Repeat("x", 4000), ""}, {"story", strings.Repeat("x", 4001), "too long"},
		{"email", "", "fill this in"}, {"email", "wren", "email address"}, {"email", "Wren <wren@example.com>", "email address"},
		{"email", "wren@localhost", "email address"}, {"email", "a b@example.com", "email address"}, {"email", "wren+ferry@example.co.uk", ""},
		{"phone", "+45 33 12 34 56", ""}, {"phone", "(01632) 960-142", ""}, {"phone", "call me", "phone number"}, {"phone", "123", "phone number"}, {"phone", "+1234567890123456", "phone number"},
		{"adults", "12", ""}, {"adults", "2,5", ""}, {"adults", "two", "number"},
		{"topic", "Lorries", ""}, {"topic", "Boats", "one of the options"}, {"extras", "Dog, Bicycle", ""}, {"extras", "Dog, Cat", "among the options"},
		{"port", "Sandry", "one of the options"}, {"when", "2026-12-24T18:30", ""}, {"when", "tomorrow", "date and a time"},
		{"team", "freight", ""}, {"team", "sales", "one of the options"}, {"agree", "", "agreement"}, {"agree", "no", "agreement"},
		{"booking", "KF-20417", ""}, {"booking", "xKF-20417", "A booking number looks like KF-20417."}, {"booking", "KF-204170", "A booking number looks like KF-20417."},
	} {
		answers := form.Answers{}
		for name, value := range good {
			answers[name] = value
		}
		answers[c.field] = c.answer
		wrong := f.Answered(answers)
		if c.wrong == "" {
			require.Empty(t, wrong, "%s = %q", c.field, c.answer)
			continue
		}
		require.Len(t, wrong, 1, "%s = %q", c.field, c.answer)
		require.Equal(t, c.field, wrong[0].Field)
		require.Contains(t, wrong[0].Words, c.wrong)
	}
}

func TestWhoIsKnownIsNotAskedAgain(t *testing.T) {
	f := form.Form{
		{Name: "name", Kind: form.Text, Label: "Name", Required: true}, {Name: "email", Kind: form.Email, Label: "Email", Required: true},
		{Name: "team", Kind: form.Department, Label: "Team", Options: []string{"freight"}, Required: true}, {Name: "agree", Kind: form.Consent, Label: "I agree", Required: true},
	}
	known := form.Answers{"name": "Wren", "team": "freight", "agree": "yes"}
	fields := func(wrong []form.Wrong) (names []string) {
		for _, w := range wrong {
			names = append(names, w.Field)
		}
		return names
	}
	require.Equal(t, []string{"email", "team", "agree"}, fields(f.AnsweredAnew(nil, known)), "consent and the department are for this chat")
	require.Empty(t, f.AnsweredAnew(form.Answers{"email": "wren@example.com", "team": "freight", "agree": "yes"}, known))
	require.Equal(t, []string{"email"}, fields(f.AnsweredAnew(form.Answers{"email": "wren", "team": "freight", "agree": "yes"}, form.Answers{"name": "Wren", "email": "wren@example.com"})), "what is answered anew is checked")
	require.Equal(t, form.Answers{"name": "Wren"}, f.Clean(form.Answers{"name": " Wren ", "hidden": "x", "email": " "}))
}

// What others depend on is asked each time: a browser knows that it was answered, and not
// how, so it could not tell what depends on it.
func TestWhatOthersDependOnIsAskedEachTime(t *testing.T) {
	f := form.Form{
		{Name: "topic", Kind: form.OneOf, Label: "About", Required: true, Options: []string{"Booking", "Freight"}},
		{Name: "booking", Kind: form.Text, Label: "Booking number", Required: true, ShowIf: &form.ShowIf{Field: "topic", Is: []string{"Booking"}}},
	}
	known := form.Answers{"topic": "Booking"}
	require.Equal(t, "topic", f.AnsweredAnew(nil, known)[0].Field)
	require.Empty(t, f.AnsweredAnew(form.Answers{"topic": "Freight"}, known))
	require.Equal(t, "booking", f.AnsweredAnew(form.Answers{"topic": "Booking"}, known)[0].Field)
	require.Empty(t, f.AnsweredAnew(form.Answers{"topic": "Booking"}, form.Answers{"topic": "Freight", "booking": "KF-20417"}))
}

// One list for the server and for browsers, which read it too (web/shared/patterns.test.ts).
func TestPatternsGiveOneVerdict(t *testing.T) {
	var list []struct {
		Pattern    string
		Fits, Not  []string
		Unreadable bool
	}
	read(t, "testdata/patterns.json", &list)
	for _, c := range list {
		require.Equal(t, c.Unreadable, form.CheckPattern(c.Pattern) != "", c.Pattern)
		for _, answer := range c.Fits {
			require.True(t, form.Matches(c.Pattern, answer), "%s on %q", c.Pattern, answer)
		}
		for _, answer := range c.Not {
			require.False(t, form.Matches(c.Pattern, answer), "%s on %q", c.Pattern, answer)
		}
	}
	require.NotEmpty(t, form.CheckPattern(strings.Repeat("a", 301)))
}

// The same for what is asked depending on other answers (web/widget/panel/asked.test.ts).
func TestWhatIsAskedDependingOnAnswers(t *testing.T) {
	var list struct {
		Form  form.Form
		Cases []struct {
			Answers form.Answers
			Asked   []string
		}
	}
	read(t, "testdata/asked.json", &list)
	for _, c := range list.Cases {
		var names []string
		for _, f := range list.Form.Asked(c.Answers) {
			names = append(names, f.Name)
		}
		require.Equal(t, c.Asked, names, c.Answers)
	}
}

func read(t *testing.T, path string, into any) {
	t.Helper()
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, into))
}

// What stands in a form's conditions must be there, and stand before.
func TestWrongConditionsAreRefused(t *testing.T) {
	topic := form.Field{Name: "topic", Kind: form.OneOf, Label: "About", Options: []string{"Booking", "Freight"}}
	on := func(name string, is ...string) form.Field {
		return form.Field{Name: "more", Kind: form.Text, Label: "More", ShowIf: &form.ShowIf{Field: name, Is: is}}
	}
	require.Empty(t, form.Form{topic, on("topic", "Booking")}.Check())
	require.Empty(t, form.Form{topic, on("topic")}.Check())
	for what, f := range map[string]form.Form{
		"behind": {on("topic", "Booking"), topic}, "gone": {topic, on("subject")}, "itself": {topic, on("more")}, "no such option": {topic, on("topic", "Parking")},
	} {
		require.Len(t, f.Check(), 1, what)
	}
}

func TestWrongFormsAreRefused(t *testing.T) {
	f := form.Form{
		{Name: "Bad name", Kind: form.Text, Label: "x"}, {Name: "a", Kind: form.Text, Label: " "}, {Name: "a", Kind: "colour", Label: "x"},
		{Name: "b", Kind: form.OneOf, Label: "x"}, {Name: "c", Kind: form.Text, Label: "x", Pattern: "("},
	}
	var fields []string
	for _, w := range f.Check() {
		fields = append(fields, w.Field)
	}
	require.Equal(t, []string{"form.0", "form.1", "form.2", "form.2", "form.3", "form.4"}, fields)
}

// Whatever an option is called, it can be chosen.
func TestOptionsThatHoldCommas(t *testing.T) {
	f := form.Form{{Name: "with", Kind: form.ManyOf, Label: "With", Options: []string{"Car", "Bicycle, folded", "Bicycle", "Dog "}}, {Name: "one", Kind: form.OneOf, Label: "One", Options: []string{"Dog "}}}
	for answer, good := range map[string]bool{
		"Car": true, "Bicycle, folded": true, "Bicycle, Bicycle, folded": true, "Car, Dog": true, "Dog, Bicycle, folded, Car": true,
		"Boat": false, "Car, Boat": false, "Car,Dog": false, "Car, ": false, "folded": false,
	} {
		require.Equal(t, good, len(f.Answered(form.Answers{"with": answer})) == 0, answer)
	}
	require.Empty(t, f.Answered(form.Answers{"one": "Dog "}))
	require.NotEmpty(t, form.Form{{Name: "with", Kind: form.ManyOf, Label: "With", Options: []string{"Dog", "Dog "}}}.Check())
}

func TestWhatIsNoNumber(t *testing.T) {
	f := form.Form{{Name: "n", Kind: form.Number, Label: "How many"}}
	for answer, good := range map[string]bool{"12": true, "-1,5": true, "1e3": true, "NaN": false, "inf": false, "+Infinity": false, "1e999": false, "twelve": false} {
		require.Equal(t, good, len(f.Answered(form.Answers{"n": answer})) == 0, answer)
	}
}
