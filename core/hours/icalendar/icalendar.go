// Package icalendar reads and writes opening hours as iCalendar (RFC 5545), so
// that they can be kept in any calendar program. It is pure, but unlike the
// rest of core it leans on a library for the format.
//
// A weekly period is a VEVENT with RRULE:FREQ=WEEKLY; a day with other hours,
// or none, is a VEVENT with a RECURRENCE-ID-free date of its own and the
// category HOLIDAY or EXCEPTION. Foreign calendars are read leniently: timed
// weekly events are periods, all-day events are holidays.
package icalendar

import (
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"stoop/core/hours"
)

const (
	product   = "-//Stoop//Opening hours//EN"
	opening   = "OPEN"
	holiday   = "HOLIDAY"
	exception = "EXCEPTION"
	localTime = "20060102T150405"
	localDate = "20060102"
)

// anchor is the Monday from which weekly periods are written; any would do.
var anchor = time.Date(2026, time.January, 5, 0, 0, 0, 0, time.UTC)

var dayNames = [7]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// Write writes a schedule under a name.
func Write(w io.Writer, name string, s hours.Schedule, now time.Time) error {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, product)
	cal.Props.SetText("X-WR-CALNAME", name)
	cal.Props.SetText("X-WR-TIMEZONE", s.Zone)
	for i, p := range s.Weekly {
		day := anchor.AddDate(0, 0, (int(p.Day)+6)%7)
		e := event(fmt.Sprintf("week-%d", i), name+" open", opening, now)
		times(e, s.Zone, day, p.Span)
		e.Props.Set(&ical.Prop{Name: ical.PropRecurrenceRule, Value: "FREQ=WEEKLY;BYDAY=" + dayNames[p.Day], Params: ical.Params{}})
		cal.Children = append(cal.Children, e)
	}
	for i, x := range s.Exceptions {
		day := time.Date(x.Date.Year, x.Date.Month, x.Date.Day, 0, 0, 0, 0, time.UTC)
		title := x.Name
		if title == "" {
			title = "Other hours"
		}
		spans := x.Spans
		if len(spans) == 0 {
			e := event(fmt.Sprintf("day-%d", i), title, holiday, now)
			e.Props.Set(&ical.Prop{Name: ical.PropDateTimeStart, Value: day.Format(localDate), Params: ical.Params{"VALUE": {"DATE"}}})
			e.Props.Set(&ical.Prop{Name: ical.PropDateTimeEnd, Value: day.AddDate(0, 0, 1).Format(localDate), Params: ical.Params{"VALUE": {"DATE"}}})
			repeatYearly(e, x.Yearly)
			cal.Children = append(cal.Children, e)
		}
		for j, span := range spans {
			e := event(fmt.Sprintf("day-%d-%d", i, j), title, exception, now)
			times(e, s.Zone, day, span)
			repeatYearly(e, x.Yearly)
			cal.Children = append(cal.Children, e)
		}
	}
	if len(cal.Children) == 0 {
		return fmt.Errorf("these hours hold nothing to write")
	}
	return ical.NewEncoder(w).Encode(cal)
}

func event(id, title, category string, now time.Time) *ical.Component {
	e := ical.NewComponent(ical.CompEvent)
	e.Props.SetText(ical.PropUID, id+"@stoop")
	e.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
	e.Props.SetText(ical.PropSummary, title)
	e.Props.SetText(ical.PropCategories, category)
	return e
}

func times(e *ical.Component, zone string, day time.Time, span hours.Span) {
	end := int(span.To)
	if span.To <= span.From {
		end += 24 * 60
	}
	set := func(name string, minutes int) {
		at := day.Add(time.Duration(minutes) * time.Minute)
		e.Props.Set(&ical.Prop{Name: name, Value: at.Format(localTime), Params: ical.Params{"TZID": {zone}}})
	}
	set(ical.PropDateTimeStart, int(span.From))
	set(ical.PropDateTimeEnd, end)
}

func repeatYearly(e *ical.Component, yearly bool) {
	if yearly {
		e.Props.Set(&ical.Prop{Name: ical.PropRecurrenceRule, Value: "FREQ=YEARLY", Params: ical.Params{}})
	}
}

// Read reads a schedule. What it cannot turn into opening hours it leaves out
// and says so, one sentence each.
func Read(r io.Reader, fallbackZone string) (hours.Schedule, []string, error) {
	var s hours.Schedule
	content, err := io.ReadAll(io.LimitReader(r, 1<<20))
	if err != nil {
		return s, nil, fmt.Errorf("the calendar could not be read: %w", err)
	}
	if !bytes.Contains(content, []byte("BEGIN:VCALENDAR")) {
		return s, nil, fmt.Errorf("this is not an iCalendar file: it does not begin with BEGIN:VCALENDAR")
	}
	cal, err := ical.NewDecoder(bytes.NewReader(content)).Decode()
	if err != nil {
		return s, nil, fmt.Errorf("the calendar could not be read: %w", err)
	}
	s.Zone = text(cal.Component, "X-WR-TIMEZONE")
	var left []string
	for _, child := range cal.Children {
		if child.Name != ical.CompEvent {
			continue
		}
		if why := add(&s, child); why != "" {
			left = append(left, fmt.Sprintf("“%s” was left out: %s", text(child, ical.PropSummary), why))
		}
	}
	if s.Zone == "" {
		s.Zone = fallbackZone
	}
	sortSchedule(&s)
	return s, left, nil
}

