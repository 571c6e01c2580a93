package hours_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/hours"
)

// on is a schedule of one period on some days, in a zone.
func on(t *testing.T, zone, from, to string, days ...time.Weekday) hours.Schedule {
	t.Helper()
	clock := func(text string) hours.Clock {
		c, err := hours.ParseClock(text)
		require.NoError(t, err)
		return c
	}
	s := hours.Schedule{Zone: zone}
	for _, d := range days {
		s.Weekly = append(s.Weekly, hours.Period{Day: d, Span: hours.Span{From: clock(from), To: clock(to)}})
	}
	require.Empty(t, s.Check())
	return s
}

// A widget of mornings and a department of Tuesdays meet on Tuesday morning; two that
// never meet never open, and what is in another zone meets there.
func TestWhenAllAreOpenTogether(t *testing.T) {
	friday := time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)
	week := []time.Weekday{1, 2, 3, 4, 5}
	mornings, tuesday, evenings := on(t, "UTC", "08:00", "12:00", week...), on(t, "UTC", "10:00", "18:00", time.Tuesday), on(t, "UTC", "18:00", "22:00", week...)
	for name, c := range map[string]struct {
		each []hours.Next
		want string
	}{
		"none":                   {nil, "2026-11-27T20:00:00Z"},
		"always":                 {[]hours.Next{hours.Always, hours.Always}, "2026-11-27T20:00:00Z"},
		"one that is open":       {[]hours.Next{evenings.NextOpening, hours.Always}, "2026-11-27T20:00:00Z"},
		"one that is not":        {[]hours.Next{mornings.NextOpening}, "2026-11-30T08:00:00Z"},
		"two":                    {[]hours.Next{mornings.NextOpening, tuesday.NextOpening}, "2026-12-01T10:00:00Z"},
		"in the other order":     {[]hours.Next{tuesday.NextOpening, mornings.NextOpening}, "2026-12-01T10:00:00Z"},
		"that never meet":        {[]hours.Next{mornings.NextOpening, evenings.NextOpening}, ""},
		"with one that never is": {[]hours.Next{hours.Always, hours.Schedule{Zone: "UTC"}.NextOpening}, ""},
		"in two zones":           {[]hours.Next{mornings.NextOpening, on(t, "America/New_York", "06:00", "09:00", week...).NextOpening}, "2026-11-30T11:00:00Z"},
		"the first of several":   {[]hours.Next{hours.First(tuesday.NextOpening, mornings.NextOpening)}, "2026-11-30T08:00:00Z"},
		"the first of none":      {[]hours.Next{hours.First()}, ""},
	} {
		at, ok := hours.Together(c.each...)(friday)
		require.Equal(t, c.want != "", ok, name)
		if ok {
			require.Equal(t, c.want, at.UTC().Format(time.RFC3339), name)
		}
	}
}
