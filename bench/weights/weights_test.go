package weights_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/bench/weights"
)

// A visitor on a slow line pays for every byte before they can ask.
func TestWeightsStayWithinTheirLimits(t *testing.T) {
	all, err := weights.Of()
	require.NoError(t, err)
	for _, w := range all {
		require.Positive(t, w.Bytes, w.Part)
		require.LessOrEqual(t, w.Bytes, w.Limit, "%s weighs %d bytes", w.Part, w.Bytes)
		t.Logf("counted: %s %.1f kB of %g kB", w.Part, float64(w.Bytes)/1000, float64(w.Limit)/1000)
	}
}
