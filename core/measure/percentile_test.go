package measure_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"

	"stoop/core/measure"
)

// gonum's LinInterp is definition 4 of Hyndman and Fan (1996); at ((n-1)p+1)/n it is
// definition 7, by the formulas of their table 1.
func TestPercentilesAgreeWithGonum(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	for _, n := range []int{1, 2, 3, 10, 101, 1000} {
		values, floats := make([]int, n), make([]float64, n)
		for i := range values {
			values[i] = int(random.ExpFloat64() * 60)
			floats[i] = float64(values[i])
		}
		slices.Sort(floats)
		for _, p := range []float64{0, 0.1, 0.25, 0.5, 0.9, 0.99, 1} {
			at := (float64(n-1)*p + 1) / float64(n)
			require.InDelta(t, stat.Quantile(at, stat.LinInterp, floats, nil), measure.Percentile(values, p), 1e-6, "n %d p %v", n, p)
		}
		require.InDelta(t, stat.Mean(floats, nil), measure.DistributionOf(values).Mean(), 1e-9)
	}
}

// The numbers of R's documentation of quantile(): type 7 of 1 to 10. From memory.
func TestPercentilesOfOneToTen(t *testing.T) {
	values := []int{10, 1, 9, 2, 8, 3, 7, 4, 6, 5}
	require.InDelta(t, 5.5, measure.Percentile(values, 0.5), 1e-12)
	require.InDelta(t, 9.1, measure.Percentile(values, 0.9), 1e-12)
	require.InDelta(t, 3.25, measure.Percentile(values, 0.25), 1e-12)
	require.True(t, math.IsNaN(measure.Percentile(nil, 0.5)), "nothing is known of none")
}

// What is counted by parts is what is counted at once.
func TestDistributionsMerge(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := rapid.SliceOfN(rapid.IntRange(0, 50), 1, 60).Draw(t, "values")
		cut := rapid.IntRange(0, len(values)).Draw(t, "cut")
		whole := measure.DistributionOf(values)
		require.Equal(t, whole, measure.Merge(measure.DistributionOf(values[:cut]), measure.DistributionOf(values[cut:])))
		p := rapid.Float64Range(0, 1).Draw(t, "p")
		require.InDelta(t, measure.Percentile(values, p), whole.Percentile(p), 1e-9)
		require.EqualValues(t, len(values), whole.N())
	})
}
