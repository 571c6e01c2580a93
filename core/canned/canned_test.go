package canned_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/canned"
	"stoop/core/spreadsheet"
)

var library = canned.New([]canned.Response{
	{ID: "hold", Shortcut: "hold", Text: "We can hold your seats for 24 hours, no charge.", Scope: canned.Common},
	{ID: "holdcar", Shortcut: "holdcar", Text: "We can hold the vehicle space too.", Scope: canned.Department, Owner: "bookings"},
	{ID: "mine", Shortcut: "hi", Text: "Hello {visitor.first|there}, this is {operator.first}.", Scope: canned.Own, Owner: "maren"},
	{ID: "hej", Shortcut: "hi", Text: "Hej {visitor.first|der}.", Language: "da", Scope: canned.Common},
	{ID: "theirs", Shortcut: "hidden", Text: "We can hold nothing.", Scope: canned.Own, Owner: "idris"},
	{ID: "freight", Shortcut: "ramp", Text: "We can hold 14 m of lorry deck.", Scope: canned.Department, Owner: "freight"},
})

var maren = canned.Reader{Operator: "maren", Departments: []string{"bookings"}, Department: "bookings", Language: "en-GB"}

func ids(hits []canned.Hit) []string {
	out := []string{}
	for _, h := range hits {
		out = append(out, h.ID)
	}
	return out
}

func TestSuggestions(t *testing.T) {
	for typed, want := range map[string][]string{
		"ho":                       {"holdcar", "hold"},
		"Of course. ho":            {"holdcar", "hold"},
		";h":                       {"mine", "holdcar", "hold", "hej"},
		"hold":                     {"hold", "holdcar"},
		"hi":                       {"mine", "hej"},
		"We can":                   {"holdcar", "hold"},
		"we  CAN hold":             {"hold", "holdcar"}, // hold is a whole shortcut too
		"Good news! We can hold t": {"holdcar"},
		"We can hold the vehicle":  {"holdcar"},
		"h":                        {},
		"We could":                 {},
		"":                         {},
		"   ":                      {},
		"\x00é{":                   {},
	} {
		require.Equal(t, want, ids(library.Suggest(typed, maren, 10)), "typed %q", typed)
	}
	require.NotContains(t, ids(library.Suggest("We can hold", canned.Reader{Operator: "tove"}, 10)), "holdcar", "another department's")
	match := library.Suggest("Good news! We can hold t", maren, 1)[0].Match
	require.Equal(t, "We can hold t", match, "only what it continues is replaced")
	require.Equal(t, ";h", library.Suggest("Yes ;h", maren, 1)[0].Match)
}

func TestOwnUseComesBeforeWhoseItIs(t *testing.T) {
	reader := maren
	require.Equal(t, []string{"holdcar", "hold"}, ids(library.Suggest("we can", reader, 10)))
	reader.Uses = map[string]float64{"hold": 3}
	require.Equal(t, []string{"hold", "holdcar"}, ids(library.Suggest("we can", reader, 10)))
	require.Equal(t, []string{"hold"}, ids(library.Suggest("we can", reader, 1)))
}

func TestFindingByWordsAnywhere(t *testing.T) {
	require.Equal(t, []string{"hold"}, ids(library.Find("seats HOURS", maren, 10)))
	require.Equal(t, []string{"hold", "holdcar"}, ids(library.Find("hold", maren, 10)))
	require.Len(t, library.Find("", maren, 10), 4, "all that she may use")
	require.Empty(t, library.Find("lorry", maren, 10), "freight's are not hers")
}

// However it is asked, nobody is shown what is not theirs, nothing comes twice,
// and what would be replaced is really the end of what was typed.
func TestSuggestionsAreTrue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		typed := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"We can hold", "Yes. We", ";", "hi", "so hold"})).Draw(t, "typed")
		reader := canned.Reader{Operator: rapid.SampledFrom([]string{"maren", "idris", ""}).Draw(t, "operator"), Department: rapid.SampledFrom([]string{"bookings", "freight", ""}).Draw(t, "department")}
		seen := map[string]bool{}
		for _, h := range library.Suggest(typed, reader, 100) {
			require.False(t, seen[h.ID])
			seen[h.ID] = true
			require.True(t, strings.HasSuffix(typed, h.Match))
			require.True(t, h.Scope != canned.Own || h.Owner == reader.Operator)
			require.True(t, h.Scope != canned.Department || h.Owner == reader.Department)
		}
	})
}

