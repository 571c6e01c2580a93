package search_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/search"
)

func TestWhatATypedSearchMeans(t *testing.T) {
	for text, want := range map[string]string{
		`group minibus`:        `('group':*) & ('minibus':*)`,
		`"group fare" dog`:     `('group' <-> 'fare') & ('dog':*)`,
		`dog OR cat`:           `('dog':* | 'cat':*)`,
		`dog or cat`:           `('dog':*) & ('or') & ('cat':*)`,
		`dog | cat bird`:       `('dog':* | 'cat':*) & ('bird':*)`,
		`ferry -late`:          `('ferry':*) & !('late':*)`,
		`ferry NOT "too late"`: `('ferry':*) & !('too' <-> 'late')`,
		`ferry - late`:         `('ferry':*) & ('late':*)`,
		`a b*`:                 `('a') & ('b':*)`,
		`Café`:                 `('cafe':*)`,
		`KF-20417`:             `('kf' <-> '20417':*)`,
		`"not closed`:          `('not' <-> 'closed')`,
		`„deutsche“ dog`:       `('deutsche') & ('dog':*)`,
		`OR dog`:               `('dog':*)`,
		`dog OR`:               `('dog':*)`,
		`dog AND cat`:          `('dog':*) & ('cat':*)`,
		`-dog cat`:             `('cat':*) & !('dog':*)`,
		`it's \ ' cat`:         `('it' <-> 's':*) & ('cat':*)`,
	} {
		q, err := search.Parse(text)
		require.NoError(t, err, text)
		require.Equal(t, want, q.TSQuery(), text)
	}
}

func TestSearchesThatCannotBe(t *testing.T) {
	for text, want := range map[string]error{
		strings.Repeat("x", 10_000):  search.ErrTooLong,
		strings.Repeat("ab ", 60):    search.ErrTooMany,
		`-dog`:                       search.ErrOnlyWithout,
		`NOT dog -cat`:               search.ErrOnlyWithout,
		`OR | AND NOT - * " & ! ( )`: search.ErrNothing,
		`"`:                          search.ErrNothing,
	} {
		_, err := search.Parse(text)
		require.ErrorIs(t, err, want, text)
	}
	q, err := search.Parse("   ")
	require.NoError(t, err)
	require.True(t, q.Empty())
}

// The browser marks by the same list; see web/console/transcripts/mark-words.test.ts.
func TestWhatIsMarked(t *testing.T) {
	data, err := os.ReadFile("testdata/marked.json")
	require.NoError(t, err)
	var cases []struct {
		Text, Search string
		Hits         []string
		Terms        []search.Term
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	for _, c := range cases {
		q, err := search.Parse(c.Search)
		require.NoError(t, err, c.Search)
		require.Equal(t, c.Terms, q.Terms(), c.Search)
		hits, whole := []string{}, ""
		for _, p := range search.Marked(c.Text, q.Terms()) {
			whole += p.Text
			if p.Hit {
				hits = append(hits, p.Text)
			}
		}
		require.Equal(t, c.Hits, hits, "%s in %s", c.Search, c.Text)
		require.Equal(t, c.Text, whole, "nothing is lost")
	}
}

// Whatever is typed becomes a search or a reason why not, and whatever is said an index.
func TestNothingTypedBreaksIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.String().Draw(t, "text")
		q, err := search.Parse(text)
		if err == nil && !q.Empty() {
			require.NotContains(t, q.TSQuery(), "''", "no empty word")
		}
		said := rapid.String().Draw(t, "said")
		whole := ""
		for _, p := range search.Marked(said, q.Terms()) {
			whole += p.Text
		}
		require.Equal(t, said, whole)
		require.True(t, utf8.ValidString(search.TSVector([]search.Text{{Weight: search.Said, Text: said}})) || !utf8.ValidString(said))
		require.LessOrEqual(t, utf8.RuneCountInString(search.Excerpt(said, q.Terms(), 20)), 20+4)
	})
}

func TestAnExcerptShowsWhatWasFound(t *testing.T) {
	q, err := search.Parse("minibus")
	require.NoError(t, err)
	long := strings.Repeat("Nothing of note was said here. ", 20) + "Then we came with a minibus and a trailer." + strings.Repeat(" And more.", 20)
	excerpt := search.Excerpt(long, q.Terms(), 80)
	require.Contains(t, excerpt, "minibus")
	require.True(t, strings.HasPrefix(excerpt, "… "))
	require.Equal(t, "short as it is", search.Excerpt("short  as it\nis", nil, 80))
}
