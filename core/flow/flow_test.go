package flow_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/flow"
	"stoop/core/routing"
	"stoop/core/widget"
)

// usual are the words of a widget that has none of its own.
var usual = widget.New("", nil)

// ferry is a flow that uses each kind of step.
func ferry() flow.Flow {
	f := flow.Flow{
		Name: "Ferry", Languages: []string{"en", "de"},
		Steps: []flow.Step{
			{ID: "greet", Kind: flow.Say, Text: "Hello.", Next: "topic"},
			{ID: "topic", Kind: flow.Branch, Next: "look", Cases: []flow.StepCase{
				{Keywords: []string{"person"}, Next: "over"},
				{Keywords: []string{"book*"}, Next: "number"},
				{If: []routing.Condition{{Field: "outside.tier", Operator: routing.Equals, Value: "Gold"}}, Next: "over"},
			}},
			{ID: "look", Kind: flow.Articles, Check: true, Next: "bye", Otherwise: "unsure"},
			{ID: "unsure", Kind: flow.Choose, Name: "about", Label: "About", Text: "What is it about?", Choices: []flow.StepChoice{{Label: "Freight", Next: "length"}, {Label: "Else", Next: "over"}}},
			{ID: "length", Kind: flow.Ask, Sort: flow.Number, Name: "length", Text: "How long?", Next: "tag", Otherwise: "over"},
			{ID: "tag", Kind: flow.Tag, Tags: []string{"lorry"}, Next: "over"},
			{ID: "number", Kind: flow.Ask, Sort: flow.Words, Name: "booking", Text: "Which number?", Next: "surname"},
			{ID: "surname", Kind: flow.Ask, Sort: flow.Words, Name: "surname", Text: "In which name?", Next: "find"},
			{ID: "find", Kind: flow.Booking, Name: "booking", Person: "surname", Next: "bye", Otherwise: "none"},
			{ID: "none", Kind: flow.Say, Text: "No booking {booking} for {surname}, {sic}.", Next: "over"},
			{ID: "over", Kind: flow.HandOver, Department: "help", Text: "Somebody comes.", Otherwise: "email"},
			{ID: "email", Kind: flow.Ask, Sort: flow.Email, Name: "email", Text: "Your email?", Next: "keep", Otherwise: "keep"},
			{ID: "keep", Kind: flow.Message, Text: "Kept."},
			{ID: "bye", Kind: flow.End, Text: "Bye."},
		},
		Texts: map[string]map[string]string{"de": {"greet.text": "Guten Tag.", "unsure.choice.0": "Fracht", "topic.keywords.0": "mensch", "surname.text": "Auf welchen Namen?"}},
	}
	f.Tidy()
	return f
}

var known = flow.Known{Languages: []string{"en", "de", "da"}, Departments: []string{"help"}}

// visitor talks with a flow.
type visitor struct {
	t       *testing.T
	flow    flow.Flow
	memory  flow.Memory
	answers map[string]string
	in      flow.Input
	look    func(flow.Search) (flow.Found, error)
	turn    flow.Turn
}

func talks(t *testing.T, f flow.Flow) *visitor {
	return &visitor{t: t, flow: f, answers: map[string]string{}, in: flow.Input{Language: "en", In: func(string) bool { return true }}}
}

// says something and returns the lines that the flow answers with.
func (v *visitor) says(words string) []string {
	v.in.Words, v.in.Answers = words, v.answers
	v.memory, v.turn = v.flow.Run(v.memory, v.in, usual, v.look)
	require.Empty(v.t, v.turn.Failed)
	for _, a := range v.turn.Learned {
		v.answers[a.Name] = a.Value
	}
	lines := []string{}
	for _, l := range v.turn.Lines {
		lines = append(lines, l.Text)
	}
	return lines
}

func found(text string) func(flow.Search) (flow.Found, error) {
	return func(flow.Search) (flow.Found, error) {
		return flow.Found{OK: true, Text: text}, nil
	}
}

