package again_test

import (
	"context"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/again"
)

// What must wait for another piece is done when that one is, not when it is looked again by itself.
func TestOneAfterTheOther(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	var lock sync.Mutex
	var order []int
	next, busy := 0, false
	again.Drain(ctx, time.Hour, 3, func() func() {
		lock.Lock()
		defer lock.Unlock()
		if busy || next == 20 {
			return nil
		}
		piece := next
		next, busy = next+1, true
		return func() {
			lock.Lock()
			defer lock.Unlock()
			order, busy = append(order, piece), false
			if len(order) == 20 {
				cancel()
			}
		}
	})
	require.Len(t, order, 20)
	require.IsIncreasing(t, order)
}

// As many pieces are done at once as may be, and no more; none is left when it returns.
func TestSoManyAtOnce(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	var now, most, finished atomic.Int32
	taken := 0
	full := make(chan struct{})
	again.Drain(ctx, time.Hour, 3, func() func() {
		if taken == 12 {
			return nil
		}
		taken++
		return func() {
			at := now.Add(1)
			for before := most.Load(); at > before && !most.CompareAndSwap(before, at); before = most.Load() {
			}
			if at == 3 && taken == 3 {
				close(full)
			}
			<-full // the first three meet
			now.Add(-1)
			if finished.Add(1) == 12 {
				cancel()
			}
		}
	})
	require.EqualValues(t, 3, most.Load())
	require.EqualValues(t, 12, finished.Load())
}

// One that hangs holds up no others, and is waited for at the end.
func TestOneThatHangs(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	taken, others := 0, 0
	ended := false
	again.Drain(ctx, time.Millisecond, 2, func() func() {
		taken++
		switch {
		case taken == 1:
			return func() {
				<-ctx.Done()
				ended = true
			}
		case taken < 10:
			return func() {
				if others++; others == 8 {
					cancel()
				}
			}
		}
		return nil
	})
	require.Equal(t, 8, others)
	require.True(t, ended)
}