func TestFilling(t *testing.T) {
	values := map[string]string{"visitor.first": "Wren", "form.booking": "KF-20417", "page.title": "  "}
	for text, want := range map[string]struct {
		filled  string
		missing []string
	}{
		"Hello {visitor.first}":                   {"Hello Wren", nil},
		"Hello {visitor.first|there}":             {"Hello Wren", nil},
		"Hello {visitor.name|there}":              {"Hello there", nil},
		"Hello {visitor.name|}!":                  {"Hello !", nil},
		"Hello {visitor.name}":                    {"Hello {visitor.name}", []string{"visitor.name"}},
		"{form.booking} on {page.title|our site}": {"KF-20417 on our site", nil},
		"{form.car} and {form.car}":               {"{form.car} and {form.car}", []string{"form.car"}},
		"Use {{braces} and {x}":                   {"Use {braces} and {x}", nil},
		"open { and {visitor.first":               {"open { and {visitor.first", nil},
		"{ visitor.first | you }":                 {"Wren", nil},
	} {
		filled, missing := canned.Fill(text, func(n string) string { return values[n] })
		require.Equal(t, want.filled, filled, text)
		require.Equal(t, want.missing, missing, text)
		require.Equal(t, want.missing, canned.Unfilled(filled), "what is missing is noticed before it is sent: %s", text)
	}
	require.Empty(t, canned.Unfilled("function() { return {a.b.c: 1} } {no.such|x}"), "other braces are just text")
}

// A value is text, never a placeholder again: a visitor who calls themselves
// {visitor.email} gets nobody's address.
func TestValuesAreNotFilledAgain(t *testing.T) {
	filled, missing := canned.Fill("Hello {visitor.name}", func(n string) string {
		return map[string]string{"visitor.name": "{visitor.email}", "visitor.email": "wren@example.com"}[n]
	})
	require.Equal(t, "Hello {visitor.email}", filled)
	require.Empty(t, missing)
}

func TestChecks(t *testing.T) {
	good := canned.Response{Shortcut: "hold", Text: "We can {{hold}} {visitor.name}", Scope: canned.Common}
	require.Empty(t, good.Check())
	for field, change := range map[string]func(*canned.Response){
		"shortcut": func(r *canned.Response) { r.Shortcut = "two words" },
		"text":     func(r *canned.Response) { r.Text = "Hello {visitor.shoes}" },
		"scope":    func(r *canned.Response) { r.Scope = canned.Own },
		"language": func(r *canned.Response) { r.Language = "en gb!" },
		"folder":   func(r *canned.Response) { r.Folder = strings.Repeat("x", 81) },
	} {
		r := good
		change(&r)
		require.Len(t, r.Check(), 1)
		require.Equal(t, field, r.Check()[0].Field)
	}
	require.NotEmpty(t, canned.Response{Shortcut: strings.Repeat("x", 41), Text: strings.Repeat("x", 4001), Scope: "x"}.Check())
}

// The examples of RFC 4180, section 2, with a head line that names our columns.
func TestExamplesOfRFC4180(t *testing.T) {
	for name, example := range map[string]struct {
		file string
		want [][2]string
	}{
		"2.1 each record on its own line": {"aaa,bbb\r\nzzz,yyy\r\n", [][2]string{{"aaa", "bbb"}, {"zzz", "yyy"}}},
		"2.2 last record without an end":  {"aaa,bbb\r\nzzz,yyy", [][2]string{{"aaa", "bbb"}, {"zzz", "yyy"}}},
		"2.5 fields in quotes":            {"\"aaa\",\"bbb\"\r\nzzz,yyy", [][2]string{{"aaa", "bbb"}, {"zzz", "yyy"}}},
		"2.6 line breaks and commas":      {"\"aaa\",\"b\r\nbb, c\"\r\nzzz,yyy", [][2]string{{"aaa", "b\nbb, c"}, {"zzz", "yyy"}}},
		"2.7 quotes doubled":              {"\"aaa\",\"b\"\"bb\"\r\n", [][2]string{{"aaa", "b\"bb"}}},
	} {
		rows, rejects, err := canned.Read([]byte("shortcut,text\r\n" + example.file))
		require.NoError(t, err, name)
		require.Empty(t, rejects, name)
		got := [][2]string{}
		for _, r := range rows {
			got = append(got, [2]string{r.Response.Shortcut, r.Response.Text})
		}
		require.Equal(t, example.want, got, name)
	}
}

