package live

import (
	"sync"
	"sync/atomic"
)

// idleHands is how many goroutines of a crew wait for more work.
const idleHands = 64

// crew answers calls. It is go, with goroutines that stay for the next call: a new
// one begins with a small stack and has to move to larger ones on its way down to
// the database, which took a tenth of the time of a message. The zero value is not
// ready; see newCrew.
type crew struct {
	calls chan func()
	idle  atomic.Int32
	once  sync.Once
}

func newCrew() *crew { return &crew{calls: make(chan func())} }

// do does something beside its caller, and never waits.
func (c *crew) do(call func()) {
	select {
	case c.calls <- call: // somebody is idle
	default:
		go c.hand(call)
	}
}

// hand does a call, and then others, unless enough hands wait for them.
func (c *crew) hand(call func()) {
	for {
		call()
		if c.idle.Add(1) > idleHands {
			c.idle.Add(-1)
			return
		}
		more := false
		call, more = <-c.calls
		c.idle.Add(-1)
		if !more {
			return
		}
	}
}

// end sends the hands home, when nothing is to be done any more.
func (c *crew) end() { c.once.Do(func() { close(c.calls) }) }
