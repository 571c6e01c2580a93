package repeat_test

import (
	"fmt"
	"math"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/repeat"
)

func setOf(text string) repeat.Set { return repeat.Shingles(repeat.Normal(text, nil), 3) }

func TestNamesAndNumbersArePutAside(t *testing.T) {
	names := map[string]bool{"wren": true, "castellane": true}
	aside := func(w string) bool { return names[w] }
	a := repeat.Normal("Hello Wren, the 14:10 to Sandry is on time.", aside)
	b := repeat.Normal("HELLO Castellane! The 9:55 to Sandry is on time", aside)
	assert.Equal(t, []string{"hello", "the", "0", "to", "sandry", "is", "on", "time"}, a)
	assert.Equal(t, a, b)
	assert.Equal(t, []string{"fahrzeughohe", "0", "m"}, repeat.Normal("Fahrzeughöhe: 2,10 m", nil))
	assert.Empty(t, repeat.Normal("…?! 👍", nil))
}

// Worked by hand: of the shingles abc bcd cde and abc bcd cdx, two of four are in both.
func TestJaccard(t *testing.T) {
	assert.InDelta(t, 0.5, repeat.Jaccard(setOf("a b c d e"), setOf("a b c d x")), 1e-12)
	assert.InDelta(t, 1, repeat.Jaccard(setOf("a b"), setOf("a b")), 1e-12, "shorter than a shingle")
	assert.Zero(t, repeat.Jaccard(setOf("a b"), setOf("a c")))
	assert.Zero(t, repeat.Jaccard(nil, nil))
	assert.Len(t, setOf("no no no no no"), 1, "each shingle counts once")
}

// allPairs compares each text with each other.
func allPairs(sets []repeat.Set, threshold float64) (pairs []repeat.Pair) {
	for a := range sets {
		for b := a + 1; b < len(sets); b++ {
			if j := repeat.Jaccard(sets[a], sets[b]); j >= threshold {
				pairs = append(pairs, repeat.Pair{A: a, B: b, Jaccard: j})
			}
		}
	}
	return pairs
}

// typed makes texts as they are typed again and again: of each of some answers variants with
// words left out, put in and changed.
func typed(r *rand.Rand, answers, variants int) (sets []repeat.Set) {
	word := func() string { return fmt.Sprintf("w%c%c", 'a'+r.IntN(26), 'a'+r.IntN(26)) }
	for range answers {
		words := make([]string, 8+r.IntN(25))
		for i := range words {
			words[i] = word()
		}
		for range variants {
			var variant []string
			for _, w := range words {
				switch p := r.Float64(); {
				case p < 0.03:
				case p < 0.06:
					variant = append(variant, word())
				case p < 0.08:
					variant = append(variant, w, word())
				default:
					variant = append(variant, w)
				}
			}
			sets = append(sets, setOf(strings.Join(variant, " ")))
		}
	}
	return sets
}

// What MinHash finds is compared with all pairs, compared exactly: at least 95 of 100 are
// found, and none that is not similar enough.
func TestNearlyAllSimilarTextsAreFound(t *testing.T) {
	for _, threshold := range []float64{0.5, 0.6, 0.8} {
		sets := typed(rand.New(rand.NewPCG(1, uint64(threshold*100))), 60, 12)
		want, got := allPairs(sets, threshold), repeat.Similar(sets, threshold)
		require.Greater(t, len(want), 300, "the test would say little")
		found := map[[2]int]float64{}
		for _, p := range got {
			require.GreaterOrEqual(t, p.Jaccard, threshold)
			found[[2]int{p.A, p.B}] = p.Jaccard
		}
		hits := 0
		for _, p := range want {
			if j, ok := found[[2]int{p.A, p.B}]; ok {
				hits++
				require.Equal(t, p.Jaccard, j)
			}
		}
		require.Equal(t, hits, len(got), "nothing that is not there")
		recall := float64(hits) / float64(len(want))
		t.Logf("at %.1f: %d of %d pairs, recall %.3f", threshold, hits, len(want), recall)
		require.GreaterOrEqual(t, recall, 0.95)
	}
}

