package staffing_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/staffing"
)

func date(text string) time.Time {
	at, err := time.Parse(time.DateOnly, text)
	if err != nil {
		panic(err)
	}
	return at
}

func likes(day, today, first string, holidays map[string]string) (dates []string, weeks []int) {
	for _, l := range staffing.DaysLike(date(day), date(today), date(first), func(d time.Time) string { return holidays[d.Format(time.DateOnly)] }) {
		dates, weeks = append(dates, l.Date.Format(time.DateOnly)), append(weeks, l.WeeksAgo)
	}
	return dates, weeks
}

func TestAUsualDayIsLikeThoseOfItsWeekday(t *testing.T) {
	dates, weeks := likes("2026-11-27", "2026-11-26", "2026-10-01", map[string]string{"2026-11-06": "Storm"})
	require.Equal(t, []string{"2026-11-20", "2026-11-13", "2026-10-30", "2026-10-23", "2026-10-16", "2026-10-09", "2026-10-02"}, dates,
		"no holiday among them, and nothing from before the first chat")
	require.Equal(t, []int{1, 2, 4, 5, 6, 7, 8}, weeks)

	dates, _ = likes("2026-11-27", "2026-11-26", "2020-01-01", nil)
	require.Len(t, dates, 12, "what was longer ago says nothing any more")
}

// Today is not over: what came of it so far would count as a whole day.
func TestTodayIsNotLikeAnything(t *testing.T) {
	dates, _ := likes("2026-11-27", "2026-11-20", "2026-11-01", nil)
	require.Equal(t, []string{"2026-11-13", "2026-11-06"}, dates)
}

func TestADayThatIsFarAheadIsLikeThoseJustPast(t *testing.T) {
	dates, weeks := likes("2027-11-26", "2026-11-26", "2025-01-01", nil)
	require.Len(t, dates, 12)
	require.Equal(t, "2026-11-20", dates[0])
	require.Equal(t, 1, weeks[0])
}

func TestAHolidayIsLikeItselfAlsoWhereItMoves(t *testing.T) {
	easter := map[string]string{"2025-04-21": "Easter Monday", "2026-04-06": "Easter Monday", "2027-03-29": "Easter Monday", "2026-12-25": "Christmas"}
	dates, weeks := likes("2027-03-29", "2026-11-26", "2025-01-01", easter)
	require.Equal(t, []string{"2026-04-06", "2025-04-21"}, dates)
	require.Equal(t, []int{0, 0}, weeks, "a year ago counts as much as two")

	dates, _ = likes("2027-03-29", "2026-11-26", "2026-05-01", easter)
	require.NotEmpty(t, dates, "one that never was is like a usual day")
	require.NotContains(t, dates, "2026-04-06")
}

func TestNothingIsKnownBeforeTheFirstDay(t *testing.T) {
	dates, _ := likes("2026-11-27", "2026-11-26", "2026-11-26", nil)
	require.Empty(t, dates)
}
