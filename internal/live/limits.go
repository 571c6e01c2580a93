package live

import (
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// Every call of a visitor counts, whatever it asks: for the visitor, over all
// their connections, and for the address they come from, which many share.
const (
	callsPerSecond  = 20.0
	callBurst       = 120
	callsPerMessage = 4  // at least: a message brings drafts, receipts and typing with it
	addressFactor   = 20 // how much more one address may do than one visitor
	limitersKept    = 100_000
	refusedInARow   = 200 // calls that were too many: the connection is closed
	connectsASecond = 20.0
	connectBurst    = 300
	operatorCalls   = 100.0
	operatorBurst   = 1000
	largestCall     = 256 << 10 // bytes, of one call
	largestFrame    = 512 << 10
)

// limiters bound what one visitor and one address may do, each by a bucket that
// fills again (a token bucket). Those not asked for longest are forgotten; they
// would be full.
type limiters struct {
	messages, calls, connects *buckets
}

type buckets struct {
	kept  *lru.Cache[string, *rate.Limiter]
	rate  rate.Limit
	burst int
}

func newLimiters(l Limits) *limiters {
	make := func(perSecond float64, burst int) *buckets {
		kept, _ := lru.New[string, *rate.Limiter](limitersKept) // fails for sizes below one only
		return &buckets{kept, rate.Limit(perSecond), burst}
	}
	return &limiters{
		messages: make(l.MessagesPerSecond, l.MessageBurst),
		calls:    make(max(callsPerSecond, callsPerMessage*l.MessagesPerSecond), max(callBurst, callsPerMessage*l.MessageBurst)),
		connects: make(connectsASecond, connectBurst),
	}
}

// allow takes one out of a bucket; times is how much larger it is than usual.
func (b *buckets) allow(key string, times int) bool {
	limiter, known := b.kept.Get(key)
	if !known {
		limiter = rate.NewLimiter(b.rate*rate.Limit(times), b.burst*times)
		if before, there, _ := b.kept.PeekOrAdd(key, limiter); there {
			limiter = before
		}
	}
	return limiter.Allow()
}

// visitorMay reports whether a visitor, and their address, may do one more.
func (b *buckets) visitorMay(visitorID, address string) bool {
	mine := b.allow("visitor "+visitorID, 1)
	return (address == "" || b.allow("address "+address, addressFactor)) && mine
}
