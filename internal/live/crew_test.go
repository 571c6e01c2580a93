package live

import (
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// However many calls come at once, none waits for another; afterwards a few hands stay.
func TestACrewLetsNoCallWait(t *testing.T) {
	c := newCrew()
	before := runtime.NumGoroutine()
	for range 3 {
		const calls = 500
		var begun, done sync.WaitGroup
		begun.Add(calls)
		all := make(chan struct{})
		for range calls {
			done.Add(1)
			c.do(func() {
				defer done.Done()
				begun.Done()
				<-all // until the last one has begun
			})
		}
		begun.Wait()
		close(all)
		done.Wait()
	}
	// What waits for this condition needs a few itself.
	few := func(n int) func() bool { return func() bool { return runtime.NumGoroutine() <= before+n+5 } }
	require.Eventually(t, few(idleHands), 10*time.Second, 5*time.Millisecond)
	c.end()
	require.Eventually(t, few(0), 10*time.Second, 5*time.Millisecond)
}