// A question is answered from an article, and whether that helped decides what follows.
func TestAQuestionIsAnsweredFromAnArticle(t *testing.T) {
	v := talks(t, ferry())
	v.look = found("Dogs travel free.")
	require.Equal(t, []string{"Hello.", "Dogs travel free.", "Did this answer your question?"}, v.says("May my dog come?"))
	require.Equal(t, []string{"Yes", "No"}, v.turn.Lines[2].Choices)
	require.Equal(t, flow.Waits, v.turn.Then)
	require.True(t, v.memory.Answered)

	no := *v
	require.Equal(t, []string{"What is it about?"}, no.says("no"))
	require.False(t, no.memory.Answered, "it did not help")
	require.Equal(t, []string{"Bye."}, v.says("Yes"))
	require.Equal(t, flow.Ends, v.turn.Then)

	// Another question in the place of yes or no is looked up as well.
	again := talks(t, ferry())
	again.look = found("Dogs travel free.")
	again.says("May my dog come?")
	asked := ""
	again.look = func(s flow.Search) (flow.Found, error) { asked = s.Words; return flow.Found{}, nil }
	require.Equal(t, []string{"What is it about?"}, again.says("and my horse?"))
	require.Equal(t, "and my horse?", asked)
}

// What cannot be looked up, because nothing is found or the look fails, goes on otherwise.
func TestALookThatFailsIsNoEnd(t *testing.T) {
	for name, look := range map[string]func(flow.Search) (flow.Found, error){
		"nothing":  func(flow.Search) (flow.Found, error) { return flow.Found{}, nil },
		"an error": func(flow.Search) (flow.Found, error) { return flow.Found{}, errors.New("the database is away") },
		"no look":  nil,
	} {
		v := talks(t, ferry())
		v.look = look
		require.Equal(t, []string{"Hello.", "What is it about?"}, v.says("May my dog come?"), name)
	}
}

// A booking is looked up by what was asked for, and answers are filled into texts.
func TestABookingIsLookedUp(t *testing.T) {
	v := talks(t, ferry())
	require.Equal(t, []string{"Hello.", "Which number?"}, v.says("Where is my BOOKING?"))
	require.Equal(t, []string{"In which name?"}, v.says("KF12345"))
	var search flow.Search
	v.look = func(s flow.Search) (flow.Found, error) { search = s; return flow.Found{}, nil }
	require.Equal(t, []string{"No booking KF12345 for Castellane, .", "Somebody comes."}, v.says("Castellane"))
	require.Equal(t, flow.Search{Kind: flow.Booking, Number: "KF12345", Person: "Castellane"}, search)
	require.Equal(t, flow.Leaves, v.turn.Then)
	require.Equal(t, "help", v.turn.Department)
}

// An answer that does not fit is asked for again, and not for ever.
func TestAnAnswerThatDoesNotFit(t *testing.T) {
	v := talks(t, ferry())
	v.says("Something odd")
	require.Equal(t, []string{"How long?"}, v.says("freight"), "a choice may be typed")
	require.Equal(t, []string{"Please write a number."}, v.says("very long"))
	require.Equal(t, []string{"Please write a number."}, v.says("quite long"))
	require.Equal(t, []string{"Somebody comes."}, v.says("long enough"), "the third time it goes on otherwise")
	require.NotContains(t, v.answers, "length")

	w := talks(t, ferry())
	w.says("Something odd")
	w.says("1") // or its number
	require.Equal(t, []string{"Somebody comes."}, w.says("about 9,5 m"))
	require.Equal(t, "9.5", w.answers["length"])
	require.Equal(t, []string{"lorry"}, w.turn.Tags)

	// Without a way on, people take over.
	c := talks(t, ferry())
	c.says("Something odd")
	require.Equal(t, []string{"Please choose one of these."}, c.says("hm"))
	require.Equal(t, []string{"Freight", "Else"}, c.turn.Lines[0].Choices)
	c.says("hm")
	c.says("hm")
	require.Equal(t, flow.Leaves, c.turn.Then)
}

// While nobody is in, a flow that would hand over asks how to answer later.
func TestNobodyIsIn(t *testing.T) {
	v := talks(t, ferry())
	v.in.In = func(department string) bool { return department != "help" }
	require.Equal(t, []string{"Hello.", "Your email?"}, v.says("A person, please"))
	require.Equal(t, []string{"Kept."}, v.says("Sure: wren@example.com, thanks"))
	require.Equal(t, flow.Keeps, v.turn.Then)
	require.Equal(t, "wren@example.com", v.answers["email"])
}