func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.StringMatching(`[a-z"',;\n é0-9]{1,40}`)
		var have []canned.Response
		for i := range rapid.IntRange(0, 8).Draw(t, "responses") {
			text := strings.TrimSpace(line.Draw(t, "text"))
			if text == "" {
				continue
			}
			have = append(have, canned.Response{ID: fmt.Sprint(i), Shortcut: fmt.Sprintf("s%d", i), Text: text, Folder: "a, b", Scope: canned.Department, Owner: "1"})
		}
		var file bytes.Buffer
		require.NoError(t, canned.Write(&file, have, func(string) string { return "Bookings, \"all\"" }))
		rows, rejects, err := canned.Read(file.Bytes())
		require.NoError(t, err)
		require.Empty(t, rejects)
		for i := range rows {
			require.Equal(t, "Bookings, \"all\"", rows[i].Department)
			rows[i].Response.Owner = "1"
		}
		plan := canned.Compare(have, rows, rejects)
		require.Equal(t, len(have), plan.Same, "a file that was written changes nothing")
		require.Empty(t, plan.Add)
		require.Empty(t, plan.Change)
		require.Empty(t, plan.Rejected)
	})
}

// Broken lines are named; the lines around them are read all the same.
func TestBrokenLinesAreNamed(t *testing.T) {
	file := strings.Join([]string{
		"Shortcut,Text,Folder",
		"one,First,",
		`two,a "bare" quote,`,
		"three,Third,",
		`four,"never closed,`,
		"five,Fifth,",
		"six,too,many,fields",
		"seven,Seventh,",
		`eight,"multi`,
		`line",`,
		",no shortcut,",
		"ONE,again,",
		"bad,Hello {visitor.shoes},",
	}, "\n")
	rows, rejects, err := canned.Read([]byte(file))
	require.NoError(t, err)
	plan := canned.Compare([]canned.Response{{ID: "1", Shortcut: "three", Text: "Old", Scope: canned.Common}}, rows, rejects)
	added := []string{}
	for _, r := range plan.Add {
		added = append(added, r.Response.Shortcut)
	}
	require.Equal(t, []string{"one", "five", "seven", "eight"}, added)
	require.Equal(t, "1", plan.Change[0].After.ID)
	lines := []int{}
	for _, r := range plan.Rejected {
		require.NotEmpty(t, r.Words)
		lines = append(lines, r.Line)
	}
	require.Equal(t, []int{3, 5, 7, 11, 12, 13}, lines)
}

// A file that has only some of the columns leaves the others as they are.
func TestColumnsThatAreNotThere(t *testing.T) {
	have := []canned.Response{{ID: "1", Shortcut: "hold", Text: "Old", Folder: "Seats", Language: "en", Scope: canned.Common}}
	rows, _, err := canned.Read([]byte("shortcut,text\nHOLD,New\n"))
	require.NoError(t, err)
	plan := canned.Compare(have, rows, nil)
	require.Empty(t, plan.Add)
	require.Equal(t, canned.Response{ID: "1", Shortcut: "HOLD", Text: "New", Folder: "Seats", Language: "en", Scope: canned.Common}, plan.Change[0].After)
	rows, _, err = canned.Read([]byte("shortcut,text,language,folder\nhold,Neu,de,\n"))
	require.NoError(t, err)
	require.Len(t, canned.Compare(have, rows, nil).Add, 1, "another language is another answer")
}

