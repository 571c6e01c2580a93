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

// largest is how much of a calendar is read, in bytes.
const largest = 1 << 20

// Read reads a schedule. What it cannot turn into opening hours it leaves out
// and says so, one sentence each.
func Read(r io.Reader, fallbackZone string) (hours.Schedule, []string, error) {
	var s hours.Schedule
	content, err := io.ReadAll(io.LimitReader(r, largest))
	if err != nil {
		return s, nil, fmt.Errorf("the calendar could not be read: %w", err)
	}
	if !bytes.Contains(content, []byte("BEGIN:VCALENDAR")) {
		return s, nil, fmt.Errorf("this is not an iCalendar file: it does not begin with BEGIN:VCALENDAR")
	}
	content = append(bytes.TrimRight(content, "\r\n \t"), "\r\n"...)
	cal, err := decode(content)
	if err != nil {
		return s, nil, whereBroken(content, err)
	}
	in := reading{Schedule: hours.Schedule{Zone: text(cal.Component, "X-WR-TIMEZONE")}}
	for _, child := range cal.Children {
		if child.Name != ical.CompEvent {
			continue
		}
		if why := in.add(child); why != "" {
			in.left = append(in.left, fmt.Sprintf("“%s” was left out: %s", text(child, ical.PropSummary), why))
		}
	}
	in.cancel()
	if in.Zone == "" {
		in.Zone = fallbackZone
	}
	in.tidy()
	return in.Schedule, in.left, nil
}

// decode reads a calendar. The library panics on some files that are cut; that
// is an error like any other.
func decode(content []byte) (cal *ical.Calendar, err error) {
	defer func() {
		if v := recover(); v != nil {
			cal, err = nil, fmt.Errorf("%v", v)
		}
	}()
	return ical.NewDecoder(bytes.NewReader(content)).Decode()
}

// whereBroken names the line that cannot be read, each being tried by itself.
func whereBroken(content []byte, err error) error {
	lines := strings.Split(strings.ReplaceAll(string(content), "\r\n", "\n"), "\n")
	for i := 0; i < len(lines); i++ {
		first, line := i+1, lines[i]
		for i+1 < len(lines) && (strings.HasPrefix(lines[i+1], " ") || strings.HasPrefix(lines[i+1], "\t")) {
			i++ // a folded line goes on (RFC 5545, 3.1)
			line += lines[i][1:]
		}
		name := strings.ToUpper(line)
		if strings.TrimSpace(line) == "" || strings.HasPrefix(name, "BEGIN:") || strings.HasPrefix(name, "END:") {
			continue
		}
		if _, lineErr := decode([]byte("BEGIN:VCALENDAR\r\n" + line + "\r\nEND:VCALENDAR\r\n")); lineErr != nil {
			return fmt.Errorf("the calendar could not be read: line %d is broken or cut off: “%.60s”", first, strings.ToValidUTF8(line, "�"))
		}
	}
	if !bytes.Contains(content, []byte("END:VCALENDAR")) {
		return fmt.Errorf("the calendar could not be read: it ends in line %d, before END:VCALENDAR. Export it again", len(lines))
	}
	return fmt.Errorf("the calendar could not be read: its BEGIN and END lines do not match (%w)", err)
}

// reading is a schedule while it is read.
type reading struct {
	hours.Schedule
	left      []string
	cancelled []occurrence // single days on which something does not happen
	moved     []occurrence // single days on which something happens at another time
}

// occurrence is an opening on one day; without a span, the whole day's.
type occurrence struct {
	date hours.Date
	span *hours.Span
	name string
}

