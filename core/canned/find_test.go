package canned_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/canned"
)

var someWords = []string{"we", "can", "hold", "holding", "seat", "seats", "Curlew", "ære", "24", "no"}

// someLibrary draws responses of few words, so that many fit and many are alike.
func someLibrary(t *rapid.T) []canned.Response {
	words := rapid.SliceOfN(rapid.SampledFrom(someWords), 1, 8)
	n := rapid.IntRange(0, 40).Draw(t, "responses")
	list := make([]canned.Response, n)
	for i := range list {
		list[i] = canned.Response{
			ID: fmt.Sprint("id", i), Shortcut: fmt.Sprintf("%s%d", rapid.SampledFrom(someWords).Draw(t, "shortcut"), i),
			Text: strings.Join(words.Draw(t, "text"), " "), Folder: rapid.SampledFrom([]string{"", "Fares", "On board"}).Draw(t, "folder"),
			Scope: rapid.SampledFrom([]canned.Scope{canned.Own, canned.Department, canned.Common}).Draw(t, "scope"),
			Owner: rapid.SampledFrom([]string{"maren", "bookings", "freight"}).Draw(t, "owner"),
		}
	}
	return list
}

func mayUse(r canned.Response) bool {
	return r.Scope == canned.Common || r.Owner == "maren" && r.Scope == canned.Own || r.Owner == "bookings" && r.Scope == canned.Department
}

// The index finds what looking through all texts finds, and nothing else; a
// shorter list is the beginning of a longer one.
func TestTheIndexFindsWhatReadingAllFinds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := someLibrary(t)
		l := canned.New(list)
		terms := rapid.SliceOfN(rapid.SampledFrom([]string{"h", "hold", "eat", "a", "ær", "fares", "board", "4", "x", "WE", "holding"}), 0, 3).Draw(t, "terms")
		var want []string
		for _, r := range list {
			text := strings.ToLower(r.Shortcut + " " + r.Folder + " " + r.Text)
			if mayUse(r) && !slices.ContainsFunc(terms, func(term string) bool { return !strings.Contains(text, strings.ToLower(term)) }) {
				want = append(want, r.ID)
			}
		}
		all := ids(l.Find(strings.Join(terms, " "), maren, 1000))
		require.ElementsMatch(t, want, all)
		few := rapid.IntRange(0, 12).Draw(t, "few")
		require.Equal(t, all[:min(few, len(all))], ids(l.Find(strings.Join(terms, " "), maren, few)))
	})
}

// Of what fits a text, the best are suggested: those that a sort of all by the
// rules of ranking puts first.
func TestTheBestAreSuggested(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := someLibrary(t)
		l := canned.New(list)
		reader := maren
		reader.Uses = map[string]float64{}
		for _, r := range list {
			if rapid.Bool().Draw(t, "used") {
				reader.Uses[r.ID] = float64(rapid.IntRange(1, 3).Draw(t, "uses"))
			}
		}
		typed := rapid.SampledFrom([]string{"we", "hold", "We can", "no seat", "can hold", "24 ", "ær"}).Draw(t, "typed")
		type fitting struct {
			id        string
			fit, near int
			uses      float64
			shortcut  string
		}
		var all []fitting
		last := strings.ToLower(typed[strings.LastIndex(typed, " ")+1:])
		for _, r := range list {
			one := fitting{id: r.ID, fit: -1, uses: reader.Uses[r.ID], shortcut: strings.ToLower(r.Shortcut), near: map[canned.Scope]int{canned.Own: 0, canned.Department: 1, canned.Common: 3}[r.Scope]}
			switch shortcut := strings.ToLower(r.Shortcut); {
			case !mayUse(r):
				continue
			case len([]rune(last)) >= 2 && shortcut == last:
				one.fit = 0
			case len([]rune(last)) >= 2 && strings.HasPrefix(shortcut, last):
				one.fit = 1
			case len([]rune(typed)) >= 3 && strings.HasPrefix(strings.ToLower(r.Text), strings.ToLower(typed)):
				one.fit = 2
			default:
				continue
			}
			all = append(all, one)
		}
		slices.SortFunc(all, func(a, b fitting) int {
			return cmp.Or(a.fit-b.fit, cmp.Compare(b.uses, a.uses), a.near-b.near, strings.Compare(a.shortcut, b.shortcut))
		})
		want := []string{}
		for _, one := range all[:min(5, len(all))] {
			want = append(want, one.id)
		}
		require.Equal(t, want, ids(l.Suggest(typed, reader, 5)), "typed %q", typed)
	})
}
