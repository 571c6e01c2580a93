package store

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// A copy is behind since the first look at which it lacked something, and not at all on a
// database in which nothing happens.
func TestHowFarBehindACopyIs(t *testing.T) {
	nine := time.Date(2026, 9, 17, 9, 0, 0, 0, time.UTC)
	type look struct {
		at                int // seconds
		written, replayed int64
		behind            int // seconds
	}
	for name, looks := range map[string][]look{
		"keeps up":           {{0, 10, 10, 0}, {1, 20, 20, 0}, {2, 30, 30, 0}},
		"nothing happens":    {{0, 10, 10, 0}, {600, 10, 10, 0}, {7200, 10, 10, 0}},
		"stands still":       {{0, 10, 10, 0}, {1, 20, 10, 0}, {2, 30, 10, 1}, {9, 40, 10, 8}},
		"follows some way":   {{0, 10, 10, 0}, {1, 20, 10, 0}, {2, 30, 10, 1}, {3, 40, 25, 1}, {4, 50, 35, 1}},
		"catches up":         {{0, 10, 5, 0}, {5, 20, 5, 5}, {6, 30, 30, 0}, {7, 30, 30, 0}},
		"is ahead of a look": {{0, 10, 12, 0}, {1, 20, 25, 0}},
	} {
		r := &Replica{}
		for _, l := range looks {
			got := r.lag(mark{nine.Add(time.Duration(l.at) * time.Second), l.written}, l.replayed)
			require.Equal(t, time.Duration(l.behind)*time.Second, got, "%s, after %d s", name, l.at)
		}
		require.LessOrEqual(t, len(r.written), len(looks))
	}
}

// However long a copy stands still, what is remembered of it is bounded.
func TestWhatIsRememberedOfACopyIsBounded(t *testing.T) {
	r, at := &Replica{}, time.Date(2026, 9, 17, 9, 0, 0, 0, time.UTC)
	var behind time.Duration
	for i := range 5000 {
		behind = r.lag(mark{at.Add(time.Duration(i) * lookedAtEvery), int64(i + 1)}, 0)
	}
	require.LessOrEqual(t, len(r.written), int(2*behindMost/lookedAtEvery))
	require.Greater(t, behind, behindMost, "it is far too long for the copy to be used")
}

// Without a copy, or while it is of no use, the database itself is read.
func TestWhereIsRead(t *testing.T) {
	database, copied := &Store{}, &Store{}
	r := &Replica{Primary: database}
	require.Same(t, database, r.Reader())
	r.Copy = copied
	require.Same(t, database, r.Reader(), "nobody has looked yet")
	r.usable, r.behind = true, 7*time.Second
	require.Same(t, copied, r.Reader())
	require.Equal(t, 7*time.Second, r.Behind())
	r.usable = false
	require.Same(t, database, r.Reader())
	require.Zero(t, r.Behind(), "what is read is the database")
}