// What is known of a visitor decides, and a flow speaks their language where it can.
func TestBranchesAndLanguages(t *testing.T) {
	v := talks(t, ferry())
	v.in.Facts = routing.Facts{Outside: map[string]string{"tier": "gold"}}
	require.Equal(t, []string{"Hello.", "Somebody comes."}, v.says("Anything"))

	d := talks(t, ferry())
	d.in.Language = d.flow.Speak("de-CH")
	require.Equal(t, "de", d.in.Language)
	require.Equal(t, []string{"Guten Tag.", "What is it about?"}, d.says("Wie lang?"), "what is not translated is said in the first language")
	require.Equal(t, []string{"Fracht", "Else"}, d.turn.Lines[1].Choices)
	require.Equal(t, []string{"How long?"}, d.says("fracht"))
	require.Equal(t, "Freight", d.answers["about"], "the team reads answers in the first language")
	m := talks(t, ferry())
	m.in.Language = "de"
	require.Equal(t, []string{"Guten Tag.", "Somebody comes."}, m.says("Gibt es da einen Menschen? Mensch!"))
	require.Equal(t, "en", ferry().Speak("pt"))
}

// Who comes back to the helper is told once more where it stands.
func TestItComesBack(t *testing.T) {
	v := talks(t, ferry())
	v.says("Where is my booking?")
	v.in.Again = true
	require.Equal(t, []string{"Which number?"}, v.says("Where is my booking?"))
}

// A flow that goes round in itself, or leads nowhere, hands over and says why.
func TestAFlowThatCannotGoOn(t *testing.T) {
	round := flow.Flow{Languages: []string{"en"}, Steps: []flow.Step{{ID: "a", Kind: flow.Say, Text: "a", Next: "b"}, {ID: "b", Kind: flow.Say, Text: "b", Next: "a"}}}
	_, turn := round.Run(flow.Memory{}, flow.Input{}, usual, nil)
	require.Equal(t, flow.Leaves, turn.Then)
	require.Contains(t, turn.Failed, "goes round")
	nowhere := flow.Flow{Languages: []string{"en"}, Steps: []flow.Step{{ID: "a", Kind: flow.Say, Text: "a", Next: "gone"}}}
	_, turn = nowhere.Run(flow.Memory{}, flow.Input{}, usual, nil)
	require.Equal(t, flow.Leaves, turn.Then)
	require.Contains(t, turn.Failed, `"gone"`)
	_, turn = flow.Flow{}.Run(flow.Memory{}, flow.Input{}, usual, nil)
	require.Equal(t, flow.Leaves, turn.Then)
}

// Answers are taken out of the sentences in which people write them.
func TestWhatFits(t *testing.T) {
	for _, c := range []struct {
		sort       flow.Sort
		said, want string
	}{
		{flow.Email, "It is <wren@example.com>.", "wren@example.com"}, {flow.Email, "wren at example", ""}, {flow.Email, "", ""},
		{flow.Number, "12", "12"}, {flow.Number, "about 3,5 m", "3.5"}, {flow.Number, "#4", "4"}, {flow.Number, "NaN", ""}, {flow.Number, "Inf", ""}, {flow.Number, "0x10", ""}, {flow.Number, "many", ""},
		{flow.Date, "on 24.12.2026, please", "2026-12-24"}, {flow.Date, "3/1/2027", "2027-01-03"}, {flow.Date, "2027-02-28", "2027-02-28"}, {flow.Date, "2027-02-30", ""}, {flow.Date, "Christmas", ""},
		{flow.Words, "  anything ", "anything"}, {flow.Words, "   ", ""},
	} {
		got, fits := flow.Fits(c.sort, c.said)
		require.Equal(t, c.want, got, "%s %q", c.sort, c.said)
		require.Equal(t, c.want != "", fits, "%s %q", c.sort, c.said)
	}
}

// Keywords are words, not letters in the middle of others.
func TestKeywords(t *testing.T) {
	require.True(t, flow.HasKeyword("Is my DOG allowed?", []string{"cat", "dog"}))
	require.False(t, flow.HasKeyword("the dogma", []string{"dog"}))
	require.True(t, flow.HasKeyword("the dogma", []string{"dog*"}))
	require.True(t, flow.HasKeyword("my booking-number is", []string{"booking number"}))
	require.False(t, flow.HasKeyword("number of my booking", []string{"booking number"}))
	require.True(t, flow.HasKeyword("Fähre nach Ærø?", []string{"ærø"}))
	require.False(t, flow.HasKeyword("anything", []string{"", "*", "?"}))
}

