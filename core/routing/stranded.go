package routing

import "time"

// A chat that comes to nobody by time alone becomes a message: when all who
// could help have been closed by their hours for ClosedFor, or when nobody of
// them has been in for NobodyFor; the latter bears a pause, and colleagues who
// change over. Both are chosen, not measured.
const (
	ClosedFor = time.Minute
	NobodyFor = 5 * time.Minute
)

// TimeToKeep reports whether it is time to keep a chat as a message that has come
// to nobody since a time; shut tells whether all who could help are closed by
// their hours at a time.
func TimeToKeep(since, now time.Time, shut func(at time.Time) bool) bool {
	return now.Sub(since) >= NobodyFor || shut(now) && shut(now.Add(-ClosedFor))
}
