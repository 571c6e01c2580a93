package floor

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/routing"
)

// Pages ask at the same time who is in; what is handed out on the floor of one
// of them must not be counted on the floor of another.
func TestWhoIsInIsToldToEachAskerApart(t *testing.T) {
	now := time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)
	var room Room
	room.staff.Put(room.staff.Times(), &staffOf{now, []routing.Staff{{ID: "maren", Available: true, Languages: []string{"de-AT"}}}})
	d := routing.Department{ID: "d", Open: true, HandOut: routing.Assign, Capacity: 1, Members: []routing.Member{{Operator: "maren"}}}
	for range 2 {
		staff, err := room.recentStaff(t.Context(), now)
		require.NoError(t, err)
		steps := routing.NewFloor([]routing.Department{d}, staff).Run([]routing.Waiting{{Chat: "c", Department: "d", Arrived: now, Since: now}}, now)
		require.Len(t, steps, 1, "her only place is free for each who asks")
	}
}