// A flow that is in order has no problem but what is not translated.
func TestCheckOfAGoodFlow(t *testing.T) {
	problems := ferry().Check(known)
	require.False(t, flow.Blocked(problems), "%+v", problems)
	require.Len(t, problems, 1)
	require.Equal(t, "texts.de", problems[0].Field)
}

// What would break for a visitor is found before a flow goes live.
func TestCheckFindsWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		name, step, field string
		change            func(*flow.Flow)
	}{
		{"a dead end", "greet", "next", func(f *flow.Flow) { f.Steps[0].Next = "" }},
		{"a way to nowhere", "greet", "next", func(f *flow.Flow) { f.Steps[0].Next = "gone" }},
		{"a choice that leads nowhere", "unsure", "choices.1.next", func(f *flow.Flow) { f.Steps[3].Choices[1].Next = "" }},
		{"a case that leads nowhere", "topic", "cases.0.next", func(f *flow.Flow) { f.Steps[1].Cases[0].Next = "x" }},
		{"a step that nothing leads to", "tag", "id", func(f *flow.Flow) { f.Steps[4].Next = "over" }},
		{"a circle without a question", "none", "next", func(f *flow.Flow) { f.Steps[9].Next = "find" }},
		{"a circle in which nothing is found again and again", "look", "otherwise", func(f *flow.Flow) { f.Steps[2].Otherwise = "topic" }},
		{"a step that follows itself", "greet", "next", func(f *flow.Flow) { f.Steps[0].Next = "greet" }},
		{"two steps of one name", "bye", "id", func(f *flow.Flow) { f.Steps[12].ID = "bye" }},
		{"a name that is none", "B!", "id", func(f *flow.Flow) { f.Steps[0].ID = "B!" }},
		{"nothing said", "greet", "text", func(f *flow.Flow) { f.Steps[0].Text = " " }},
		{"too much said", "greet", "text", func(f *flow.Flow) { f.Steps[0].Text = strings.Repeat("x", flow.TextLimit+1) }},
		{"an answer without a name", "length", "name", func(f *flow.Flow) { f.Steps[4].Name = "" }},
		{"an answer that nobody asks for", "find", "person", func(f *flow.Flow) { f.Steps[8].Person = "nickname" }},
		{"one choice", "unsure", "choices", func(f *flow.Flow) { f.Steps[3].Choices = f.Steps[3].Choices[:1] }},
		{"choices that say the same", "unsure", "choices.1.label", func(f *flow.Flow) { f.Steps[3].Choices[1].Label = "FREIGHT!" }},
		{"a case without a condition", "topic", "cases.0", func(f *flow.Flow) { f.Steps[1].Cases[0].Keywords = nil }},
		{"a condition that cannot be read", "topic", "cases.2.if.0", func(f *flow.Flow) { f.Steps[1].Cases[2].If[0].Field = "moon" }},
		{"a department that is gone", "over", "department", func(f *flow.Flow) { f.Steps[10].Department = "gone" }},
		{"no tags", "tag", "tags", func(f *flow.Flow) { f.Steps[5].Tags = nil }},
		{"a kind that there is not", "greet", "kind", func(f *flow.Flow) { f.Steps[0].Kind = "sing" }},
		{"no name", "", "name", func(f *flow.Flow) { f.Name = "" }},
		{"no steps", "", "steps", func(f *flow.Flow) { f.Steps = nil }},
		{"a language that there is not", "", "languages", func(f *flow.Flow) { f.Languages = []string{"en", "xx"} }},
	} {
		f := ferry()
		f.Steps = slices.Clone(f.Steps)
		for i := range f.Steps {
			f.Steps[i].Choices, f.Steps[i].Cases = slices.Clone(f.Steps[i].Choices), slices.Clone(f.Steps[i].Cases)
			for n := range f.Steps[i].Cases {
				f.Steps[i].Cases[n].If = slices.Clone(f.Steps[i].Cases[n].If)
			}
		}
		c.change(&f)
		problems := f.Check(known)
		require.True(t, slices.ContainsFunc(problems, func(p flow.StepProblem) bool { return p.Step == c.step && p.Field == c.field && !p.Warning }), "%s: %+v", c.name, problems)
		require.True(t, flow.Blocked(problems), c.name)
	}
}