// add takes one event into the schedule, or says why not.
func (s *reading) add(e *ical.Component) string {
	start := e.Props.Get(ical.PropDateTimeStart)
	if start == nil {
		return "it has no start."
	}
	rule := ""
	if p := e.Props.Get(ical.PropRecurrenceRule); p != nil {
		rule = strings.ToUpper(p.Value)
	}
	title := text(e, ical.PropSummary)
	single := e.Props.Get(ical.PropRecurrenceID)
	cancelled := strings.EqualFold(text(e, ical.PropStatus), "CANCELLED")
	if cancelled && single == nil {
		return "it is cancelled."
	}
	if len(e.Props.Values(ical.PropRecurrenceDates)) > 0 {
		s.left = append(s.left, fmt.Sprintf("Extra dates of “%s” were left out: add them as exceptions.", title))
	}
	if start.Params.Get("VALUE") == "DATE" || len(start.Value) == len(localDate) {
		return s.addDays(e, start, rule, title)
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
	to, why := endOf(e, from, zone)
	if why != "" {
		return why
	}
	length := to.Sub(from)
	if length <= 0 || length > 24*time.Hour {
		return "it does not last between a minute and a day."
	}
	span := hours.Span{From: hours.Clock(from.Hour()*60 + from.Minute()), To: hours.Clock(to.Hour()*60 + to.Minute())}
	if span.To == 0 {
		span.To = 24 * 60
	}
	if single != nil {
		return s.addSingle(single, zone, from, span, cancelled, title)
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
	case "DAILY":
		if len(parts) > 1 || len(parts) == 1 && parts["INTERVAL"] != "1" {
			return "it does not repeat every day without end."
		}
		for day := time.Sunday; day <= time.Saturday; day++ {
			s.Weekly = append(s.Weekly, hours.Period{Day: day, Span: span})
		}
	case "", "YEARLY":
		if frequency == "YEARLY" && len(parts) > 0 {
			return "only plain yearly repetition can be read."
		}
		s.addException(hours.Exception{Date: hours.DateOf(from), Name: title, Yearly: frequency == "YEARLY", Spans: []hours.Span{span}})
	default:
		return "its repetition cannot be turned into weekly hours."
	}
	s.except(e, zone, &span, title)
	return ""
}

// except notes the days on which a repeated event does not happen (EXDATE).
func (s *reading) except(e *ical.Component, zone string, span *hours.Span, title string) {
	for _, p := range e.Props.Values(ical.PropExceptionDates) {
		for _, value := range strings.Split(p.Value, ",") {
			one := ical.Prop{Value: strings.TrimSpace(value), Params: p.Params}
			day, err := dayOf(&one, zone)
			if err != nil {
				s.left = append(s.left, fmt.Sprintf("A cancelled date of “%s” could not be read: %s.", title, one.Value))
				continue
			}
			s.cancelled = append(s.cancelled, occurrence{day, span, title})
		}
	}
}

// addSingle takes in one occurrence of a repeated event that is cancelled or
// has another time (RECURRENCE-ID).
func (s *reading) addSingle(instead *ical.Prop, zone string, from time.Time, span hours.Span, cancelled bool, title string) string {
	before, err := dayOf(instead, zone)
	if err != nil {
		return "the occurrence that it changes could not be read."
	}
	at, _, err := wallIn(instead, zone)
	if err != nil {
		return "the occurrence that it changes could not be read."
	}
	begins := hours.Span{From: hours.Clock(at.Hour()*60 + at.Minute())}
	s.cancelled = append(s.cancelled, occurrence{before, &begins, title})
	if !cancelled {
		s.moved = append(s.moved, occurrence{hours.DateOf(from), &span, title})
	}
	return ""
}

func (s *reading) addDays(e *ical.Component, start *ical.Prop, rule, title string) string {
	from, err := time.Parse(localDate, start.Value)
	if err != nil {
		return "its day could not be read."
	}
	to := from.AddDate(0, 0, 1)
	if end := e.Props.Get(ical.PropDateTimeEnd); end != nil {
		if parsed, err := time.Parse(localDate, end.Value); err == nil && parsed.After(from) {
			to = parsed
		}
	} else if length := e.Props.Get(ical.PropDuration); length != nil {
		lasts, err := duration(length)
		if err != nil || lasts <= 0 || lasts%(24*time.Hour) != 0 {
			return "it does not last whole days."
		}
		to = from.Add(lasts)
	}
	if single := e.Props.Get(ical.PropRecurrenceID); single != nil {
		return "single days of a repeated all-day event cannot be read; add them as exceptions."
	}
	frequency, parts := parse(rule)
	if frequency != "" && (frequency != "YEARLY" || len(parts) > 0) {
		return "an all-day event can be read once or every year only."
	}
	if to.Sub(from) > 366*24*time.Hour {
		return "it lasts longer than a year."
	}
	for day := from; day.Before(to); day = day.AddDate(0, 0, 1) {
		s.addException(hours.Exception{Date: hours.DateOf(day), Name: title, Yearly: frequency == "YEARLY"})
	}
	s.except(e, "", nil, title)
	return ""
}

// addException joins spans of the same day; a day off and a day with hours are
// kept as the hours. What comes every year stays apart from what comes once.
func (s *reading) addException(x hours.Exception) {
	for i := range s.Exceptions {
		if s.Exceptions[i].Date == x.Date && s.Exceptions[i].Yearly == x.Yearly {
			s.Exceptions[i].Spans = append(s.Exceptions[i].Spans, x.Spans...)
			return
		}
	}
	s.Exceptions = append(s.Exceptions, x)
}

// cancel turns what does not happen, or at another time, on single days into
// exceptions: such a day opens as it does otherwise, but for that.
func (s *reading) cancel() {
	for _, c := range s.cancelled {
		day := s.single(c)
		if c.span == nil { // the day off is cancelled: the week holds
			continue
		}
		day.Spans = slices.DeleteFunc(day.Spans, func(span hours.Span) bool { return span.From == c.span.From })
	}
	for _, m := range s.moved {
		day := s.single(m)
		day.Spans = append(day.Spans, *m.span)
	}
}

// single returns the exception of one very day; a new one opens as the day does
// without it.
func (s *reading) single(o occurrence) *hours.Exception {
	for i := range s.Exceptions {
		if s.Exceptions[i].Date == o.date && !s.Exceptions[i].Yearly {
			return &s.Exceptions[i]
		}
	}
	x := hours.Exception{Date: o.date, Name: o.name}
	for _, y := range s.Exceptions {
		if o.span != nil && y.Yearly && y.Date.Month == o.date.Month && y.Date.Day == o.date.Day && y.Date.Year <= o.date.Year {
			x.Spans = append(x.Spans, y.Spans...)
			s.Exceptions = append(s.Exceptions, x)
			return &s.Exceptions[len(s.Exceptions)-1]
		}
	}
	weekday := time.Date(o.date.Year, o.date.Month, o.date.Day, 12, 0, 0, 0, time.UTC).Weekday()
	for _, p := range s.Weekly {
		if p.Day == weekday {
			x.Spans = append(x.Spans, p.Span)
		}
	}
	s.Exceptions = append(s.Exceptions, x)
	return &s.Exceptions[len(s.Exceptions)-1]
}

// wall returns the wall-clock time of a property and the name of its zone.
func wall(p *ical.Prop) (time.Time, string, error) {
	if strings.HasSuffix(p.Value, "Z") {
		t, err := time.Parse(localTime+"Z", p.Value)
		return t, "UTC", err
	}
	t, err := time.Parse(localTime, p.Value)
	return t, p.Params.Get("TZID"), err
}

// wallIn returns a property's time as the clocks of a zone show it then.
func wallIn(p *ical.Prop, zone string) (at time.Time, known bool, err error) {
	at, own, err := wall(p)
	if err != nil || own == zone || own == "" || zone == "" {
		return at, true, err
	}
	from, err := time.LoadLocation(own)
	if err != nil {
		return at, false, err
	}
	to, err := time.LoadLocation(zone)
	if err != nil {
		return at, false, err
	}
	moment := time.Date(at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), at.Second(), 0, from).In(to)
	_, offset := moment.Zone()
	return moment.UTC().Add(time.Duration(offset) * time.Second), true, nil
}

