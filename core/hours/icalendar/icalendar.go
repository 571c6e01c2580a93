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
	"fmt"
	"io"
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
