package remember_test

import (
	"errors"
	"sync"
	"sync/atomic"
	"testing"

	"stoop/internal/remember"

	"github.com/stretchr/testify/require"
)

// What changes while it is being read is read again, however the readers and
// those who change it fall between each other.
func TestWhatIsRememberedIsNeverOlderThanTheLastChange(t *testing.T) {
	var stored atomic.Int64
	var r remember.Value[int64]
	read := func() (*int64, error) {
		value := stored.Load()
		return &value, nil
	}
	var wait sync.WaitGroup
	for range 4 {
		wait.Go(func() {
			for range 20_000 {
				changed := stored.Add(1)
				r.Forget()
				got, err := r.Get(read)
				if err != nil || *got < changed {
					t.Errorf("after change %d the older %d was remembered, error %v", changed, *got, err)
					return
				}
			}
		})
	}
	wait.Wait()
}

func TestARemembererReadsOnceAndTriesAgainAfterAnError(t *testing.T) {
	var r remember.Value[int]
	reads := 0
	_, err := r.Get(func() (*int, error) { return nil, errors.New("away") })
	require.EqualError(t, err, "away")
	for range 3 {
		got, err := r.Get(func() (*int, error) { reads++; return &reads, nil })
		require.NoError(t, err)
		require.Equal(t, 1, *got)
	}
	require.Equal(t, 1, reads)
}
