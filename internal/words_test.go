package internal_test

import (
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
)

// checked are the packages that say what is wrong at a field.
var checked = []string{
	"../core/routing", "../core/hours", "../core/canned", "../core/form", "../core/widget", "setup", "people", "talk", "library", "account", "teamtalk",
}

var sentence = regexp.MustCompile(`^[A-Z][^%]* [^%]*\.$`)

// What the server says at a field is English; pages say it in other languages by
// looking it up, so they must know every sentence that can come.
func TestPagesKnowWhatIsWrongAtFields(t *testing.T) {
	var known string
	for _, list := range []string{"../web/console/words/fields.ts", "../web/shared/visitor-problems.ts"} {
		text, err := os.ReadFile(list)
		require.NoError(t, err)
		known += string(text)
	}
	found := 0
	for _, folder := range checked {
		err := filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
			if err != nil || entry.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
			if err != nil {
				return err
			}
			ast.Inspect(file, func(n ast.Node) bool {
				literal, is := n.(*ast.BasicLit)
				if !is || literal.Kind != token.STRING {
					return true
				}
				words, err := strconv.Unquote(literal.Value)
				if err == nil && sentence.MatchString(words) && !strings.Contains(words, "\n") {
					found++
					require.Contains(t, known, words, "%s says it; add it to web/console/words/fields.ts", path)
				}
				return true
			})
			return nil
		})
		require.NoError(t, err)
	}
	require.Greater(t, found, 60, "where have the sentences gone?")
}
