package reports

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/problem"
)

// Period is what a report is of. Its days are both part of it.
type Period struct {
	From string `json:"from"`
	To   string `json:"to"`
	Days int    `json:"days"`
	Zone string `json:"zone"`
}

// Report is what the chats of a period add up to, cut in one way.
type Report struct {
	Period  Period         `json:"period"`
	Before  *Period        `json:"before,omitempty" doc:"With what it is compared"`
	Total   ChatFigures    `json:"total"`
	Earlier *ChatFigures   `json:"earlier,omitempty" doc:"The total of the period before"`
	Unit    string         `json:"unit,omitempty" enum:"day,week,month" doc:"Of rows by date"`
	Rows    []ReportRow    `json:"rows" doc:"By what the report is cut; rows of tags count a chat at each of its tags"`
	Cut     bool           `json:"cut" doc:"There are more rows; those with the fewest chats are left out"`
	Loading *facts.Loading `json:"loading,omitempty" doc:"Chats are being taken in: the figures tell of a part"`
}

// rowsMost bounds the rows of what there may be any number of.
const rowsMost = 100

// By says how a report is cut.
type By string

// The ways in which a report is cut.
const (
	ByDate       By = "date"
	ByHour       By = "hour"
	ByHeat       By = "weekday-hour"
	ByWeekday    By = "weekday"
	ByDepartment By = "department"
	ByWidget     By = "widget"
	ByTag        By = "tag"
	ByOutcome    By = "outcome"
	ByPage       By = "page"
	ByRule       By = "rule"
	BySource     By = "source"
	ByCountry    By = "country"
	ByInvitation By = "invitation"
	ByRating     By = "rating"
	ByMissed     By = "missed"
)

// Bys are all of them.
var Bys = []By{ByDate, ByHour, ByHeat, ByWeekday, ByDepartment, ByWidget, ByTag, ByOutcome, ByPage, ByRule, BySource, ByCountry, ByInvitation, ByRating, ByMissed}

func local(f facts.Filter, what string) (string, []any) {
	return fmt.Sprintf(what, "(f.arrived_at at time zone ?)"), []any{f.Zone}
}

// cutBy returns how chats are told apart.
func cutBy(by By, f facts.Filter, unit string) (c cut) {
	orUnset := func(column string) cut {
		return cut{key: "coalesce(nullif(" + column + ", ''), '" + facts.Unset + "')", most: rowsMost}
	}
	switch by {
	case ByDate:
		c.key, c.args = local(f, "to_char(date_trunc('"+unit+"', %s), 'YYYY-MM-DD')")
	case ByHour:
		c.key, c.args = local(f, "to_char(%s, 'HH24')")
	case ByWeekday:
		c.key, c.args = local(f, "to_char(%s, 'ID')")
	case ByHeat:
		c.key, c.args = local(f, "to_char(%s, 'ID HH24')")
		c.plain = true
	case ByDepartment:
		c.key = "coalesce(f.department_id::text, '" + facts.Unset + "')"
	case ByWidget:
		c.key = "f.widget_id::text"
	case ByTag:
		c.key, c.from, c.most = "t.tag", "cross join lateral unnest(case when f.tags = '{}' then array['"+facts.Unset+"'] else f.tags end) as t(tag)", rowsMost
	case ByOutcome:
		c = orUnset("f.outcome")
	case ByPage:
		c = orUnset("f.page")
	case ByRule:
		c = orUnset("f.rule")
	case BySource:
		c = orUnset("f.source")
	case ByCountry:
		c = orUnset("f.country")
	case ByInvitation:
		c = orUnset("f.invited")
	case ByRating:
		c.key = "coalesce(f.rating::text, '" + facts.Unset + "')"
	case ByMissed:
		c = orUnset("f.missed")
	}
	return c
}

// unitOf returns in what a period is shown by date: more than about a hundred bars nobody
// reads.
func unitOf(days int) string {
	switch {
	case days <= 93:
		return "day"
	case days <= 800:
		return "week"
	}
	return "month"
}

// Against says with what a period is compared.
type Against string

// With what a period may be compared.
const (
	AgainstNothing Against = "none"
	AgainstBefore  Against = "before"
	AgainstYear    Against = "year"
)

// asked is what a report is asked for, made ready.
type asked struct {
	filter facts.Filter
	zone   *time.Location
	period Period
}

// openTo lets a report without bounds be of the last four weeks.
const usualDays = 28

// ready checks who asks, and for what.
func (room *Room) ready(o access.Actor, in facts.Asked) (asked, error) {
	if !o.May(access.SeeReports) {
		return asked{}, access.ErrNotAllowed
	}
	f, zone, err := in.Filter(room.Zone)
	if err != nil {
		return asked{}, err
	}
	if f.To.IsZero() {
		f.To = facts.Midnight(room.Now().In(zone).AddDate(0, 0, 1), zone)
	}
	if f.From.IsZero() {
		f.From = facts.Midnight(f.To.In(zone).AddDate(0, 0, -usualDays), zone)
	}
	if !f.To.After(f.From) {
		return asked{}, problem.New(422, "period-backwards", "The period ends before it begins", "Choose a last day that is not before the first one.")
	}
	return asked{f, zone, periodOf(f.From, f.To, zone)}, nil
}

