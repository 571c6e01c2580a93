package facts

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Counted are the columns that are counted of chats, as SQL of the facts f, by name: one
// list for reports of hours and for those of single chats.
var Counted = []struct{ Name, SQL string }{
	{"chats", "count(*)"},
	{"answered", "count(*) filter (where f.ending = 'answered')"},
	{"missed", "count(*) filter (where f.ending = 'missed')"},
	{"messages", "count(*) filter (where f.ending = 'message')"},
	{"kept", "count(f.kept_s) filter (where f.ending = 'message')"},
	{"in_target", "count(*) filter (where f.in_target)"},
	{"in_target_of", "count(f.in_target)"},
	{"replies", "sum(f.replies)"},
	{"on_time", "sum(f.on_time)"},
	{"handled_s", "coalesce(sum(f.active_s + f.wrap_s) filter (where f.ending <> 'message'), 0)"},
	{"handled", "count(*) filter (where f.active_s > 0 and f.ending <> 'message')"},
	{"handed_on", "count(*) filter (where f.hand_ons > 0)"},
	{"hand_ons", "sum(f.hand_ons)"},
	{"asked", "count(*) filter (where f.surveyed)"},
	{"rated1", "count(*) filter (where f.rating = 1)"},
	{"rated2", "count(*) filter (where f.rating = 2)"},
	{"rated3", "count(*) filter (where f.rating = 3)"},
	{"rated4", "count(*) filter (where f.rating = 4)"},
	{"rated5", "count(*) filter (where f.rating = 5)"},
	{"invited", "count(*) filter (where f.invited <> '')"},
	{"sold", "count(f.sale_cents)"},
	{"helped", "count(*) filter (where f.ending = 'helped')"},
	{"with_helper", "count(*) filter (where f.helper <> '')"},
	{"helper_missed", "count(*) filter (where f.missed = 'helper')"},
}

// Timed are the measures of time of a chat, with who has them.
var Timed = []struct{ Column, Of string }{
	{"f.wait_s", "f.ending <> 'message'"},
	{"f.first_s", "f.ending = 'answered'"},
	{"f.later_s", "f.ending = 'answered'"},
}

// hourOf returns in SQL the hour in which a time lies.
func hourOf(expression string) string {
	return "date_bin('1 hour', " + expression + ", timestamptz '2000-01-01 00:00:00+00')"
}

// countHours counts hours anew; {arrived} is a condition that leaves out other hours.
var countHours = func() string {
	counts := make([]string, len(Counted))
	for i, c := range Counted {
		counts[i] = c.SQL
	}
	times := make([]string, len(Timed))
	for i, t := range Timed {
		times[i] = "coalesce(array_agg(" + t.Column + " order by " + t.Column + ") filter (where " + t.Column + " is not null and " + t.Of + "), '{}')"
	}
	return "insert into fact_hours (at, department_id, widget_id, counts, waits, firsts, laters) select " + hourOf("f.arrived_at") + ` as at,
		coalesce(f.department_id, '00000000-0000-0000-0000-000000000000') as department_id, f.widget_id, array[` + strings.Join(counts, ", ") + "]::bigint[], " + strings.Join(times, ", ") + `
		from fact_chats f where {arrived} group by 1, 2, 3`
}()

// recountHours counts the hours anew in which some quarters lie.
func recountHours(ctx context.Context, tx pgx.Tx, quarters []time.Time) error {
	var hours []time.Time
	seen := map[time.Time]bool{}
	for _, q := range quarters {
		if hour := q.UTC().Truncate(time.Hour); !seen[hour] {
			seen[hour], hours = true, append(hours, hour)
		}
	}
	if _, err := tx.Exec(ctx, "delete from fact_hours where at = any($1::timestamptz[])", hours); err != nil {
		return err
	}
	within := hourOf("f.arrived_at") + ` = any($1::timestamptz[]) and f.arrived_at >= (select min(h) from unnest($1::timestamptz[]) h)
		and f.arrived_at < (select max(h) + interval '1 hour' from unnest($1::timestamptz[]) h)`
	_, err := tx.Exec(ctx, strings.ReplaceAll(countHours, "{arrived}", within), hours)
	return err
}

// Hour is what the chats of an hour add up to, of one department and widget.
type Hour struct {
	At                    time.Time
	Department, Widget    string
	Counts                []int64 // in the order of Counted
	Waits, Firsts, Laters []int32 // seconds, in rising order
}

// Hours returns what the chats of some hours add up to: of some departments and widgets,
// or of all.
func (t Tables) Hours(ctx context.Context, f Filter, each func(Hour)) error {
	rows, err := t.Pool().Query(ctx, `select at, department_id::text, widget_id::text, counts, waits, firsts, laters from fact_hours
		where at >= $1 and at < $2 and (cardinality($3::uuid[]) = 0 or department_id = any($3::uuid[])) and (cardinality($4::uuid[]) = 0 or widget_id = any($4::uuid[]))`,
		f.From, f.To, append([]string{}, f.Departments...), append([]string{}, f.Widgets...))
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var h Hour
		if err := rows.Scan(&h.At, &h.Department, &h.Widget, &h.Counts, &h.Waits, &h.Firsts, &h.Laters); err != nil {
			return err
		}
		each(h)
	}
	return rows.Err()
}

// ByHours reports whether hours tell all that a filter asks for: it narrows by nothing but
// time, department and widget, and its zone is whole hours from UTC all the while.
func (f Filter) ByHours() bool {
	narrowed := len(f.Operators)+len(f.Tags)+len(f.Outcomes)+len(f.Ratings)+len(f.Countries)+len(f.Rules)+len(f.Pages)+len(f.Sources) > 0 ||
		f.Owner+f.Ending+f.Missed+f.Invited+f.Helper != "" || f.Rated != nil || f.HandedOn != nil || f.Sold != nil || f.InTarget != nil ||
		f.WaitFrom != nil || f.WaitTo != nil || f.FirstFrom != nil || f.FirstTo != nil || f.LinesFrom != nil || f.LinesTo != nil
	if narrowed || f.From.IsZero() || f.To.IsZero() {
		return false
	}
	zone, err := time.LoadLocation(f.Zone)
	if err != nil {
		return false
	}
	for at := f.From; at.Before(f.To); at = at.AddDate(0, 0, 7) {
		if _, offset := at.In(zone).Zone(); offset%3600 != 0 {
			return false
		}
	}
	return f.From.Equal(f.From.Truncate(time.Hour)) && f.To.Equal(f.To.Truncate(time.Hour))
}
