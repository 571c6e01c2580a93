package live

import (
	"golang.org/x/time/rate"

	"stoop/internal/buckets"
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

// limiters bound what one visitor and one address may do.
type limiters struct {
	messages, calls, connects limit
}

// limit is how much a visitor may do; their address may do it some times over.
type limit struct {
	senders   buckets.Buckets
	perSecond rate.Limit
	burst     int
}

func newLimiters(l Limits) *limiters {
	each := func(perSecond float64, burst int) limit {
		return limit{buckets.New(limitersKept), rate.Limit(perSecond), burst}
	}
	return &limiters{
		messages: each(l.MessagesPerSecond, l.MessageBurst),
		calls:    each(max(callsPerSecond, callsPerMessage*l.MessagesPerSecond), max(callBurst, callsPerMessage*l.MessageBurst)),
		connects: each(connectsASecond, connectBurst),
	}
}

// addressMay reports whether an address may do one more, where it may do as much
// as so many visitors.
func (l limit) addressMay(address string, visitors int) bool {
	return l.senders.Of("address "+address, l.perSecond*rate.Limit(visitors), l.burst*visitors).Allow()
}

// visitorMay reports whether a visitor, and their address, may do one more.
func (l limit) visitorMay(visitorID, address string) bool {
	mine := l.senders.Of("visitor "+visitorID, l.perSecond, l.burst).Allow()
	return (address == "" || l.addressMay(address, addressFactor)) && mine
}
