package hours_test

import (
	"context"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/hours"
	"stoop/internal/testpg"
)

func TestAfterSoMuchOpenTime(t *testing.T) {
	s := office(t, copenhagen)
	for _, c := range []struct {
		name, from, want string
		long             time.Duration
	}{
		{"within a morning", "2026-03-02 10:00", "2026-03-02 12:00", 2 * time.Hour},
		{"over lunch", "2026-03-02 11:00", "2026-03-02 14:00", 2 * time.Hour},
		{"over the night", "2026-03-02 16:00", "2026-03-03 08:30", 2 * time.Hour},
		{"just to the end of the day, not to the next morning", "2026-03-02 15:30", "2026-03-02 17:30", 2 * time.Hour},
		{"from Thursday into Friday night", "2026-03-05 16:30", "2026-03-06 21:00", 2 * time.Hour},
		{"past midnight", "2026-03-06 23:00", "2026-03-07 01:00", 2 * time.Hour},
		{"from while it is closed", "2026-03-08 12:00", "2026-03-09 10:00", 2 * time.Hour},
		{"over the night in which summer time begins", "2026-03-28 23:30", "2026-03-30 08:30", time.Hour},
		{"none at all", "2026-03-08 12:00", "2026-03-08 12:00", 0},
	} {
		got, ever := s.After(at(t, copenhagen, c.from), c.long)
		require.True(t, ever, c.name)
		require.Equal(t, at(t, copenhagen, c.want).UTC(), got.UTC(), c.name)
	}
	_, ever := hours.Schedule{Zone: copenhagen}.After(at(t, copenhagen, "2026-03-02 10:00"), time.Hour)
	require.False(t, ever, "what never opens")
	always := hours.Schedule{Zone: copenhagen}
	for day := range time.Weekday(7) {
		always.Weekly = append(always.Weekly, period(t, day, "00:00", "00:00"))
	}
	got, ever := always.After(at(t, copenhagen, "2026-03-28 12:00"), 24*time.Hour)
	require.True(t, ever)
	require.Equal(t, 24*time.Hour, got.Sub(at(t, copenhagen, "2026-03-28 12:00")), "around the clock, hours are hours")
}

// PostgreSQL counts the minutes that are open by its own clock on the wall between a moment and
// the one that After names: as many as were asked for.
func TestAfterAgreesWithPostgreSQLsClock(t *testing.T) {
	ctx := context.Background()
	db, err := pgx.Connect(ctx, testpg.New(t))
	require.NoError(t, err)
	defer db.Close(ctx)
	for _, zone := range []string{copenhagen, "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu"} {
		s := office(t, zone)
		for i := range 40 {
			from := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(i*i*311) * time.Minute)
			long := time.Duration(30+i*97) * time.Minute
			until, ever := s.After(from, long)
			require.True(t, ever)
			rows, err := db.Query(ctx, "select t at time zone $1 from generate_series($2::timestamptz, $3::timestamptz - interval '1 second', interval '1 min') t", zone, from, until)
			require.NoError(t, err)
			walls, err := pgx.CollectRows(rows, pgx.RowTo[time.Time])
			require.NoError(t, err)
			open := 0
			for _, wall := range walls {
				if wallIsOpen(s, wall) {
					open++
				}
			}
			require.Equal(t, int(long.Minutes()), open, "%s from %s to %s", zone, from, until)
		}
	}
}