// Signatures agree as often as texts are similar (Broder 1997): the estimate is within four
// standard errors.
func TestSignaturesEstimateJaccard(t *testing.T) {
	sets := typed(rand.New(rand.NewPCG(7, 7)), 20, 6)
	for a := range sets {
		for b := a + 1; b < len(sets); b++ {
			j := repeat.Jaccard(sets[a], sets[b])
			sa, sb := repeat.Sign(sets[a]), repeat.Sign(sets[b])
			same := 0
			for i := range sa {
				if sa[i] == sb[i] {
					same++
				}
			}
			n := float64(len(sa))
			require.InDelta(t, j, float64(same)/n, 4*math.Sqrt(j*(1-j)/n)+4/n, "%d %d", a, b)
		}
	}
}

// A group's members are all similar to the one that leads it.
func TestGroupsAreNoChains(t *testing.T) {
	sets := typed(rand.New(rand.NewPCG(3, 3)), 30, 10)
	times := make([]int, len(sets))
	for i := range times {
		times[i] = 1 + i%7
	}
	lead := repeat.Group(sets, times, 0.6)
	groups := map[int]int{}
	for i, l := range lead {
		require.Equal(t, l, lead[l], "who leads belongs to themselves")
		if i != l {
			require.GreaterOrEqual(t, repeat.Jaccard(sets[i], sets[l]), 0.6)
		}
		groups[l]++
	}
	require.Less(t, len(groups), len(sets)*2/3)
	require.Empty(t, repeat.Group(nil, nil, 0.6))
}

// The hash functions compute a x + b modulo 2^61 - 1, checked with math/big.
func TestHashesAreThoseOfTheFamily(t *testing.T) {
	prime := new(big.Int).Sub(new(big.Int).Lsh(big.NewInt(1), 61), big.NewInt(1))
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.Uint64Range(1, 1<<61-2).Draw(t, "a"), rapid.Uint64Range(0, 1<<61-2).Draw(t, "b")
		x := rapid.Uint64().Draw(t, "x")
		want := new(big.Int).SetUint64(x)
		want.Mul(want, new(big.Int).SetUint64(a)).Add(want, new(big.Int).SetUint64(b)).Mod(want, prime)
		if got := repeat.TimesPlus(a, x, b); got != want.Uint64() {
			t.Fatalf("%d instead of %s", got, want)
		}
	})
}

func TestWhatItWouldSave(t *testing.T) {
	assert.Equal(t, 56*time.Second*10, repeat.Saved(strings.Repeat("x", 200), 10), "a minute to type, four seconds to choose")
	assert.Zero(t, repeat.Saved("Yes.", 100))
}

func TestWhatATextCovers(t *testing.T) {
	questions := [][]string{
		repeat.Normal("Can I take my dog on the ferry?", nil), repeat.Normal("Can I take a bicycle on the ferry?", nil),
		repeat.Normal("When is the first ferry to Brae?", nil), repeat.Normal("Can I change my booking?", nil),
	}
	tells := repeat.Telling(questions)
	require.Greater(t, tells("dog"), tells("ferry"))
	about := func(text string) map[string]bool { return repeat.Stems(repeat.Normal(text, nil)) }
	dogs := about("Travelling with animals. Dogs and cats may travel on the ferry. You can take them on deck.")
	assert.Greater(t, repeat.Covered(questions[0], about("Your dog on the ferry: dog fares"), tells), repeat.Covered(questions[1], about("Your dog on the ferry: dog fares"), tells))
	assert.Less(t, repeat.Covered(questions[3], dogs, tells), 0.4)
	assert.Zero(t, repeat.Covered(nil, dogs, tells))
	assert.Equal(t, "ferri", repeat.Stem("ferries"))
	assert.Equal(t, "öäüßé", repeat.Stem("öäüßéx"))
}
