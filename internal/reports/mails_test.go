package reports

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Reports go out at seven by the team's clocks, also on the days on which these change,
// and are of the whole day, week or month before.
func TestWhenReportsGoOut(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(t, err)
	at := func(text string) time.Time {
		moment, err := time.ParseInLocation("2006-01-02 15:04", text, zone)
		require.NoError(t, err)
		return moment
	}
	for _, c := range []struct{ every, after, next, from, to string }{
		{"day", "2026-11-28 06:59", "2026-11-28 07:00", "2026-11-27", "2026-11-27"},
		{"day", "2026-11-28 07:00", "2026-11-29 07:00", "2026-11-28", "2026-11-28"},
		{"day", "2026-10-24 08:00", "2026-10-25 07:00", "2026-10-24", "2026-10-24"},
		{"day", "2026-03-28 08:00", "2026-03-29 07:00", "2026-03-28", "2026-03-28"},
		{"week", "2026-11-28 12:00", "2026-11-30 07:00", "2026-11-23", "2026-11-29"},
		{"month", "2026-01-31 12:00", "2026-02-01 07:00", "2026-01-01", "2026-01-31"},
		{"month", "2026-02-15 12:00", "2026-03-01 07:00", "2026-02-01", "2026-02-28"},
	} {
		next := nextMail(c.every, at(c.after), zone)
		require.Equal(t, c.next, next.In(zone).Format("2006-01-02 15:04"), "%s after %s", c.every, c.after)
		from, to := mailedDays(c.every, next, zone)
		require.Equal(t, []string{c.from, c.to}, []string{from.Format(time.DateOnly), to.Format(time.DateOnly)}, "%s at %s", c.every, c.next)
	}
}
