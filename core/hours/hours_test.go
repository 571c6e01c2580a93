package hours_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/hours"
)

func clock(t testing.TB, text string) hours.Clock {
	t.Helper()
	c, err := hours.ParseClock(text)
	require.NoError(t, err)
	return c
}

func period(t testing.TB, day time.Weekday, from, to string) hours.Period {
	return hours.Period{Day: day, Span: hours.Span{From: clock(t, from), To: clock(t, to)}}
}

// office is a week with a lunch break, a short Saturday and a Friday night that
// ends on Saturday.
func office(t testing.TB, zone string) hours.Schedule {
	s := hours.Schedule{Zone: zone}
	for day := time.Monday; day <= time.Thursday; day++ {
		s.Weekly = append(s.Weekly, period(t, day, "08:00", "12:00"), period(t, day, "13:00", "17:30"))
	}
	s.Weekly = append(s.Weekly, period(t, time.Friday, "20:00", "02:30"), period(t, time.Saturday, "10:00", "24:00"))
	return s
}

func at(t testing.TB, zone, local string) time.Time {
	t.Helper()
	z, err := time.LoadLocation(zone)
	require.NoError(t, err)
	parsed, err := time.ParseInLocation("2006-01-02 15:04", local, z)
	require.NoError(t, err)
	return parsed
}

const copenhagen = "Europe/Copenhagen"

func TestOpenAndWhenItChanges(t *testing.T) {
	s := office(t, copenhagen)
	s.Exceptions = []hours.Exception{
		{Date: hours.Date{Year: 2026, Month: time.December, Day: 24}, Name: "Christmas Eve", Yearly: true, Spans: []hours.Span{{From: 9 * 60, To: 11 * 60}}},
		{Date: hours.Date{Year: 2026, Month: time.November, Day: 23}, Name: "Stocktaking"},
	}
	for name, c := range map[string]struct {
		at    string
		open  bool
		until string
	}{
		"in the morning":                  {"2026-11-24 09:00", true, "2026-11-24 12:00"},
		"the first minute":                {"2026-11-24 08:00", true, "2026-11-24 12:00"},
		"the end is not in it":            {"2026-11-24 12:00", false, "2026-11-24 13:00"},
		"over night":                      {"2026-11-28 01:00", true, "2026-11-28 02:30"},
		"to the end of the day":           {"2026-11-28 23:59", true, "2026-11-29 00:00"},
		"weekend, then a day off":         {"2026-11-22 12:00", false, "2026-11-24 08:00"},
		"on the day off":                  {"2026-11-23 09:00", false, "2026-11-24 08:00"},
		"other hours on a day":            {"2026-12-24 10:00", true, "2026-12-24 11:00"},
		"other hours every year":          {"2031-12-24 10:00", true, "2031-12-24 11:00"},
		"an exception has no past":        {"2025-12-24 10:30", true, "2025-12-24 12:00"},
		"what began before a day off":     {"2026-11-21 23:00", true, "2026-11-22 00:00"},
		"usual hours do not hold on that": {"2026-12-24 14:00", false, "2026-12-25 20:00"},
	} {
		t.Run(name, func(t *testing.T) {
			status := s.At(at(t, copenhagen, c.at))
			require.Equal(t, c.open, status.Open)
			require.Equal(t, at(t, copenhagen, c.until).UTC(), status.Until.UTC())
		})
	}
	next, ok := s.NextOpening(at(t, copenhagen, "2026-11-22 12:00"))
	require.True(t, ok)
	require.Equal(t, "Tuesday 08:00", next.In(time.FixedZone("", 3600)).Format("Monday 15:04"))
	require.Equal(t, "Stocktaking", s.At(at(t, copenhagen, "2026-11-23 09:00")).Holiday)
}

// Facts of the trade (common practice, no source): around the clock is never
// closed; a schedule of nothing never opens.
func TestAlwaysAndNever(t *testing.T) {
	always := hours.Schedule{Zone: copenhagen}
	for day := time.Sunday; day <= time.Saturday; day++ {
		always.Weekly = append(always.Weekly, period(t, day, "00:00", "24:00"))
	}
	require.Empty(t, always.Check())
	status := always.At(at(t, copenhagen, "2026-03-29 01:59"))
	require.True(t, status.Open)
	require.True(t, status.Until.IsZero())

	never := hours.Schedule{Zone: copenhagen}
	require.False(t, never.Open(time.Now()))
	_, opens := never.NextOpening(at(t, copenhagen, "2026-01-01 00:00"))
	require.False(t, opens)
	require.Contains(t, never.Check()[0].Words, "never open")

	leap := hours.Schedule{Zone: "UTC", Exceptions: []hours.Exception{
		{Date: hours.Date{Year: 2024, Month: time.February, Day: 29}, Yearly: true, Spans: []hours.Span{{From: 60, To: 120}}}}}
	next, opens := leap.NextOpening(at(t, "UTC", "2025-01-01 00:00"))
	require.True(t, opens)
	require.Equal(t, "2028-02-29 01:00", next.UTC().Format("2006-01-02 15:04"))
}