// dayOf returns the day of a property in a zone.
func dayOf(p *ical.Prop, zone string) (hours.Date, error) {
	if p.Params.Get("VALUE") == "DATE" || len(p.Value) == len(localDate) {
		t, err := time.Parse(localDate, p.Value)
		return hours.DateOf(t), err
	}
	t, _, err := wallIn(p, zone)
	return hours.DateOf(t), err
}

func endOf(e *ical.Component, from time.Time, zone string) (to time.Time, why string) {
	if end := e.Props.Get(ical.PropDateTimeEnd); end != nil {
		to, known, err := wallIn(end, zone)
		if err != nil && !known {
			return to, fmt.Sprintf("it ends in a zone that is not known, %s.", end.Params.Get("TZID"))
		}
		if err != nil {
			return to, "its end could not be read."
		}
		return to, ""
	}
	if length := e.Props.Get(ical.PropDuration); length != nil {
		lasts, err := duration(length)
		if err != nil {
			return from, "its length could not be read."
		}
		return from.Add(lasts), ""
	}
	return from, "it has no end."
}

// duration reads a length; the library may panic on one that is cut.
func duration(p *ical.Prop) (d time.Duration, err error) {
	defer func() {
		if v := recover(); v != nil {
			err = fmt.Errorf("%v", v)
		}
	}()
	return p.Duration()
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

// tidy puts a schedule into its order, with what overlaps made one.
func (s *reading) tidy() {
	var weekly []hours.Period
	for i := range 7 {
		day := time.Weekday((i + 1) % 7)
		var spans []hours.Span
		for _, p := range s.Weekly {
			if p.Day == day {
				spans = append(spans, p.Span)
			}
		}
		for _, span := range hours.Join(spans) {
			weekly = append(weekly, hours.Period{Day: day, Span: span})
		}
	}
	s.Weekly = weekly
	for i := range s.Exceptions {
		s.Exceptions[i].Spans = hours.Join(s.Exceptions[i].Spans)
	}
	slices.SortStableFunc(s.Exceptions, func(a, b hours.Exception) int { return strings.Compare(a.Date.String(), b.Date.String()) })
}
