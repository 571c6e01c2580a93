package server

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// A small server may take three times what it needs, a large one less than twice.
func TestGarbageBesideWhatIsInUse(t *testing.T) {
	t.Parallel()
	require.Equal(t, 200, garbageFor(0))
	require.Equal(t, 200, garbageFor(60<<20))
	require.Equal(t, 100, garbageFor(192<<20))
	require.Equal(t, 65, garbageFor(1<<30))
}
