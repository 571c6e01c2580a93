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

func events(lines ...string) string {
	return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//example//EN\r\nX-WR-TIMEZONE:Europe/Copenhagen\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VCALENDAR\r\n"
}

func event(lines ...string) string {
	return "BEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Desk\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VEVENT"
}

const (
	mondayStart = "DTSTART;TZID=Europe/Copenhagen:20260105T080000"
	mondayEnd   = "DTEND;TZID=Europe/Copenhagen:20260105T170000"
	everyWeek   = "RRULE:FREQ=WEEKLY;BYDAY=MO,TU"
)

// What RFC 5545 says of single occurrences, lengths and zones (sections 3.8.1.11,
// 3.8.2.2, 3.8.2.5, 3.8.4.4, 3.8.5.1) is read as it stands there.
func TestSingleOccurrencesLengthsAndZones(t *testing.T) {
	day := func(month time.Month, day int) hours.Date { return hours.Date{Year: 2026, Month: month, Day: day} }
	span := func(from, to int) hours.Span { return hours.Span{From: hours.Clock(from), To: hours.Clock(to)} }
	for name, c := range map[string]struct {
		file string
		want []hours.Exception
		left string
	}{
		"a cancelled occurrence": {events(event(mondayStart, mondayEnd, everyWeek, "EXDATE;TZID=Europe/Copenhagen:20260525T080000,20260526T080000")),
			[]hours.Exception{{Date: day(time.May, 25), Name: "Desk", Spans: []hours.Span{}}, {Date: day(time.May, 26), Name: "Desk", Spans: []hours.Span{}}}, ""},
		"a cancelled occurrence, told in UTC": {events(event(mondayStart, mondayEnd, everyWeek, "EXDATE:20260525T060000Z")),
			[]hours.Exception{{Date: day(time.May, 25), Name: "Desk", Spans: []hours.Span{}}}, ""},
		"one of two periods of a day is cancelled": {events(event(mondayStart, "DURATION:PT4H", everyWeek, "EXDATE;TZID=Europe/Copenhagen:20260525T080000"),
			event("DTSTART;TZID=Europe/Copenhagen:20260105T130000", "DURATION:PT4H", everyWeek)),
			[]hours.Exception{{Date: day(time.May, 25), Name: "Desk", Spans: []hours.Span{span(780, 1020)}}}, ""},
		"one occurrence at another time": {events(event(mondayStart, mondayEnd, everyWeek),
			event("RECURRENCE-ID;TZID=Europe/Copenhagen:20260525T080000", "DTSTART;TZID=Europe/Copenhagen:20260525T100000", "DURATION:PT2H")),
			[]hours.Exception{{Date: day(time.May, 25), Name: "Desk", Spans: []hours.Span{span(600, 720)}}}, ""},
		"one occurrence cancelled by its status": {events(event(mondayStart, mondayEnd, everyWeek),
			event("RECURRENCE-ID;TZID=Europe/Copenhagen:20260525T080000", "DTSTART;TZID=Europe/Copenhagen:20260525T080000", mondayEnd2, "STATUS:CANCELLED")),
			[]hours.Exception{{Date: day(time.May, 25), Name: "Desk", Spans: []hours.Span{}}}, ""},
		"an event that is cancelled": {events(event(mondayStart, mondayEnd, everyWeek), event("DTSTART;VALUE=DATE:20260601", "STATUS:CANCELLED")),
			nil, "it is cancelled"},
		"all day, with a length": {events(event(mondayStart, mondayEnd, everyWeek), event("DTSTART;VALUE=DATE:20260601", "DURATION:P3D")),
			[]hours.Exception{{Date: day(time.June, 1), Name: "Desk"}, {Date: day(time.June, 2), Name: "Desk"}, {Date: day(time.June, 3), Name: "Desk"}}, ""},
		"an end in another zone": {events(event(mondayStart, mondayEnd, everyWeek), event("DTSTART;TZID=Europe/Copenhagen:20260601T080000", "DTEND;TZID=Europe/London:20260601T110000")),
			[]hours.Exception{{Date: day(time.June, 1), Name: "Desk", Spans: []hours.Span{span(480, 720)}}}, ""},
		"an end in UTC": {events(event(mondayStart, mondayEnd, everyWeek), event("DTSTART;TZID=Europe/Copenhagen:20260601T080000", "DTEND:20260601T100000Z")),
			[]hours.Exception{{Date: day(time.June, 1), Name: "Desk", Spans: []hours.Span{span(480, 720)}}}, ""},
		"an end in a zone that is not":   {events(event(mondayStart, "DTEND;TZID=Mars/Olympus:20260105T170000", everyWeek)), nil, "Mars/Olympus"},
		"more dates than the rule gives": {events(event(mondayStart, mondayEnd, everyWeek, "RDATE;TZID=Europe/Copenhagen:20260606T080000")), nil, "Extra dates"},
		"once beside every year": {events(event("DTSTART;VALUE=DATE:20261224", "RRULE:FREQ=YEARLY"), event("DTSTART;TZID=Europe/Copenhagen:20261224T090000", "DURATION:PT3H")),
			[]hours.Exception{{Date: day(time.December, 24), Name: "Desk", Yearly: true}, {Date: day(time.December, 24), Name: "Desk", Spans: []hours.Span{span(540, 720)}}}, ""},
		"what overlaps becomes one": {events(event("DTSTART;TZID=Europe/Copenhagen:20261224T130000", "DURATION:PT4H"), event("DTSTART;TZID=Europe/Copenhagen:20261224T090000", "DURATION:PT5H")),
			[]hours.Exception{{Date: day(time.December, 24), Name: "Desk", Spans: []hours.Span{span(540, 1020)}}}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			s, left, err := icalendar.Read(strings.NewReader(c.file), "UTC")
			require.NoError(t, err)
			require.Len(t, s.Exceptions, len(c.want))
			for i := range c.want {
				require.Equal(t, c.want[i].Date, s.Exceptions[i].Date)
				require.Equal(t, c.want[i].Yearly, s.Exceptions[i].Yearly)
				require.Equal(t, len(c.want[i].Spans), len(s.Exceptions[i].Spans))
				for j := range c.want[i].Spans {
					require.Equal(t, c.want[i].Spans[j], s.Exceptions[i].Spans[j])
				}
			}
			if c.left == "" {
				require.Empty(t, left)
			} else {
				require.Contains(t, strings.Join(left, " "), c.left)
			}
			for _, w := range s.Check() {
				require.NotContains(t, w.Words, "overlaps")
			}
		})
	}
}