func periodOf(from, to time.Time, zone *time.Location) Period {
	first, last := from.In(zone), to.In(zone).Add(-time.Minute)
	return Period{From: first.Format(time.DateOnly), To: last.Format(time.DateOnly), Days: daysBetween(first, last), Zone: zone.String()}
}

// daysBetween counts the days from one to another, both of which are part of it.
func daysBetween(first, last time.Time) int {
	day := func(t time.Time) time.Time {
		y, m, d := t.Date()
		return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	}
	return int(day(last).Sub(day(first)).Hours()/24) + 1
}

// before returns what a period is compared with, or false. Of a period that is not over
// yet, as much of the one before is taken as has passed of it, in whole hours.
func (a asked) before(against Against, now time.Time) (facts.Filter, Period, bool) {
	f := a.filter
	switch against {
	case AgainstBefore:
		f.To = a.filter.From
		f.From = facts.Midnight(a.filter.From.In(a.zone).AddDate(0, 0, -a.period.Days), a.zone)
	case AgainstYear:
		f.From = facts.Midnight(a.filter.From.In(a.zone).AddDate(-1, 0, 0), a.zone)
		f.To = facts.Midnight(f.From.In(a.zone).AddDate(0, 0, a.period.Days), a.zone)
	default:
		return f, Period{}, false
	}
	period := periodOf(f.From, f.To, a.zone)
	if left := a.filter.To.Sub(now).Truncate(time.Hour); left > 0 && f.To.Add(-left).After(f.From) {
		f.To = f.To.Add(-left)
	}
	return f, period, true
}

// Report returns what the chats of a period add up to: of all chats, for who leads. Who
// wants the rows only does not wait for a total.
func (room *Room) Report(ctx context.Context, o access.Actor, in facts.Asked, by By, against Against, rowsOnly bool) (Report, error) {
	a, err := room.ready(o, in)
	if err != nil {
		return Report{}, err
	}
	if a.filter.To.After(room.Now()) {
		if err := room.Facts.CatchUp(ctx, facts.FollowerName); err != nil {
			return Report{}, err
		}
	}
	r := Report{Period: a.period, Rows: []ReportRow{}}
	if r.Loading, err = room.Facts.Loading(ctx); err != nil {
		return r, err
	}
	if by == ByDate {
		r.Unit = unitOf(a.period.Days)
	}
	c := whole
	if by != "" {
		c = cutBy(by, a.filter, r.Unit)
	}
	p, err := room.counted(ctx, a.filter, by, r.Unit, c)
	if err != nil {
		return r, err
	}
	// Where each chat is in one part, and all parts are there, they are the total.
	if r.Total = p.whole(); !rowsOnly && (c.plain || c.most > 0) {
		if r.Total, err = room.total(ctx, a.filter); err != nil {
			return r, err
		}
	}
	if earlier, period, ok := a.before(against, room.Now()); ok {
		figures, err := room.total(ctx, earlier)
		if err != nil {
			return r, err
		}
		r.Before, r.Earlier = &period, &figures
	}
	if by == "" {
		return r, nil
	}
	r.Rows = p.rows()
	r.Cut = c.most > 0 && len(r.Rows) == c.most
	if keys := keysOf(by, a, r.Unit); keys != nil {
		r.Rows = withKeys(r.Rows, keys)
	}
	return r, nil
}

// keysOf returns all keys that a report has, also those without a chat, or nil where only
// the chats tell.
func keysOf(by By, a asked, unit string) (keys []string) {
	switch by {
	case ByHour:
		for hour := range 24 {
			keys = append(keys, fmt.Sprintf("%02d", hour))
		}
	case ByWeekday:
		for day := 1; day <= 7; day++ {
			keys = append(keys, strconv.Itoa(day))
		}
	case ByHeat:
		for day := 1; day <= 7; day++ {
			for hour := range 24 {
				keys = append(keys, fmt.Sprintf("%d %02d", day, hour))
			}
		}
	case ByDate:
		first, last := a.filter.From.In(a.zone), a.filter.To.In(a.zone).Add(-time.Minute)
		for d := noon(first); !d.After(noon(last)); d = d.AddDate(0, 0, 1) {
			key := begins(d, unit)
			if !slices.Contains(keys, key) {
				keys = append(keys, key)
			}
		}
	}
	return keys
}

// noon returns the middle of a day, in UTC: no clock is put forward there.
func noon(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, 12, 0, 0, 0, time.UTC)
}

// begins returns the day on which the unit of a day begins, weeks with their Monday.
func begins(d time.Time, unit string) string {
	switch unit {
	case "week":
		d = d.AddDate(0, 0, -(int(d.Weekday())+6)%7)
	case "month":
		d = d.AddDate(0, 0, 1-d.Day())
	}
	return d.Format(time.DateOnly)
}
