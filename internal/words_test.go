package internal_test

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/measure"
)

// checked are the packages that say what is wrong at a field.
var checked = []string{
	"../core/routing", "../core/hours", "../core/canned", "../core/form", "../core/widget", "../core/flow", "../core/visit", "../core/invite", "setup", "people", "talk", "library", "account", "teamtalk", "helper", "hooks", "tickets", "keys", "../core/ticket", "../core/acting", "acting",
}

// reasons are where errors and reasons become sentences that are shown.
var reasons = []string{"../core/hours/schedule.go", "../core/hours/icalendar/read.go", "../core/routing/condition.go"}

var (
	sentence  = regexp.MustCompile(`^[A-Z][^%]* [^%]*\.$`)
	formatted = regexp.MustCompile(`^[A-Z“%].* .*\.$`)
	fragment  = regexp.MustCompile(`^(it|its|an|only|single|the) .*\.$`)
	verb      = regexp.MustCompile(`%[.\d]*[dsqw]`)
)

// What the server says at a field is English; pages say it in other languages by
// looking it up, so they must know every sentence that can come, those with values by
// their patterns.
func TestPagesKnowWhatIsWrongAtFields(t *testing.T) {
	known := pagesKnow(t)
	found, patterns := 0, 0
	for _, folder := range checked {
		err := filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
			if err != nil || entry.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			for _, words := range literals(t, path) {
				switch {
				case strings.Contains(words, "\n"):
				case sentence.MatchString(words):
					found++
					require.Contains(t, known, words, "%s says it; add it to web/console/words/fields.ts", path)
				case formatted.MatchString(words) && verb.MatchString(words) && !strings.HasSuffix(words, "was left out: %s"):
					patterns++
					require.Contains(t, known, quoted(pattern(words, 0)), "%s says it; add it to web/console/words/sentences.ts", path)
				}
			}
			return nil
		})
		require.NoError(t, err)
	}
	require.Greater(t, found, 60, "where have the sentences gone?")
	require.Greater(t, patterns, 25, "where have the sentences with values gone?")
}

// How figures are counted is said once, beside the code; pages say it in other languages.
func TestPagesKnowHowFiguresAreCounted(t *testing.T) {
	known, err := os.ReadFile("../web/console/words/definitions.ts")
	require.NoError(t, err)
	for _, d := range measure.Definitions {
		require.Contains(t, string(known), "`"+d.Words+"`", "core/measure says it of %s; write it in web/console/words/definitions.ts too", d.Code)
	}
}

func TestPagesAndMailsFindTheSameNumberTooFew(t *testing.T) {
	page, err := os.ReadFile("../web/console/reports/figures.ts")
	require.NoError(t, err)
	require.Contains(t, string(page), fmt.Sprintf("export const enough = %d;", measure.Enough))
}

func TestPagesKnowWhyHoursAndRulesAreRefused(t *testing.T) {
	known := pagesKnow(t)
	found := 0
	for _, path := range reasons {
		for _, words := range literals(t, path) {
			if fragment.MatchString(words) {
				found++
				require.Contains(t, known, quoted("“{0}” was left out: "+pattern(words, 1)), "%s says it; add it to web/console/words/sentences.ts", path)
			}
		}
		for _, words := range errorsIn(t, path) {
			if !strings.Contains(words, " ") || words == "no time zone is set" {
				continue // not shown by itself
			}
			found++
			whole := strings.ToUpper(words[:1]) + words[1:] + "."
			require.Contains(t, known, pattern(whole, 0), "%s says %q; add it to web/console/words", path, whole)
		}
	}
	require.Greater(t, found, 25)
}

func pagesKnow(t *testing.T) (known string) {
	t.Helper()
	for _, list := range []string{"../web/console/words/fields.ts", "../web/console/words/sentences.ts", "../web/shared/visitor-problems.ts"} {
		text, err := os.ReadFile(list)
		require.NoError(t, err)
		known += string(text)
	}
	return known
}

// pattern numbers the values of a format, from a number on.
func pattern(format string, first int) string {
	return verb.ReplaceAllStringFunc(format, func(string) string {
		first++
		return fmt.Sprintf("{%d}", first-1)
	})
}

func quoted(words string) string { return `"` + words + `"` }

func parsed(t *testing.T, path string) *ast.File {
	t.Helper()
	file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
	require.NoError(t, err)
	return file
}

// literals returns all texts in a file.
func literals(t *testing.T, path string) (all []string) {
	t.Helper()
	ast.Inspect(parsed(t, path), func(n ast.Node) bool {
		if literal, is := n.(*ast.BasicLit); is && literal.Kind == token.STRING {
			words, err := strconv.Unquote(literal.Value)
			require.NoError(t, err)
			all = append(all, words)
		}
		return true
	})
	return all
}

// errorsIn returns the formats of the errors that a file makes.
func errorsIn(t *testing.T, path string) (all []string) {
	t.Helper()
	ast.Inspect(parsed(t, path), func(n ast.Node) bool {
		call, is := n.(*ast.CallExpr)
		if !is {
			return true
		}
		if of, is := call.Fun.(*ast.SelectorExpr); is && of.Sel.Name == "Errorf" {
			if literal, is := call.Args[0].(*ast.BasicLit); is {
				words, err := strconv.Unquote(literal.Value)
				require.NoError(t, err)
				all = append(all, words)
			}
		}
		return true
	})
	return all
}
