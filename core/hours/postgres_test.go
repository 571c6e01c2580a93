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

// PostgreSQL's AT TIME ZONE is the reference: at every half hour of several
// years the team is open exactly when the wall clock that PostgreSQL shows lies
// in a period. The zones change oddly: half hours, the southern half of the
// world, zones that dropped daylight saving (Sao Paulo 2019, Istanbul 2016),
// and one that skipped a whole day (Apia, 30 December 2011). Only moments whose
// wall-clock time happens twice are left out: there the rule is our own.
func TestAgainstPostgreSQLsTimeZones(t *testing.T) {
	ctx := context.Background()
	db, err := pgx.Connect(ctx, testpg.New(t))
	require.NoError(t, err)
	defer db.Close(ctx)
	checked, open := 0, 0
	for _, c := range []struct {
		zone     string
		from, to int
	}{
		{copenhagen, 2023, 2026}, {"Asia/Kolkata", 2023, 2024}, {"Asia/Kathmandu", 1985, 1987}, {"Australia/Lord_Howe", 2018, 2021},
		{"Pacific/Auckland", 2019, 2022}, {"America/Sao_Paulo", 2017, 2021}, {"Europe/Istanbul", 2014, 2018}, {"Pacific/Apia", 2010, 2013}, {"America/New_York", 2005, 2008},
	} {
		s := office(t, c.zone)
		from, to := time.Date(c.from, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(c.to, 1, 1, 0, 0, 0, 0, time.UTC)
		intervals := s.Between(from, to)
		rows, err := db.Query(ctx, `select t, t at time zone $1, (t at time zone $1) at time zone $1 <> t
				or exists (select 1 from unnest(array[interval '30 min', '1 hour', '-30 min', '-1 hour']) d where (t + d) at time zone $1 = t at time zone $1)
			from generate_series($2::timestamptz, $3::timestamptz, interval '30 min') t`, c.zone, from, to.Add(-time.Second))
		require.NoError(t, err)
		var instant, wall time.Time
		var twice bool
		next := 0
		_, err = pgx.ForEachRow(rows, []any{&instant, &wall, &twice}, func() error {
			for next < len(intervals) && !instant.Before(intervals[next].To) {
				next++
			}
			if twice {
				return nil
			}
			got := next < len(intervals) && !instant.Before(intervals[next].From)
			checked++
			if got {
				open++
			}
			if want := wallIsOpen(s, wall); want != got {
				t.Errorf("%s at %s (%s on the wall): open %t, PostgreSQL's clock says %t", c.zone, instant.UTC(), wall.Format("Mon 2006-01-02 15:04"), got, want)
			}
			if checked%97 == 0 {
				require.Equal(t, got, s.Open(instant), "At and Between differ")
			}
			return nil
		})
		require.NoError(t, err)
	}
	t.Logf("counted: hours against PostgreSQL's time zones at %d moments of 9 zones, %d of them open", checked, open)
	require.Greater(t, checked, 300_000)
}

// wallIsOpen asks the week by nothing but the wall clock.
func wallIsOpen(s hours.Schedule, wall time.Time) bool {
	minute := hours.Clock(wall.Hour()*60 + wall.Minute())
	for _, p := range s.Weekly {
		over := p.To <= p.From
		switch {
		case p.Day == wall.Weekday() && minute >= p.From && (over || minute < p.To):
			return true
		case over && (p.Day+1)%7 == wall.Weekday() && minute < p.To:
			return true
		}
	}
	return false
}
