package talk

import (
	"time"

	"golang.org/x/time/rate"

	"stoop/internal/buckets"
)

// What visitors may send: so many bytes at once, and as many again within an
// hour; a network, which many may share, four times that. A setting for larger
// files makes room for two of them.
const (
	visitorBytes  = 250 << 20
	networkFactor = 4
	uploadersKept = 50_000
)

// quotas count what was sent.
type quotas struct {
	senders buckets.Buckets
}

func newQuotas() quotas { return quotas{buckets.New(uploadersKept)} }

// take takes bytes out of the buckets of a visitor and their network.
func (q quotas) take(visitorID, network string, bytes, largest int64) error {
	room := max(visitorBytes, 2*largest)
	if !q.allow("visitor "+visitorID, bytes, room) || network != "" && !q.allow("network "+network, bytes, room*networkFactor) {
		return ErrTooManyFiles
	}
	return nil
}

func (q quotas) allow(sender string, bytes, room int64) bool {
	return q.senders.Of(sender, rate.Limit(float64(room)/3600), int(room)).AllowN(time.Now(), int(bytes))
}
