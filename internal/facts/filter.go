package facts

import (
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Filter says which chats are meant, in reports and in transcripts alike: what a figure
// counts is what is listed behind it. The zero Filter means all.
type Filter struct {
	From, To    time.Time // of arriving; To is not part of it; zero: no bound
	Zone        string    // in which Weekday and Hour are; an IANA name
	Weekday     *int      // 1 (Monday) to 7 (Sunday), as ISO 8601 counts
	Hour        *int      // 0 to 23, as the clock showed it
	Departments []string  // which answered for the chat at its end
	Operators   []string  // any of whom held it
	Owner       string    // who held it last
	Widgets     []string
	Tags        []string // any of these
	Outcomes    []string // Unset among them: none was put down
	Ending      string   // answered, missed, message or helped
	Missed      string   // why
	Helper      string   // what the helper did; any, or - for nothing
	Ratings     []int
	Rated       *bool
	HandedOn    *bool
	Countries   []string
	Rules       []string // names of routing rules, NoRule among them
	Pages       []string // paths
	Sources     []string
	Invited     string // AnyInvitation, measure.Hand, or the id of a rule
	Sold        *bool
	InTarget    *bool
	WaitFrom    *int // seconds; it is part of it
	WaitTo      *int // it is not
	FirstFrom   *int
	FirstTo     *int
	LinesFrom   *int // of both sides together
	LinesTo     *int // it is part of it
}

// Unset stands in lists of a Filter for what was not put down.
const Unset = "-"

// AnyInvitation is any invitation, of whatever rule or hand.
const AnyInvitation = "any"

// On narrows a query to the chats that are meant. The facts of chats go by the name f
// in it.
func (f Filter) On(q *gorm.DB) *gorm.DB {
	where := func(wanted bool, condition string, values ...any) {
		if wanted {
			q = q.Where(condition, values...)
		}
	}
	where(!f.From.IsZero(), "f.arrived_at >= ?", f.From)
	where(!f.To.IsZero(), "f.arrived_at < ?", f.To)
	if f.Weekday != nil {
		q = q.Where("extract(isodow from f.arrived_at at time zone ?) = ?", f.Zone, *f.Weekday)
	}
	if f.Hour != nil {
		q = q.Where("extract(hour from f.arrived_at at time zone ?) = ?", f.Zone, *f.Hour)
	}
	where(len(f.Departments) > 0, "f.department_id in ?", f.Departments)
	if len(f.Operators) > 0 {
		q = q.Where("f.operators && "+array(f.Operators, "uuid"), anys(f.Operators)...)
	}
	where(f.Owner != "", "f.owner_id = ?", f.Owner)
	where(len(f.Widgets) > 0, "f.widget_id in ?", f.Widgets)
	if len(f.Tags) > 0 {
		q = q.Where("(f.tags && "+array(f.Tags, "text")+" or ? and f.tags = '{}')", append(anys(f.Tags), slices.Contains(f.Tags, Unset))...)
	}
	where(len(f.Outcomes) > 0, "f.outcome in ?", orEmpty(f.Outcomes))
	where(f.Ending != "", "f.ending = ?", f.Ending)
	where(f.Missed != "", "f.missed = ?", f.Missed)
	where(f.Helper == "any", "f.helper <> ''")
	where(f.Helper == "-", "f.helper = ''")
	where(f.Helper != "" && f.Helper != "any" && f.Helper != "-", "f.helper = ?", f.Helper)
	where(len(f.Ratings) > 0, "f.rating in ?", f.Ratings)
	if f.Rated != nil {
		q = q.Where("(f.rating is not null) = ?", *f.Rated)
	}
	if f.HandedOn != nil {
		q = q.Where("(f.hand_ons > 0) = ?", *f.HandedOn)
	}
	where(len(f.Countries) > 0, "f.country in ?", orEmpty(f.Countries))
	where(len(f.Rules) > 0, "f.rule in ?", orEmpty(f.Rules))
	where(len(f.Pages) > 0, "f.page in ?", orEmpty(f.Pages))
	where(len(f.Sources) > 0, "f.source in ?", orEmpty(f.Sources))
	where(f.Invited == AnyInvitation, "f.invited <> ''")
	where(f.Invited == Unset, "f.invited = ''")
	where(f.Invited != "" && f.Invited != AnyInvitation && f.Invited != Unset, "f.invited = ?", f.Invited)
	if f.Sold != nil {
		q = q.Where("(f.sale_cents is not null) = ?", *f.Sold)
	}
	if f.InTarget != nil {
		q = q.Where("f.in_target = ?", *f.InTarget)
	}
	if f.WaitFrom != nil || f.WaitTo != nil {
		q = q.Where("f.wait_s is not null and f.ending <> 'message'")
	}
	if f.FirstFrom != nil || f.FirstTo != nil {
		q = q.Where("f.first_s is not null and f.ending = 'answered'")
	}
	for _, bound := range []struct {
		value     *int
		condition string
	}{
		{f.WaitFrom, "f.wait_s >= ?"}, {f.WaitTo, "f.wait_s < ?"}, {f.FirstFrom, "f.first_s >= ?"}, {f.FirstTo, "f.first_s < ?"},
		{f.LinesFrom, "f.visitor_lines + f.team_lines >= ?"}, {f.LinesTo, "f.visitor_lines + f.team_lines <= ?"},
	} {
		if bound.value != nil {
			q = q.Where(bound.condition, *bound.value)
		}
	}
	return q
}

// array is an array of so many parameters in SQL.
func array(values []string, kind string) string {
	return "array[" + strings.TrimSuffix(strings.Repeat("?, ", len(values)), ", ") + "]::" + kind + "[]"
}

func anys(values []string) []any {
	list := make([]any, len(values))
	for i, v := range values {
		list[i] = v
	}
	return list
}

// orEmpty returns a list in which Unset is the empty text.
func orEmpty(list []string) []string {
	out := make([]string, len(list))
	for i, s := range list {
		if s != Unset {
			out[i] = s
		}
	}
	return out
}
