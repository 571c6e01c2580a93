package answer_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/answer"
)

func apart(i, j int) bool { return i == j }

// Of two passages the one answers with the rarer words of the question, and one whose
// heading has them before one that only mentions them.
func TestRareWordsAndHeadingsDecide(t *testing.T) {
	question := []answer.Word{{In: 40}, {In: 1}} // "bring", "kayak"
	ranked := answer.Rank(question, []answer.Candidate{
		{InHead: []bool{true, false}, InText: []bool{true, false}, Length: 20},
		{InHead: []bool{false, false}, InText: []bool{false, true}, Length: 20},
	}, 60, apart)
	require.Equal(t, 1, ranked[0].Index)

	ranked = answer.Rank(question, []answer.Candidate{
		{InHead: []bool{false, false}, InText: []bool{true, true}, Length: 20},
		{InHead: []bool{false, true}, InText: []bool{true, true}, Length: 20},
	}, 60, apart)
	require.Equal(t, 1, ranked[0].Index)
	require.Greater(t, ranked[0].Confidence, answer.Threshold)
}

// A question of which hardly anything is written is not answered, and neither is one
// whose words stand nowhere together.
func TestWhatIsNotWrittenIsNotAnswered(t *testing.T) {
	ranked := answer.Rank([]answer.Word{{In: 30}, {In: 0}, {In: 0}}, []answer.Candidate{
		{InHead: []bool{false, false, false}, InText: []bool{true, false, false}, Length: 30},
	}, 60, apart)
	require.Less(t, ranked[0].Confidence, 0.1)
	require.Empty(t, answer.Rank(nil, nil, 60, apart))
}

// Confidence is a share, the order is that of the scores, and more words of a question in
// a passage never make it less sure.
func TestConfidence(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "words")
		question := make([]answer.Word, n)
		for i := range question {
			question[i].In = rapid.IntRange(0, 100).Draw(t, "in")
		}
		candidates := make([]answer.Candidate, rapid.IntRange(1, 6).Draw(t, "candidates"))
		for i := range candidates {
			candidates[i] = answer.Candidate{
				InHead: rapid.SliceOfN(rapid.Bool(), n, n).Draw(t, "head"), InText: rapid.SliceOfN(rapid.Bool(), n, n).Draw(t, "text"),
				Alike: rapid.Float64Range(0, 1).Draw(t, "alike"), Length: rapid.IntRange(0, 300).Draw(t, "length"),
			}
		}
		ranked := answer.Rank(question, candidates, 100, apart)
		require.Len(t, ranked, len(candidates))
		for i, r := range ranked {
			require.True(t, r.Confidence >= 0 && r.Confidence <= 1, "%v", r)
			require.True(t, i == 0 || ranked[i-1].Score >= r.Score)
		}
		one := candidates[:1]
		before := answer.Rank(question, one, 100, apart)[0].Confidence
		k := rapid.IntRange(0, n-1).Draw(t, "more")
		one[0].InText[k] = true
		require.GreaterOrEqual(t, answer.Rank(question, one, 100, apart)[0].Confidence, before)
	})
}
