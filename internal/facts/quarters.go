package facts

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Quarter is the length of a part of the day in which is counted what came and was
// under way. Every time zone in use differs from UTC by whole quarters of an hour.
const Quarter = 15 * time.Minute

// quarterOf returns in SQL the quarter of an hour in which a time lies.
func quarterOf(expression string) string {
	return "date_bin('15 minutes', " + expression + ", timestamptz '2000-01-01 00:00:00+00')"
}

// quartersOf returns in SQL the quarters that a range touches.
func quartersOf(from, to string) string {
	return "generate_series(" + quarterOf(from) + ", " + to + " - interval '1 microsecond', interval '15 minutes')"
}

// waitEnd is in SQL when a chat's first wait was over. What waits longer than a day is
// counted for a day, so that it is known how far back one has to look.
const waitEnd = "(arrived_at + least(wait_s, 86400) * interval '1 second')"

// heldSpans are in SQL the stretches h for which live chats were held, by p. What is held
// longer than a day is counted for a day, as what waits.
const heldSpans = `fact_operators p cross join lateral unnest(p.held) r
	cross join lateral (select tstzrange(lower(r), least(upper(r), lower(r) + interval '1 day')) as h) s`

// touchedQuarters are all quarters of an hour on which chats have a bearing: from the
// arrival until nobody held them any more.
var touchedQuarters = `select distinct at from (
	select ` + quarterOf("arrived_at") + ` as at from fact_chats where {chats}
	union all select q from fact_chats, ` + quartersOf("arrived_at", waitEnd) + ` q where wait_s > 0 and {chats}
	union all select q from ` + heldSpans + `, ` + quartersOf("lower(h)", "upper(h)") + ` q where p.live and {chats}) t`

// touchedBy returns the quarters on which the facts of some chats, as they are stored,
// have a bearing.
func touchedBy(ctx context.Context, tx pgx.Tx, wanted bool, chatIDs []string) ([]time.Time, error) {
	if !wanted {
		return nil, nil
	}
	rows, err := tx.Query(ctx, strings.ReplaceAll(touchedQuarters, "{chats}", "chat_id = any($1::uuid[])"), chatIDs)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[time.Time])
}

// The two statements that count quarters anew. {arrived}, {waiting}, {held} and {at} are
// conditions that leave out what lies in other quarters.
var (
	countQuarters = `insert into fact_quarters (department_id, at, arrivals, missed, messages, waiting_s, held_s)
		select department_id, at, sum(arrivals), sum(missed), sum(messages), round(sum(waiting)), round(sum(held)) from (
			select first_department_id as department_id, ` + quarterOf("arrived_at") + ` as at, (ending not in ('message', 'helped') and missed <> 'helper' or kept_s is not null)::int as arrivals,
				(ending = 'missed' and missed <> 'helper')::int as missed, (ending = 'message' and kept_s is null)::int as messages, 0::numeric as waiting, 0::numeric as held
			from fact_chats where first_department_id is not null and {arrived}
			union all
			select first_department_id, q, 0, 0, 0, extract(epoch from least(` + waitEnd + `, q + interval '15 minutes') - greatest(arrived_at, q)), 0
			from fact_chats, ` + quartersOf("arrived_at", waitEnd) + ` q where first_department_id is not null and wait_s > 0 and {waiting}
			union all
			select department_id, q, 0, 0, 0, 0, extract(epoch from least(upper(h), q + interval '15 minutes') - greatest(lower(h), q))
			from ` + heldSpans + `, ` + quartersOf("lower(h)", "upper(h)") + ` q where p.live and department_id is not null and {held}
		) parts where {at} group by department_id, at`
	countBusy = `insert into fact_busy (operator_id, at, chat_s, busy_s)
		select operator_id, at, round(sum(extract(epoch from upper(part) - lower(part)))),
			round((select sum(extract(epoch from upper(u) - lower(u))) from unnest(range_agg(part)) u))
		from (select operator_id, q as at, h * tstzrange(q, q + interval '15 minutes') as part
			from ` + heldSpans + `, ` + quartersOf("lower(h)", "upper(h)") + ` q where p.live and {held}) parts
		where {at} group by operator_id, at`
)

func only(statement, arrived, waiting, held, at string) string {
	return strings.NewReplacer("{arrived}", arrived, "{waiting}", waiting, "{held}", held, "{at}", at).Replace(statement)
}

// recount counts some quarters anew, from the facts of chats.
func recount(ctx context.Context, tx pgx.Tx, quarters []time.Time) error {
	if len(quarters) == 0 {
		return nil
	}
	for _, table := range []string{"fact_quarters", "fact_busy"} {
		if _, err := tx.Exec(ctx, "delete from "+table+" where at = any($1::timestamptz[])", quarters); err != nil {
			return err
		}
	}
	// The ranges around all quarters find the rows by their index; which quarters exactly is
	// asked behind it.
	const around = `(select range_agg(tstzrange(q, q + interval '15 minutes')) from unnest($1::timestamptz[]) q)`
	for _, statement := range []string{countQuarters, countBusy} {
		sql := only(statement,
			quarterOf("arrived_at")+" = any($1::timestamptz[]) and arrived_at >= (select min(q) from unnest($1::timestamptz[]) q) and arrived_at < (select max(q) + interval '15 minutes' from unnest($1::timestamptz[]) q)",
			"arrived_at >= (select min(q) - interval '1 day' from unnest($1::timestamptz[]) q) and arrived_at < (select max(q) + interval '15 minutes' from unnest($1::timestamptz[]) q)",
			"held && "+around, "at = any($1::timestamptz[])")
		if _, err := tx.Exec(ctx, sql, quarters); err != nil {
			return err
		}
	}
	return recountHours(ctx, tx, quarters)
}

// recountAll counts all quarters anew, and all hours.
func recountAll(ctx context.Context, tx pgx.Tx) error {
	for _, sql := range []string{
		"delete from fact_quarters", "delete from fact_busy", "delete from fact_hours", strings.ReplaceAll(countHours, "{arrived}", "true"),
		only(countQuarters, "true", "true", "true", "true"), only(countBusy, "true", "true", "true", "true"),
	} {
		if _, err := tx.Exec(ctx, sql); err != nil {
			return err
		}
	}
	return nil
}
