package tickets

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/form"
)

// TicketReport is what tickets add up to in a period.
type TicketReport struct {
	From       string          `json:"from"`
	To         string          `json:"to" doc:"The last day"`
	All        TicketFigures   `json:"all"`
	Before     TicketFigures   `json:"before" doc:"In the period of the same length before"`
	Days       []TicketFigures `json:"days"`
	Department []TicketFigures `json:"departments"`
	Owners     []TicketFigures `json:"owners"`
	Now        TicketsNow      `json:"now"`
}

// TicketFigures is what tickets of a period add up to: those that were opened, answered, or done in it.
type TicketFigures struct {
	ID       string   `json:"id,omitempty" doc:"Of the department or operator"`
	Name     string   `json:"name,omitempty" doc:"Of them, or the day; empty: nobody"`
	Opened   int64    `json:"opened"`
	Done     int64    `json:"done"`
	Answers  int64    `json:"answers" doc:"To customers who waited for one"`
	InTime   int64    `json:"inTime" doc:"Of these, before they were due"`
	First    *float64 `json:"first,omitempty" doc:"Seconds from opening to the first answer, the median of those opened in the period and answered"`
	Finished *float64 `json:"finished,omitempty" doc:"Seconds from opening to done, the median of those done in the period"`
}

// TicketsNow is how tickets stand at this moment.
type TicketsNow struct {
	Unfinished int64 `json:"unfinished"`
	Ours       int64 `json:"ours" doc:"They wait for the team"`
	Late       int64 `json:"late" doc:"They should have been seen to"`
	Nobodys    int64 `json:"nobodys"`
}

// reportDaysMost bounds a period.
const reportDaysMost = 366

// Report returns what tickets add up to from a day to another one, for leads.
func (room *Room) Report(ctx context.Context, o access.Actor, from, to, department string) (TicketReport, error) {
	r := TicketReport{From: from, To: to, Days: []TicketFigures{}, Department: []TicketFigures{}, Owners: []TicketFigures{}}
	if !o.May(access.SeeReports) {
		return r, access.ErrNotAllowed
	}
	first, err1 := time.ParseInLocation(time.DateOnly, from, room.Zone)
	last, err2 := time.ParseInLocation(time.DateOnly, to, room.Zone)
	days := int(last.Sub(first).Hours()/24+0.5) + 1
	if err1 != nil || err2 != nil || last.Before(first) || days > reportDaysMost {
		return r, form.Refuse([]form.Wrong{{Field: "from", Words: "Choose a period of up to a year."}})
	}
	db, end := room.Replica.Reader().Pool(), last.AddDate(0, 0, 1)
	rows := func(from, to time.Time, by string) ([]TicketFigures, error) {
		found, err := db.Query(ctx, reportOf(by), from, to, department, room.Zone.String())
		if err != nil {
			return nil, err
		}
		return pgx.CollectRows(found, func(row pgx.CollectableRow) (v TicketFigures, err error) {
			return v, row.Scan(&v.ID, &v.Opened, &v.Done, &v.Answers, &v.InTime, &v.First, &v.Finished)
		})
	}
	all, err := rows(first, end, "''")
	if err != nil {
		return r, err
	}
	before, err := rows(first.AddDate(0, 0, -days), first, "''")
	if err != nil {
		return r, err
	}
	if r.Days, err = rows(first, end, "day"); err != nil {
		return r, err
	}
	if r.Department, err = rows(first, end, "department"); err != nil {
		return r, err
	}
	if r.Owners, err = rows(first, end, "owner"); err != nil {
		return r, err
	}
	if len(all) > 0 {
		r.All = all[0]
	}
	if len(before) > 0 {
		r.Before = before[0]
	}
	for i := range r.Days {
		r.Days[i].Name, r.Days[i].ID = r.Days[i].ID, ""
	}
	r.Days = everyDay(r.Days, first, days)
	for i := range r.Department {
		d, err := room.Settings.Department(ctx, r.Department[i].ID)
		if err != nil {
			return r, err
		}
		r.Department[i].Name = d.Name
	}
	for i := range r.Owners {
		r.Owners[i].Name = room.nameOf(r.Owners[i].ID)
	}
	err = db.QueryRow(ctx, `select count(*), count(*) filter (where status in ('open', 'us')), count(*) filter (where due_at < $1), count(*) filter (where owner_id is null)
		from tickets where status <> 'done' and ($2 = '' or department_id::text = $2)`, room.Now(), department).Scan(&r.Now.Unfinished, &r.Now.Ours, &r.Now.Late, &r.Now.Nobodys)
	return r, err
}

// everyDay has a row for each day of a period.
func everyDay(rows []TicketFigures, first time.Time, days int) []TicketFigures {
	found := map[string]TicketFigures{}
	for _, r := range rows {
		found[r.Name] = r
	}
	out := make([]TicketFigures, days)
	for i := range out {
		name := first.AddDate(0, 0, i).Format(time.DateOnly)
		if out[i] = found[name]; out[i].Name == "" {
			out[i].Name = name
		}
	}
	return out
}

// reportOf returns the statement that counts by a column. A ticket that was merged into another
// one was opened, and is finished by that one: it is not counted as done. The medians are
// PostgreSQL's own.
func reportOf(by string) string {
	day := func(at string) string {
		if by == "day" {
			return "to_char(" + at + " at time zone $4, 'YYYY-MM-DD')"
		}
		return map[string]string{"department": "department_id::text", "owner": "coalesce(owner_id::text, '')", "''": "''"}[by]
	}
	return `with mine as (select id, department_id, owner_id, opened_at, first_answer_at, done_at, merged from tickets where ($3 = '' or department_id::text = $3) and length($4) > 0),
	opened as (select ` + day("opened_at") + ` as key, count(*) as n, percentile_cont(0.5) within group (order by extract(epoch from first_answer_at - opened_at)) as first
		from mine where opened_at >= $1 and opened_at < $2 group by 1),
	done as (select ` + day("done_at") + ` as key, count(*) as n, percentile_cont(0.5) within group (order by extract(epoch from done_at - opened_at)) as finished
		from mine where done_at >= $1 and done_at < $2 and not merged group by 1),
	answers as (select ` + day("e.at") + ` as key, count(*) as n, count(*) filter (where e.in_time) as in_time
		from ticket_events e join mine on mine.id = e.ticket_id where e.at >= $1 and e.at < $2 and e.in_time is not null group by 1)
	select key, coalesce(opened.n, 0), coalesce(done.n, 0), coalesce(answers.n, 0), coalesce(answers.in_time, 0), opened.first, done.finished
	from opened full join done using (key) full join answers using (key) order by key limit 2000`
}
