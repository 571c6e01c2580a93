package feedback

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// A day is as long as the zone makes it: in Copenhagen 23 hours on 29 March 2026 and 25
// on 25 October 2026 (directive 2000/84/EC: the last Sundays of these months, at 01:00 UTC).
func TestDaysOfDaylightSaving(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(t, err)
	for day, hours := range map[string]float64{"2026-03-28": 24, "2026-03-29": 23, "2026-10-25": 25, "2026-10-26": 24} {
		from, to, err := days(day, day, zone)
		require.NoError(t, err)
		require.InDelta(t, hours, to.Sub(from).Hours(), 0, day)
	}
	from, to, err := days("", "", zone)
	require.NoError(t, err)
	require.True(t, from.IsZero() && to.IsZero(), "no bounds")
	_, _, err = days("2026-02-30", "", zone)
	require.Error(t, err)
}