// The last Sunday of March 2026 skips 02:00 to 03:00 in Copenhagen, and that of
// October has it twice (EU directive 2000/84/EC: changes at 01:00 UTC).
func TestClockChanges(t *testing.T) {
	night := func(from, to string) hours.Schedule {
		return hours.Schedule{Zone: copenhagen, Weekly: []hours.Period{period(t, time.Sunday, from, to)}}
	}
	utc := func(text string) time.Time { return at(t, "UTC", text) }
	spring, autumn := utc("2026-03-28 12:00"), utc("2026-10-24 12:00")
	day := 24 * time.Hour
	interval := func(from, to string) []hours.Interval { return []hours.Interval{{From: utc(from), To: utc(to)}} }
	same := func(want, got []hours.Interval) {
		t.Helper()
		require.Len(t, got, len(want))
		for i := range want {
			require.Equal(t, want[i].From, got[i].From.UTC())
			require.Equal(t, want[i].To, got[i].To.UTC())
		}
	}
	same(interval("2026-03-29 00:00", "2026-03-29 01:00"), night("01:00", "02:30").Between(spring, spring.Add(day)))
	same(interval("2026-03-29 01:00", "2026-03-29 02:00"), night("02:30", "04:00").Between(spring, spring.Add(day)))
	same(nil, night("02:15", "02:45").Between(spring, spring.Add(day)))
	same(interval("2026-10-25 00:00", "2026-10-25 01:30"), night("02:00", "02:30").Between(autumn, autumn.Add(day)))
	same(interval("2026-10-25 00:30", "2026-10-25 03:00"), night("02:30", "04:00").Between(autumn, autumn.Add(day)))
}

func TestWhatIsWrongIsSaidAtItsField(t *testing.T) {
	s := office(t, "Mars/Olympus")
	require.Equal(t, []hours.Wrong{{Field: "zone", Words: `"Mars/Olympus" is not a known time zone, like Europe/Copenhagen.`}}, s.Check())
	s = office(t, copenhagen)
	s.Weekly = append(s.Weekly, period(t, time.Monday, "09:00", "09:00"), s.Weekly[0])
	s.Exceptions = []hours.Exception{{Date: hours.Date{Year: 2026, Month: time.February, Day: 30}}}
	fields := []string{}
	for _, w := range s.Check() {
		fields = append(fields, w.Field)
	}
	require.Equal(t, []string{"weekly.10", "weekly.11", "exceptions.0"}, fields)
	for _, bad := range []string{"", "8", "25:00", "08:60", "-1:00", "24:01", "ab:cd"} {
		_, err := hours.ParseClock(bad)
		require.Error(t, err, bad)
	}
}

// Whatever the schedule, zone and moment: what At says holds until it says it
// changes, and Between tells the same.
func TestAtAgreesWithBetween(t *testing.T) {
	zones := []string{"UTC", copenhagen, "Australia/Lord_Howe", "America/Sao_Paulo", "Asia/Kathmandu", "Pacific/Apia"}
	rapid.Check(t, func(t *rapid.T) {
		s := hours.Schedule{Zone: rapid.SampledFrom(zones).Draw(t, "zone")}
		for range rapid.IntRange(1, 6).Draw(t, "periods") {
			from := rapid.IntRange(0, 95).Draw(t, "from") * 15
			to := rapid.IntRange(0, 96).Draw(t, "to") * 15
			if from == to {
				to = (from + 15) % 1440
			}
			s.Weekly = append(s.Weekly, hours.Period{Day: time.Weekday(rapid.IntRange(0, 6).Draw(t, "day")), Span: hours.Span{From: hours.Clock(from), To: hours.Clock(to)}})
		}
		now := time.Unix(rapid.Int64Range(1_300_000_000, 1_900_000_000).Draw(t, "now"), 0)
		for range rapid.IntRange(0, 4).Draw(t, "exceptions") {
			e := hours.Exception{Date: hours.DateOf(now.AddDate(-rapid.IntRange(0, 1).Draw(t, "years"), 0, rapid.IntRange(-2, 12).Draw(t, "days"))), Yearly: rapid.Bool().Draw(t, "yearly")}
			for range rapid.IntRange(0, 3).Draw(t, "spans") { // in any order
				from := rapid.IntRange(0, 95).Draw(t, "from") * 15
				e.Spans = append(e.Spans, hours.Span{From: hours.Clock(from), To: hours.Clock((from + rapid.IntRange(1, 90).Draw(t, "length")*15) % 1440)})
			}
			s.Exceptions = append(s.Exceptions, e)
		}
		status := s.At(now)
		inside := false
		for _, in := range s.Between(now.Add(-time.Minute), now.Add(time.Minute)) {
			inside = inside || !now.Before(in.From) && now.Before(in.To)
		}
		require.Equal(t, inside, status.Open)
		if !status.Until.IsZero() {
			require.True(t, status.Until.After(now))
			require.Equal(t, status.Open, s.Open(status.Until.Add(-time.Second)), "it changed before it said")
			require.NotEqual(t, status.Open, s.Open(status.Until), "it did not change when it said")
		}
	})
}

