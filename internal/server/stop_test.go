package server

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Whoever restarts a server waits for it: what hangs is cut off, and named.
func TestAStopThatHangsIsCutOffAndNamed(t *testing.T) {
	t.Parallel()
	release := make(chan struct{})
	defer close(release)
	var hung *HungError
	require.ErrorAs(t, inTime(time.Millisecond, func() error { hangsWhileStopping(release); return nil }), &hung)
	require.Contains(t, hung.Stacks, "hangsWhileStopping")

	trouble := errors.New("the disk is full")
	require.ErrorIs(t, inTime(time.Hour, func() error { return trouble }), trouble)
	require.NoError(t, inTime(time.Hour, func() error { return nil }))
}

func hangsWhileStopping(release <-chan struct{}) { <-release }