// Without a column for it, the language is that of the one answer there is, or
// none; with several, the file must say which one it means.
func TestAFileThatDoesNotNameLanguages(t *testing.T) {
	rows, _, err := canned.Read([]byte("shortcut,text\nhold,New\n"))
	require.NoError(t, err)
	of := func(language string) canned.Response {
		return canned.Response{ID: "id" + language, Shortcut: "hold", Text: "Old", Language: language, Scope: canned.Common}
	}
	plan := canned.Compare([]canned.Response{of("de"), of("en"), of("")}, rows, nil)
	require.Len(t, plan.Change, 1)
	require.Equal(t, "id", plan.Change[0].After.ID, "the one without a language is the exact one")
	plan = canned.Compare([]canned.Response{of("en"), of("de")}, rows, nil)
	require.Empty(t, plan.Change)
	require.Contains(t, plan.Rejected[0].Words[0], "de, en")
	plan = canned.Compare([]canned.Response{of("en")}, rows, nil)
	require.Equal(t, "en", plan.Change[0].After.Language)
}

func TestFilesOfOtherSeparators(t *testing.T) {
	for _, file := range []string{"shortcut;text;language\nhold;\"We can; of course, hold\";da_DK\n", "shortcut\ttext\tlanguage\nhold\tWe can; of course, hold\tda-DK\n"} {
		rows, rejects, err := canned.Read([]byte(file))
		require.NoError(t, err)
		require.Empty(t, rejects)
		require.Equal(t, "We can; of course, hold", rows[0].Response.Text)
		require.Equal(t, "da-DK", rows[0].Response.Language)
	}
}

// A cell that a spreadsheet would run is written as text, and comes back as it
// was.
func TestCellsThatLookLikeFormulas(t *testing.T) {
	for _, text := range []string{"=cmd|' /C calc'!A0", "+45 44", "-10 %", "@home", "'=1", "''+1", "'quoted'", "plain"} {
		var out bytes.Buffer
		require.NoError(t, canned.Write(&out, []canned.Response{{Shortcut: "x", Text: text, Scope: canned.Common}}, func(string) string { return "" }))
		second := strings.Split(out.String(), "\n")[1]
		require.NotRegexp(t, `,"?[=+@-]`, second, text)
		rows, _, err := canned.Read(out.Bytes())
		require.NoError(t, err)
		require.Equal(t, text, rows[0].Response.Text)
	}
}

// What is meant for a placeholder and is none is refused when it is stored, and
// once more before it is sent.
func TestPlaceholdersThatAreNone(t *testing.T) {
	for _, text := range []string{"Hello {visitor.email|{there}}", "Hello {visitor}", "Hello {visitor.näme}", "Hello {visitor.first", "Hello { visitor . name }", "Hello {form.}"} {
		require.NotEmpty(t, canned.Response{Shortcut: "x", Text: text, Scope: canned.Common}.Check(), text)
	}
	for _, text := range []string{"Hello {visitor.email|{there}}", "Hello {visitor}", "Hello {visitor.näme}", "Hello { visitor . name }", "Hello {visitor.name|}", "{form.booking}"} {
		require.NotEmpty(t, canned.Unfilled(text), text)
	}
	for _, text := range []string{"a set {x, y}", "{visitors welcome}", "{}", "visitor.name", "{pages}", "{{visitor.name}"} {
		filled, _ := canned.Fill(text, func(string) string { return "" })
		if text != "{{visitor.name}" { // a brace that was asked for
			require.Empty(t, canned.Unfilled(filled), text)
		}
	}
}

func TestNotAListOfResponses(t *testing.T) {
	for _, file := range []string{"", "a,b\n1,2\n", "\x89PNG\r\n"} {
		_, _, err := canned.Read([]byte(file))
		require.ErrorIs(t, err, canned.ErrNotCSV)
	}
	_, _, err := canned.Read([]byte("shortcut,text\n" + strings.Repeat("a,b \"c\" d\n", 10_000)))
	require.ErrorIs(t, err, spreadsheet.ErrTooManyWrong)
	rows, rejects, err := canned.Read([]byte("\ufeffshortcut,text\n" + strings.Repeat("a,b\n", 10_000)))
	require.NoError(t, err)
	require.Empty(t, rejects)
	require.Len(t, rows, 10_000)
}