// add takes one event into the schedule, or says why not.
func add(s *hours.Schedule, e *ical.Component) string {
	start := e.Props.Get(ical.PropDateTimeStart)
	if start == nil {
		return "it has no start."
	}
	rule := ""
	if p := e.Props.Get(ical.PropRecurrenceRule); p != nil {
		rule = strings.ToUpper(p.Value)
	}
	title := text(e, ical.PropSummary)
	if start.Params.Get("VALUE") == "DATE" || len(start.Value) == len(localDate) {
		return addDays(s, e, start, rule, title)
	}
	from, zone, err := wall(start)
	if err != nil {
		return "its start is not a date and time."
	}
	if zone != "" && s.Zone == "" {
		s.Zone = zone
	}
	if zone != "" && zone != s.Zone {
		return fmt.Sprintf("it is in %s, the others are in %s.", zone, s.Zone)
	}
	to, err := endOf(e, from)
	if err != nil {
		return "its end could not be read."
	}
	length := to.Sub(from)
	if length <= 0 || length > 24*time.Hour {
		return "it does not last between a minute and a day."
	}
	span := hours.Span{From: hours.Clock(from.Hour()*60 + from.Minute()), To: hours.Clock(to.Hour()*60 + to.Minute())}
	if span.To == 0 {
		span.To = 24 * 60
	}
	frequency, parts := parse(rule)
	switch frequency {
	case "WEEKLY":
		if why := unsupported(parts, "BYDAY", "WKST", "INTERVAL"); why != "" || (parts["INTERVAL"] != "" && parts["INTERVAL"] != "1") {
			return "it does not repeat every week without end."
		}
		for _, day := range weekdays(parts["BYDAY"], from.Weekday()) {
			s.Weekly = append(s.Weekly, hours.Period{Day: day, Span: span})
		}
		return ""
	case "DAILY":
		if len(parts) > 1 || len(parts) == 1 && parts["INTERVAL"] != "1" {
			return "it does not repeat every day without end."
		}
		for day := time.Sunday; day <= time.Saturday; day++ {
			s.Weekly = append(s.Weekly, hours.Period{Day: day, Span: span})
		}
		return ""
	case "", "YEARLY":
		if frequency == "YEARLY" && len(parts) > 0 {
			return "only plain yearly repetition can be read."
		}
		addException(s, hours.Exception{Date: hours.DateOf(from), Name: title, Yearly: frequency == "YEARLY", Spans: []hours.Span{span}})
		return ""
	}
	return "its repetition cannot be turned into weekly hours."
}

func addDays(s *hours.Schedule, e *ical.Component, start *ical.Prop, rule, title string) string {
	from, err := time.Parse(localDate, start.Value)
	if err != nil {
		return "its day could not be read."
	}
	to := from.AddDate(0, 0, 1)
	if end := e.Props.Get(ical.PropDateTimeEnd); end != nil {
		if parsed, err := time.Parse(localDate, end.Value); err == nil && parsed.After(from) {
			to = parsed
		}
	}
	frequency, parts := parse(rule)
	if frequency != "" && (frequency != "YEARLY" || len(parts) > 0) {
		return "an all-day event can be read once or every year only."
	}
	if to.Sub(from) > 366*24*time.Hour {
		return "it lasts longer than a year."
	}
	for day := from; day.Before(to); day = day.AddDate(0, 0, 1) {
		addException(s, hours.Exception{Date: hours.DateOf(day), Name: title, Yearly: frequency == "YEARLY"})
	}
	return ""
}

// addException joins spans of the same day; a day off and a day with hours are
// kept as the hours.
func addException(s *hours.Schedule, x hours.Exception) {
	for i := range s.Exceptions {
		if s.Exceptions[i].Date == x.Date {
			s.Exceptions[i].Spans = append(s.Exceptions[i].Spans, x.Spans...)
			return
		}
	}
	s.Exceptions = append(s.Exceptions, x)
}

func wall(p *ical.Prop) (time.Time, string, error) {
	if strings.HasSuffix(p.Value, "Z") {
		t, err := time.Parse(localTime+"Z", p.Value)
		return t, "UTC", err
	}
	t, err := time.Parse(localTime, p.Value)
	return t, p.Params.Get("TZID"), err
}

func endOf(e *ical.Component, from time.Time) (time.Time, error) {
	if end := e.Props.Get(ical.PropDateTimeEnd); end != nil {
		to, _, err := wall(end)
		return to, err
	}
	if length := e.Props.Get(ical.PropDuration); length != nil {
		d, err := length.Duration()
		return from.Add(d), err
	}
	return from, fmt.Errorf("no end")
}

func parse(rule string) (frequency string, parts map[string]string) {
	parts = map[string]string{}
	for _, part := range strings.Split(rule, ";") {
		name, value, _ := strings.Cut(part, "=")
		switch {
		case name == "FREQ":
			frequency = value
		case name != "":
			parts[name] = value
		}
	}
	return frequency, parts
}

func unsupported(parts map[string]string, known ...string) string {
	for name := range parts {
		if !slices.Contains(known, name) {
			return name
		}
	}
	return ""
}

func weekdays(byDay string, fallback time.Weekday) []time.Weekday {
	var days []time.Weekday
	for _, name := range strings.Split(byDay, ",") {
		if i := slices.Index(dayNames[:], name); i >= 0 {
			days = append(days, time.Weekday(i))
		}
	}
	if len(days) == 0 {
		return []time.Weekday{fallback}
	}
	return days
}

func text(c *ical.Component, name string) string {
	value, err := c.Props.Text(name)
	if err != nil {
		return ""
	}
	return value
}

func sortSchedule(s *hours.Schedule) {
	slices.SortFunc(s.Weekly, func(a, b hours.Period) int {
		if a.Day != b.Day {
			return (int(a.Day)+6)%7 - (int(b.Day)+6)%7
		}
		return int(a.From) - int(b.From)
	})
	slices.SortFunc(s.Exceptions, func(a, b hours.Exception) int { return strings.Compare(a.Date.String(), b.Date.String()) })
}