// anyFlow draws a flow with steps that lead anywhere, also to nowhere.
func anyFlow(t *rapid.T) flow.Flow {
	n := rapid.IntRange(1, 14).Draw(t, "steps")
	ids := []string{"", "gone"}
	for i := range n {
		ids = append(ids, string(rune('a'+i)))
	}
	to := func() string { return rapid.SampledFrom(ids).Draw(t, "to") }
	f := flow.Flow{Name: "Any", Languages: []string{"en"}}
	for i := range n {
		s := flow.Step{
			ID: ids[i+2], Kind: rapid.SampledFrom(flow.Kinds).Draw(t, "kind"), Text: "Words.", Next: to(), Otherwise: to(), Name: "n", Person: "n",
			Sort: rapid.SampledFrom(flow.Sorts).Draw(t, "sort"), Check: rapid.Bool().Draw(t, "check"), Tags: []string{"x"},
			Choices: []flow.StepChoice{{Label: "One", Next: to()}, {Label: "Two", Next: to()}},
			Cases:   []flow.StepCase{{Keywords: []string{"one"}, Next: to()}},
		}
		f.Steps = append(f.Steps, s)
	}
	f.Tidy()
	return f
}

// Whatever is drawn: a flow that the check lets live never fails, and each turn of any
// flow ends.
func TestACheckedFlowNeverFails(t *testing.T) {
	lived := 0
	one := func(t *rapid.T) {
		f := anyFlow(t)
		live := !flow.Blocked(f.Check(flow.Known{Languages: []string{"en"}}))
		memory, answers := flow.Memory{}, map[string]string{}
		for range 12 {
			said := rapid.SampledFrom([]string{"one", "Two", "what?", "3", "wren@example.com", ""}).Draw(t, "said")
			found := rapid.Bool().Draw(t, "found")
			var turn flow.Turn
			memory, turn = f.Run(memory, flow.Input{Words: said, Answers: answers, Language: "en", In: func(string) bool { return found }}, usual, func(flow.Search) (flow.Found, error) {
				return flow.Found{OK: found, Text: "Found."}, nil
			})
			require.LessOrEqual(t, len(turn.Path), 60)
			if live {
				require.Empty(t, turn.Failed)
			}
			for _, a := range turn.Learned {
				answers[a.Name] = a.Value
			}
			if turn.Then != flow.Waits {
				break
			}
		}
		if live {
			lived++
		}
	}
	// Few of them are in order: once in many times none of a hundred is.
	for range 20 {
		if rapid.Check(t, one); lived > 0 {
			break
		}
	}
	require.Positive(t, lived, "some of the flows were in order")
}

// In a drawing every step has a place of its own, all is within it, and each way is there.
func TestDrawing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := anyFlow(t)
		d := f.Draw()
		require.Len(t, d.Boxes, len(f.Steps))
		for i, a := range d.Boxes {
			require.True(t, a.X >= 0 && a.Y >= 0 && a.X+flow.BoxWidth <= d.Width && a.Y+flow.BoxHeight <= d.Height, "%+v lies outside of %d × %d", a, d.Width, d.Height)
			for _, b := range d.Boxes[i+1:] {
				require.False(t, a.X < b.X+flow.BoxWidth && b.X < a.X+flow.BoxWidth && a.Y < b.Y+flow.BoxHeight && b.Y < a.Y+flow.BoxHeight, "%+v covers %+v", a, b)
			}
		}
		for _, l := range d.Lines {
			for _, p := range l.Corners {
				require.True(t, p.X >= 0 && p.Y >= 0 && p.X <= d.Width && p.Y <= d.Height, "a line leaves the drawing: %+v", l)
			}
		}
	})
	d := ferry().Draw()
	require.Equal(t, "greet", d.Boxes[0].Step)
	row := map[string]int{}
	for _, b := range d.Boxes {
		row[b.Step] = b.Y
		require.False(t, b.Lost, b.Step)
	}
	require.Less(t, row["greet"], row["topic"])
	require.Less(t, row["number"], row["surname"])
	require.Less(t, row["email"], row["keep"])
}
