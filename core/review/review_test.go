package review_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat/distuv"
	"pgregory.net/rapid"

	"stoop/core/review"
)

func chats(group string, n int) (list []review.Candidate) {
	for i := range n {
		list = append(list, review.Candidate{Chat: fmt.Sprintf("%s-%d", group, i), Group: group})
	}
	return list
}

func count(drawn []string, group string) (n int) {
	for _, c := range drawn {
		if strings.HasPrefix(c, group+"-") {
			n++
		}
	}
	return n
}

func TestEachGroupGivesAsManyAsItCan(t *testing.T) {
	all := slices.Concat(chats("idris", 500), chats("tove", 40), chats("sunniva", 2))
	drawn := review.Draw(all, 12, "week 48")
	assert.Len(t, drawn, 12)
	assert.Equal(t, 2, count(drawn, "sunniva"), "all that there are")
	assert.Equal(t, 5, count(drawn, "idris"), "not more because they had more chats")
	assert.Equal(t, 5, count(drawn, "tove"))
	assert.Len(t, review.Draw(all, 9999, "x"), 542, "no more than there are")
	assert.Empty(t, review.Draw(nil, 5, "x"))
	assert.Empty(t, review.Draw(all, 0, "x"))
}

// The same draw can be made again, and what comes in or goes away moves no other.
func TestADrawIsReproducible(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all := slices.Concat(chats("a", rapid.IntRange(0, 30).Draw(t, "a")), chats("b", rapid.IntRange(0, 30).Draw(t, "b")))
		n, seed := rapid.IntRange(0, 20).Draw(t, "n"), rapid.String().Draw(t, "seed")
		first := review.Draw(all, n, seed)
		shuffled := rapid.Permutation(all).Draw(t, "order")
		if !slices.Equal(first, review.Draw(shuffled, n, seed)) {
			t.Fatal("another order gives other chats")
		}
		unique := slices.Compact(slices.Sorted(slices.Values(first)))
		if len(unique) != len(first) || len(first) != min(n, len(all)) {
			t.Fatalf("%d chats, %d of them different, of %d", len(first), len(unique), len(all))
		}
		if len(all) > 0 {
			gone := rapid.IntRange(0, len(all)-1).Draw(t, "gone")
			left := review.Draw(slices.Delete(slices.Clone(all), gone, gone+1), n, seed)
			if !slices.Contains(first, all[gone].Chat) && !slices.Equal(first, left) {
				t.Fatal("a chat that was not drawn moved those that were")
			}
		}
	})
}

// Of a group each chat is drawn as often as any other, over many seeds: Pearson's
// chi-squared test at 0.1 %, with gonum's distribution.
func TestEachChatHasTheSameChance(t *testing.T) {
	const chatsOf, drawnOf, draws = 25, 5, 4000
	all := chats("idris", chatsOf)
	hits := map[string]int{}
	for seed := range draws {
		for _, c := range review.Draw(all, drawnOf, fmt.Sprint("seed ", seed)) {
			hits[c]++
		}
	}
	require.Len(t, hits, chatsOf)
	expected := float64(draws) * drawnOf / chatsOf
	sum := 0.0
	for _, n := range hits {
		sum += (float64(n) - expected) * (float64(n) - expected) / expected
	}
	// Drawn without putting back, counts vary less than the test allows for.
	assert.Less(t, sum, distuv.ChiSquared{K: chatsOf - 1}.Quantile(0.999))
}

func TestScoresAddUp(t *testing.T) {
	points, of := review.Total([]review.Score{review.Yes, review.Partly, review.No, review.None})
	assert.Equal(t, 1.5, points)
	assert.Equal(t, 3, of)
	points, of = review.Total([]review.Score{review.None})
	assert.Zero(t, points)
	assert.Zero(t, of, "no share of nothing")
}
