package spreadsheet_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/spreadsheet"
)

func read(t *testing.T, data string) (spreadsheet.Table, []spreadsheet.Reject) {
	t.Helper()
	table, rejects, err := spreadsheet.Read([]byte(data))
	require.NoError(t, err)
	return table, rejects
}

func cells(table spreadsheet.Table, column string) (list []string) {
	for _, line := range table.Lines {
		list = append(list, line.Cell(column))
	}
	return list
}

// The examples of RFC 4180, section 2: rules 1 and 2 (the last line may end or not), 5
// and 6 (quotes, and line breaks and commas within), 7 (quotes doubled).
func TestTheExamplesOfTheStandard(t *testing.T) {
	const head = "one,two,three\r\n"
	for data, want := range map[string][]string{
		"aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n":             {"bbb", "yyy"},
		"aaa,bbb,ccc\r\nzzz,yyy,xxx":                 {"bbb", "yyy"},
		"\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx":     {"bbb", "yyy"},
		"\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx": {"b\nbb", "yyy"},
		"\"aaa\",\"b\"\"bb\",\"ccc\"":                {"b\"bb"},
		"\"aaa\",\"b,bb\",\"ccc\"":                   {"b,bb"},
		" aaa , bbb , ccc ":                          {" bbb "}, // rule 4: spaces are part of a field
	} {
		table, rejects := read(t, head+data)
		require.Empty(t, rejects, data)
		require.Equal(t, want, cells(table, "two"), data)
	}
}

// Spreadsheets of countries with a decimal comma separate by semicolons, and begin a file
// with the mark of its bytes' order: common practice with no source.
func TestWhatOtherCountriesWrite(t *testing.T) {
	for _, separator := range []string{",", ";", "\t"} {
		data := "\ufeff" + strings.Join([]string{"Name", " E-Mail "}, separator) + "\n" + strings.Join([]string{"Ærø", "a@example.org"}, separator) + "\n"
		table, rejects := read(t, data)
		require.Empty(t, rejects)
		require.True(t, table.Has("name"), "the case does not count")
		require.Equal(t, []string{"Ærø"}, cells(table, "NAME"))
		require.Equal(t, []string{"a@example.org"}, cells(table, "e-mail"))
		require.False(t, table.Has("phone"))
		require.Equal(t, []string{""}, cells(table, "phone"))
	}
}

func TestNothingIsATableWithoutColumns(t *testing.T) {
	for _, data := range []string{"", "\ufeff", "\n\n"} {
		table, rejects := read(t, data)
		require.Empty(t, rejects)
		require.Empty(t, table.Columns)
		require.Empty(t, table.Lines)
	}
	table, _ := read(t, "name,email\n")
	require.Len(t, table.Columns, 2)
	require.Empty(t, table.Lines)
}

// A line that is broken must not take others with it, least of all by a quote that is
// never closed; and each is told by the number that an editor shows.
func TestBrokenLinesAreToldAndTheOthersRead(t *testing.T) {
	table, rejects := read(t, strings.Join([]string{
		"name,words",           // 1
		"Petra,fine",           // 2
		`Lukas,"never closed`,  // 3
		"Wren,after it",        // 4
		"Noor",                 // 5
		`Tam,a "quote" within`, // 6
		"Ida,\"two", "lines\"", // 7, 8
		"Jory,one,too many",     // 9
		`Lio,"closed" and more`, // 10
		"Ansa,last",             // 11
	}, "\n"))
	require.Equal(t, []string{"Petra", "Wren", "Ida", "Ansa"}, cells(table, "name"))
	require.Equal(t, []string{"fine", "after it", "two\nlines", "last"}, cells(table, "words"))
	var numbers []int
	for _, line := range table.Lines {
		numbers = append(numbers, line.Number)
	}
	require.Equal(t, []int{2, 4, 7, 11}, numbers)
	var wrong []int
	for _, reject := range rejects {
		require.NotEmpty(t, reject.Words)
		wrong = append(wrong, reject.Line)
	}
	require.Equal(t, []int{3, 5, 6, 9, 10}, wrong)
}

func TestAFileOfWhichMostIsWrongIsTheWrongFile(t *testing.T) {
	_, _, err := spreadsheet.Read([]byte("name,words\n" + strings.Repeat("a,\"b\" c\n", 600)))
	require.ErrorIs(t, err, spreadsheet.ErrTooManyWrong)
}

// OWASP, "CSV Injection": a cell that begins with =, +, -, @, a tab or a line feed is run
// as a formula by spreadsheets; an apostrophe before it makes it text.
func TestNothingThatIsWrittenIsAFormula(t *testing.T) {
	for _, cell := range []string{`=HYPERLINK("http://example.org","look")`, "+45 12 34 56 78", "-1", "@SUM(A1)", "\t=1+1", "\r=1+1", "'=1", "''=1", "plain", "'quoted'", ""} {
		var out bytes.Buffer
		require.NoError(t, spreadsheet.Write(&out, []string{"words", "other"}, [][]string{{cell, "x"}}))
		require.Equal(t, 2, strings.Count(out.String(), "\r\n"), "lines end as the standard says")
		plain, err := csv.NewReader(strings.NewReader(out.String())).ReadAll()
		require.NoError(t, err)
		if written := plain[1][0]; written != "" {
			require.NotContains(t, "=+-@\t\r", written[:1], "%q is written as %q", cell, written)
		}
		table, _ := read(t, out.String())
		require.Equal(t, []string{strings.ReplaceAll(cell, "\r", "")}, cells(table, "words"))
	}
}

// Whatever is written is read again as it was.
func TestARoundTrip(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 11))
	letters := []rune("ab =+-@'\",;\t\nÆ€😀")
	cell := func() string {
		var b strings.Builder
		for range random.IntN(6) {
			b.WriteRune(letters[random.IntN(len(letters))])
		}
		return b.String()
	}
	for range 200 {
		lines := make([][]string, 1+random.IntN(5))
		for i := range lines {
			lines[i] = []string{fmt.Sprint("n", i), cell(), cell()}
		}
		var out bytes.Buffer
		require.NoError(t, spreadsheet.Write(&out, []string{"number", "first", "second"}, lines))
		table, rejects := read(t, out.String())
		require.Empty(t, rejects, out.String())
		require.Len(t, table.Lines, len(lines))
		for i, line := range table.Lines {
			require.Equal(t, lines[i], []string{line.Cell("number"), line.Cell("first"), line.Cell("second")})
		}
	}
}
