package again_test

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/again"
)

var silent = slog.New(slog.DiscardHandler)

// What must wait for another piece is done when that one is, not when it is looked again by itself.
func TestOneAfterTheOther(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	var lock sync.Mutex
	var order []int
	next, busy := 0, false
	again.Drain(ctx, time.Hour, 3, silent, "pieces", func() (func() error, error) {
		lock.Lock()
		defer lock.Unlock()
		if busy || next == 20 {
			return nil, nil
		}
		piece := next
		next, busy = next+1, true
		return func() error {
			lock.Lock()
			defer lock.Unlock()
			order, busy = append(order, piece), false
			if len(order) == 20 {
				cancel()
			}
			return nil
		}, nil
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
	again.Drain(ctx, time.Hour, 3, silent, "pieces", func() (func() error, error) {
		if taken == 12 {
			return nil, nil
		}
		taken++
		return func() error {
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
			return nil
		}, nil
	})
	require.EqualValues(t, 3, most.Load())
	require.EqualValues(t, 12, finished.Load())
}

// One that hangs holds up no others, and is waited for at the end.
func TestOneThatHangs(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	taken, others := 0, 0
	ended := false
	again.Drain(ctx, time.Millisecond, 2, silent, "pieces", func() (func() error, error) {
		taken++
		switch {
		case taken == 1:
			return func() error {
				<-ctx.Done()
				ended = true
				return nil
			}, nil
		case taken < 10:
			return func() error {
				if others++; others == 8 {
					cancel()
				}
				return nil
			}, nil
		}
		return nil, nil
	})
	require.Equal(t, 8, others)
	require.True(t, ended)
}

// What goes wrong, taking a piece or doing it, is told and keeps nothing from going on.
func TestWhatGoesWrongIsTold(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	var out bytes.Buffer
	taken, done := 0, 0
	again.Drain(ctx, time.Millisecond, 1, slog.New(slog.NewTextHandler(&out, nil)), "pieces", func() (func() error, error) {
		taken++
		switch taken {
		case 1:
			return nil, errors.New("no database")
		case 2:
			return func() error { return errors.New("no network") }, nil
		}
		return func() error {
			done++
			cancel()
			return errors.New("ended with the context") // nobody needs to know
		}, nil
	})
	require.Equal(t, 1, done)
	require.Contains(t, out.String(), "no database")
	require.Contains(t, out.String(), "no network")
	require.NotContains(t, out.String(), "ended with the context")
}