func date(t testing.TB, text string) hours.Date {
	d, err := hours.ParseDate(text)
	require.NoError(t, err)
	return d
}

func spans(t testing.TB, texts ...string) []hours.Span {
	var list []hours.Span
	for i := 0; i < len(texts); i += 2 {
		list = append(list, hours.Span{From: clock(t, texts[i]), To: clock(t, texts[i+1])})
	}
	return list
}

// However the spans of a day were written down, it is open when it is.
func TestSpansOutOfOrder(t *testing.T) {
	s := office(t, "Europe/Copenhagen")
	s.Exceptions = []hours.Exception{{Date: date(t, "2026-12-24"), Name: "Christmas Eve", Spans: spans(t, "13:00", "17:00", "09:00", "12:00")}}
	for local, open := range map[string]bool{"2026-12-24 10:00": true, "2026-12-24 12:30": false, "2026-12-24 14:00": true, "2026-12-24 17:30": false} {
		require.Equal(t, open, s.Open(at(t, s.Zone, local)), local)
	}
	require.Equal(t, at(t, s.Zone, "2026-12-24 12:00"), s.At(at(t, s.Zone, "2026-12-24 10:00")).Until.In(at(t, s.Zone, "2026-12-24 10:00").Location()))
}

// What is set for one very day counts before what comes every year, whichever
// was written down first.
func TestTheDatedExceptionBeatsTheYearlyOne(t *testing.T) {
	yearly := hours.Exception{Date: date(t, "2020-12-24"), Name: "Christmas Eve", Yearly: true}
	dated := hours.Exception{Date: date(t, "2026-12-24"), Name: "Late sailings", Spans: spans(t, "09:00", "12:00")}
	for _, order := range [][]hours.Exception{{yearly, dated}, {dated, yearly}} {
		s := office(t, "Europe/Copenhagen")
		s.Exceptions = order
		require.Empty(t, s.Check(), "both may stand there")
		status := s.At(at(t, s.Zone, "2026-12-24 10:00"))
		require.True(t, status.Open)
		require.Equal(t, "Late sailings", status.Holiday)
		require.False(t, s.Open(at(t, s.Zone, "2027-12-24 10:00")), "the year after, the yearly one holds")
	}
}

func TestWhatOverlapsIsRefused(t *testing.T) {
	words := func(change func(*hours.Schedule)) string {
		s := office(t, "Europe/Copenhagen")
		change(&s)
		all := ""
		for _, w := range s.Check() {
			all += w.Field + ": " + w.Words + "\n"
		}
		return all
	}
	require.Empty(t, words(func(*hours.Schedule) {}))
	require.Contains(t, words(func(s *hours.Schedule) {
		s.Exceptions = []hours.Exception{{Date: date(t, "2026-12-24"), Spans: spans(t, "09:00", "12:00", "11:00", "13:00")}}
	}), "exceptions.0: 11:00 to 13:00 overlaps 09:00 to 12:00.")
	require.Contains(t, words(func(s *hours.Schedule) {
		s.Weekly = append(s.Weekly, period(t, s.Weekly[0].Day, "08:30", "23:00"))
	}), "overlaps")
	require.Contains(t, words(func(s *hours.Schedule) {
		s.Exceptions = []hours.Exception{{Date: date(t, "2020-12-24"), Yearly: true}, {Date: date(t, "2021-12-24"), Yearly: true}}
	}), "exceptions.1: 2021-12-24 has an exception already.")
	require.Empty(t, words(func(s *hours.Schedule) {
		s.Exceptions = []hours.Exception{{Date: date(t, "2026-12-24"), Spans: spans(t, "09:00", "12:00", "12:00", "13:00", "20:00", "02:00")}}
	}), "what touches does not overlap")
}

// A week without a gap ends at the next holiday, however far away that is.
func TestAroundTheClockUntilTheHoliday(t *testing.T) {
	s := hours.Schedule{Zone: "Europe/Copenhagen"}
	for day := time.Sunday; day <= time.Saturday; day++ {
		s.Weekly = append(s.Weekly, period(t, day, "06:00", "18:00"), period(t, day, "18:00", "06:00"))
	}
	now := at(t, s.Zone, "2026-12-01 10:00")
	require.Equal(t, hours.Status{Open: true}, s.At(now), "never ends")
	for _, days := range []int{0, 1, 2, 3, 4, 8, 9, 10, 23, 200, 1000} {
		s.Exceptions = []hours.Exception{{Date: hours.DateOf(now.AddDate(0, 0, days)), Name: "closed"}}
		begin := time.Date(2026, 12, 1+days, 6, 0, 0, 0, now.Location()) // the night before still ends as it would
		if days == 0 {
			require.False(t, s.Open(now))
			continue
		}
		require.True(t, s.At(now).Until.Equal(begin), "%d days: %s", days, s.At(now).Until)
	}
	s.Exceptions = []hours.Exception{{Date: date(t, "2020-02-29"), Yearly: true}}
	require.True(t, s.At(now).Until.Equal(at(t, s.Zone, "2028-02-29 06:00")))
}
