// Package buckets bounds how much many senders do, each by a bucket of their own
// that fills again (a token bucket).
package buckets

import (
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// Buckets holds a bucket for each sender. Those not asked for longest are
// forgotten: they would be full. It is safe for concurrent use.
type Buckets struct {
	kept *lru.Cache[string, *rate.Limiter]
}

// New returns buckets for so many senders at once, at least one.
func New(senders int) Buckets {
	kept, _ := lru.New[string, *rate.Limiter](senders) // fails for sizes below one only
	return Buckets{kept}
}

// Of returns the bucket of a sender; a new one holds as much as it can, and fills
// at a rate for each second.
func (b Buckets) Of(sender string, perSecond rate.Limit, holds int) *rate.Limiter {
	if bucket, known := b.kept.Get(sender); known {
		return bucket
	}
	bucket := rate.NewLimiter(perSecond, holds)
	if before, there, _ := b.kept.PeekOrAdd(sender, bucket); there {
		return before
	}
	return bucket
}
