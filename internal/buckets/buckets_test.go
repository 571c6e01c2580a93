package buckets_test

import (
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/buckets"
)

func TestEachSenderHasABucketOfTheirOwn(t *testing.T) {
	b := buckets.New(10)
	require.True(t, b.Of("wren", 0, 2).Allow())
	require.True(t, b.Of("wren", 0, 2).Allow())
	require.False(t, b.Of("wren", 0, 2).Allow(), "what is in it is used up")
	require.True(t, b.Of("oskar", 0, 2).Allow())
}

// Many calls of one sender at once share one bucket, also the first ones.
func TestFirstCallsAtOnceShareABucket(t *testing.T) {
	b := buckets.New(10)
	var allowed atomic.Int64
	var wait sync.WaitGroup
	for range 64 {
		wait.Go(func() {
			if b.Of("wren", 0, 5).Allow() {
				allowed.Add(1)
			}
		})
	}
	wait.Wait()
	require.EqualValues(t, 5, allowed.Load())
}

// However many senders there are, no more are kept than was said.
func TestTheLeastRecentSendersAreForgotten(t *testing.T) {
	b := buckets.New(100)
	require.True(t, b.Of("wren", 0, 1).Allow())
	for i := range 100 {
		b.Of(fmt.Sprint(i), 0, 1)
	}
	require.True(t, b.Of("wren", 0, 1).Allow(), "a new bucket")
	require.True(t, b.Of("99", 0, 1).Allow())
	require.False(t, b.Of("99", 0, 1).Allow(), "a recent one is remembered")
}
