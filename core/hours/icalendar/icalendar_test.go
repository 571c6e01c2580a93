package icalendar_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
	"github.com/stretchr/testify/require"

	"stoop/core/hours"
	"stoop/core/hours/icalendar"
)

func week(zone string) hours.Schedule {
	s := hours.Schedule{Zone: zone, Exceptions: []hours.Exception{
		{Date: hours.Date{Year: 2026, Month: time.December, Day: 24}, Name: "Christmas Eve", Yearly: true, Spans: []hours.Span{{From: 7 * 60, To: 13 * 60}}},
		{Date: hours.Date{Year: 2026, Month: time.December, Day: 25}, Name: "Christmas Day", Yearly: true},
		{Date: hours.Date{Year: 2027, Month: time.January, Day: 4}, Name: "Stocktaking; all day"},
	}}
	for _, day := range []time.Weekday{1, 2, 3, 4, 5} {
		s.Weekly = append(s.Weekly, hours.Period{Day: day, Span: hours.Span{From: 6 * 60, To: 12 * 60}}, hours.Period{Day: day, Span: hours.Span{From: 13 * 60, To: 18 * 60}})
	}
	s.Weekly = append(s.Weekly, hours.Period{Day: time.Saturday, Span: hours.Span{From: 22 * 60, To: 4 * 60}}, hours.Period{Day: time.Sunday, Span: hours.Span{From: 18 * 60, To: 24 * 60}})
	return s
}

func TestWhatIsWrittenIsReadBack(t *testing.T) {
	var file bytes.Buffer
	s := week("Europe/Copenhagen")
	require.NoError(t, icalendar.Write(&file, "Ferry desk", s, time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)))
	back, left, err := icalendar.Read(&file, "UTC")
	require.NoError(t, err)
	require.Empty(t, left)
	require.Equal(t, s, back)
}

// The RFC 5545 recurrence library (rrule-go, through go-ical) expands what we
// write; over three years each period must begin and last exactly as our own
// reckoning says, in zones with odd changes.
func TestAgainstARecurrenceLibrary(t *testing.T) {
	compared := 0
	for _, zone := range []string{"Europe/Copenhagen", "Australia/Lord_Howe", "America/Sao_Paulo", "Pacific/Auckland", "Asia/Kolkata"} {
		s := week(zone)
		s.Exceptions = nil
		var file bytes.Buffer
		require.NoError(t, icalendar.Write(&file, "Hours", s, time.Now()))
		cal, err := ical.NewDecoder(&file).Decode()
		require.NoError(t, err)
		location, err := time.LoadLocation(zone)
		require.NoError(t, err)
		from, to := time.Date(2026, 2, 1, 0, 0, 0, 0, time.UTC), time.Date(2029, 2, 1, 0, 0, 0, 0, time.UTC)
		begins := map[time.Time]bool{}
		for _, e := range cal.Events() {
			set, err := e.RecurrenceSet(location)
			require.NoError(t, err)
			for _, occurrence := range set.Between(from, to.Add(-time.Second), true) {
				begins[occurrence.UTC()] = true
			}
		}
		ours := s.Between(from, to)
		for _, in := range ours {
			// What already runs at the edge of the years has no beginning there.
			if in.From.After(from) {
				require.True(t, begins[in.From.UTC()], "%s: we open at %s, the library does not", zone, in.From)
				delete(begins, in.From.UTC())
				compared++
			}
		}
		require.Empty(t, begins, "%s: the library opens where we do not", zone)
	}
	t.Logf("counted: hours against an RFC 5545 library: %d openings compared in 5 zones over 3 years", compared)
	require.Greater(t, compared, 8000)
}

// As a calendar program writes it: folded lines, a VTIMEZONE, foreign
// properties, RFC 5545's own way of listing days.
const foreign = `BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Somebody//EN
BEGIN:VTIMEZONE
TZID:Europe/Copenhagen
BEGIN:STANDARD
DTSTART:19701025T030000
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
END:STANDARD
END:VTIMEZONE
BEGIN:VEVENT
UID:1
DTSTAMP:20260101T000000Z
DTSTART;TZID=Europe/Copenhagen:20260105T080000
DURATION:PT9H
RRULE:FREQ=WEEKLY;WKST=MO;BYDAY=MO,WE,FR
SUMMARY:Office
 hours
END:VEVENT
BEGIN:VEVENT
UID:2
DTSTAMP:20260101T000000Z
DTSTART;VALUE=DATE:20261224
DTEND;VALUE=DATE:20261227
SUMMARY:Christmas
END:VEVENT
BEGIN:VEVENT
UID:3
DTSTAMP:20260101T000000Z
DTSTART;TZID=Europe/Copenhagen:20260105T080000
DTEND;TZID=Europe/Copenhagen:20260105T090000
RRULE:FREQ=MONTHLY;BYMONTHDAY=1
SUMMARY:Board meeting
END:VEVENT
BEGIN:VEVENT
UID:4
DTSTAMP:20260101T000000Z
DTSTART;TZID=America/New_York:20260105T080000
DTEND;TZID=America/New_York:20260105T090000
RRULE:FREQ=WEEKLY
SUMMARY:Call
END:VEVENT
END:VCALENDAR
`

func TestForeignCalendar(t *testing.T) {
	s, left, err := icalendar.Read(strings.NewReader(strings.ReplaceAll(foreign, "\n", "\r\n")), "UTC")
	require.NoError(t, err)
	require.Equal(t, "Europe/Copenhagen", s.Zone)
	require.Len(t, s.Weekly, 3)
	require.Equal(t, hours.Period{Day: time.Monday, Span: hours.Span{From: 8 * 60, To: 17 * 60}}, s.Weekly[0])
	require.Len(t, s.Exceptions, 3, "three days of Christmas")
	require.Len(t, left, 2)
	require.Contains(t, left[0], "Board meeting")
	require.Contains(t, left[1], "America/New_York")
}

func TestWhatIsNoCalendarIsRefused(t *testing.T) {
	for _, bad := range []string{"", "hello", "<html></html>", "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n"} {
		_, _, err := icalendar.Read(strings.NewReader(bad), "UTC")
		require.Error(t, err, bad)
	}
}