const mondayEnd2 = "DTEND;TZID=Europe/Copenhagen:20260525T170000"

// Wherever a file was cut, it is read or refused with words that name the line.
func TestAFileThatWasCut(t *testing.T) {
	var whole bytes.Buffer
	require.NoError(t, icalendar.Write(&whole, "Ferry desk", week("Europe/Copenhagen"), time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)))
	for cut := range whole.Len() {
		_, _, err := icalendar.Read(bytes.NewReader(whole.Bytes()[:cut]), "UTC")
		if err != nil && cut > len("BEGIN:VCALENDAR") {
			require.Regexp(t, `line \d+`, err.Error(), "cut at %d", cut)
		}
	}
	_, _, err := icalendar.Read(strings.NewReader("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nDTSTART;TZID=Europe/Cop"), "UTC")
	require.ErrorContains(t, err, "line 4 is broken or cut off: “DTSTART;TZID=Europe/Cop”")
}

func FuzzRead(f *testing.F) {
	var whole bytes.Buffer
	if err := icalendar.Write(&whole, "Ferry desk", week("Europe/Copenhagen"), time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)); err != nil {
		f.Fatal(err)
	}
	f.Add(whole.String())
	f.Add(strings.ReplaceAll(foreign, "\n", "\r\n"))
	f.Add(events(event(mondayStart, mondayEnd, everyWeek, "EXDATE;TZID=Europe/Copenhagen:20260525T080000,2026")))
	f.Add(events(event(mondayStart, "DURATION:PT", everyWeek)))
	f.Fuzz(func(t *testing.T, file string) {
		s, _, err := icalendar.Read(strings.NewReader(file), "UTC")
		if err != nil {
			return
		}
		for _, e := range s.Exceptions {
			for i := 1; i < len(e.Spans); i++ {
				require.LessOrEqual(t, e.Spans[i-1].From, e.Spans[i].From)
			}
		}
		s.At(time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC))
	})
}
