package measure_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/measure"
)

// The examples of table I of Newcombe, "Two-sided confidence intervals for the single
// proportion: comparison of seven methods", Statistics in Medicine 17 (1998), pages
// 857 to 872, method 3.
func TestIntervalsAsPublished(t *testing.T) {
	for _, c := range []struct {
		hits, tries int64
		low, high   float64
	}{
		{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605}, {0, 20, 0.0000, 0.1611}, {1, 29, 0.0061, 0.1718},
	} {
		i := measure.Wilson(c.hits, c.tries)
		require.InDelta(t, c.low, i.Low, 0.00005, "%d of %d", c.hits, c.tries)
		require.InDelta(t, c.high, i.High, 0.00005, "%d of %d", c.hits, c.tries)
	}
	require.Equal(t, measure.Interval{Low: 0, High: 1}, measure.Wilson(0, 0), "of nothing nothing is known")
	require.LessOrEqual(t, measure.Wilson(20, 20).High, 1.0)
}
