package facts

import (
	"time"

	"stoop/internal/problem"
)

// Asked is a Filter as it stands in an address: part of what reports and transcripts
// are asked by.
type Asked struct {
	From        string   `query:"from" maxLength:"10" doc:"The first day, as 2026-11-28"`
	To          string   `query:"to" maxLength:"10" doc:"The last day"`
	Zone        string   `query:"zone" maxLength:"60" doc:"Time zone in which days and hours are; empty: the team's"`
	Weekday     int      `query:"weekday" minimum:"0" maximum:"7" doc:"1 is Monday; 0: all"`
	Hour        int      `query:"hour" minimum:"-1" maximum:"23" default:"-1" doc:"-1: all"`
	Departments []string `query:"department,explode" maxItems:"100" format:"uuid"`
	Operators   []string `query:"operator,explode" maxItems:"100" format:"uuid" doc:"Any of whom held the chat"`
	Widgets     []string `query:"widget,explode" maxItems:"100" format:"uuid"`
	Tags        []string `query:"tag,explode" maxItems:"50" maxLength:"100" doc:"Any of these; -: none"`
	Outcomes    []string `query:"outcome,explode" maxItems:"50" maxLength:"100" doc:"Any of these; -: none"`
	Ending      string   `query:"ending" enum:"answered,missed,message,helped,"`
	Missed      string   `query:"missed" enum:"left,ended,never-answered,banned,helper,"`
	Helper      string   `query:"helper" enum:"any,alone,first,beside,-," doc:"What the helper did in the chat; -: nothing"`
	Ratings     []int    `query:"rating,explode" maxItems:"5" minimum:"1" maximum:"5"`
	Rated       string   `query:"rated" enum:"yes,no,"`
	HandedOn    string   `query:"handedOn" enum:"yes,no,"`
	Countries   []string `query:"country,explode" maxItems:"50" maxLength:"2" doc:"ISO 3166-1; -: unknown"`
	Rules       []string `query:"rule,explode" maxItems:"50" maxLength:"200" doc:"Routing rules by name; -: none"`
	Pages       []string `query:"page,explode" maxItems:"50" maxLength:"300" doc:"Paths; -: unknown"`
	Sources     []string `query:"source,explode" maxItems:"10" maxLength:"20"`
	Invited     string   `query:"invited" maxLength:"60" doc:"any, hand, the id of an invitation rule, or - for none"`
	Sold        string   `query:"sold" enum:"yes,no,"`
	InTarget    string   `query:"inTarget" enum:"yes,no,"`
	WaitFrom    int      `query:"waitFrom" minimum:"0" doc:"Seconds"`
	WaitTo      int      `query:"waitTo" minimum:"0" doc:"Less than so many seconds; 0: no bound"`
	FirstFrom   int      `query:"firstFrom" minimum:"0" doc:"Seconds until the first reply"`
	FirstTo     int      `query:"firstTo" minimum:"0"`
	LinesFrom   int      `query:"linesFrom" minimum:"0" doc:"Messages of both sides together"`
	LinesTo     int      `query:"linesTo" minimum:"0"`
}

// daysMost bounds a period, in days.
const daysMost = 3660

// Filter returns what is meant. zone is the team's.
func (a Asked) Filter(zone *time.Location) (Filter, *time.Location, error) {
	if a.Zone != "" {
		chosen, err := time.LoadLocation(a.Zone)
		if err != nil || a.Zone == "Local" {
			return Filter{}, nil, problem.New(422, "no-such-zone", "This time zone is not known", "Write a zone like Europe/Copenhagen.")
		}
		zone = chosen
	}
	f := Filter{
		Zone: zone.String(), Departments: a.Departments, Operators: a.Operators, Widgets: a.Widgets, Tags: a.Tags, Outcomes: a.Outcomes, Ending: a.Ending, Missed: a.Missed, Helper: a.Helper,
		Ratings: a.Ratings, Rated: yesNo(a.Rated), HandedOn: yesNo(a.HandedOn), Countries: a.Countries, Rules: a.Rules, Pages: a.Pages, Sources: a.Sources, Invited: a.Invited,
		Sold: yesNo(a.Sold), InTarget: yesNo(a.InTarget), WaitFrom: bound(a.WaitFrom), WaitTo: bound(a.WaitTo), FirstFrom: bound(a.FirstFrom), FirstTo: bound(a.FirstTo),
		LinesFrom: bound(a.LinesFrom), LinesTo: bound(a.LinesTo), Weekday: bound(a.Weekday),
	}
	if a.Hour >= 0 {
		f.Hour = &a.Hour
	}
	var err error
	if f.From, f.To, err = Days(a.From, a.To, zone); err != nil {
		return f, zone, err
	}
	if !f.From.IsZero() && !f.To.IsZero() {
		switch {
		case !f.To.After(f.From):
			return f, zone, problem.New(422, "period-backwards", "The period ends before it begins", "Choose a last day that is not before the first one.")
		case f.To.Sub(f.From) > daysMost*24*time.Hour:
			return f, zone, problem.New(422, "period-too-long", "The period is too long", "Choose ten years at most.")
		}
	}
	return f, zone, nil
}

func yesNo(text string) *bool {
	if text == "" {
		return nil
	}
	yes := text == "yes"
	return &yes
}

func bound(n int) *int {
	if n == 0 {
		return nil
	}
	return &n
}

// Days returns the bounds of a period of days, both of which are part of it, as the
// zone counts them: on the nights on which clocks change a day has 23 or 25 hours. An
// empty day is no bound.
func Days(from, to string, zone *time.Location) (start, end time.Time, err error) {
	first, err := day(from)
	if err != nil {
		return start, end, err
	}
	last, err := day(to)
	if err != nil {
		return start, end, err
	}
	if !first.IsZero() {
		start = midnight(first, zone)
	}
	if !last.IsZero() {
		end = midnight(last.AddDate(0, 0, 1), zone)
	}
	return start, end, nil
}

// day reads a date; an empty text is none.
func day(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	at, err := time.Parse(time.DateOnly, text)
	if err != nil || at.Year() < 2000 || at.Year() > 2200 {
		return at, problem.New(422, "no-such-day", "This is not a date", "Write a date as 2026-11-28.")
	}
	return at, nil
}

// Midnight returns when the day of a time begins in a zone.
func Midnight(at time.Time, zone *time.Location) time.Time { return midnight(at.In(zone), zone) }

// midnight returns when the date of a time begins in a zone: where the clocks jump over
// midnight, the moment at which they do.
func midnight(date time.Time, zone *time.Location) time.Time {
	y, m, d := date.Date()
	begin := time.Date(y, m, d, 0, 0, 0, 0, zone)
	if begin.Day() != d { // time.Date took the offset from before the jump: it is the evening before
		_, jump := begin.ZoneBounds()
		return jump
	}
	return begin
}
