package facts

import (
	"context"
	"time"
)

// Arrivals is how many live chats came to a department in a quarter of an hour.
type Arrivals struct {
	At    time.Time
	Chats int64
}

// ArrivalsOf returns the quarters of an hour in which chats came to a department.
func (t Tables) ArrivalsOf(ctx context.Context, department string, from, to time.Time) (list []Arrivals, err error) {
	err = t.DB.WithContext(ctx).Raw("select at, arrivals as chats from fact_quarters where department_id = ? and at >= ? and at < ? and arrivals > 0 order by at", department, from, to).Scan(&list).Error
	return list, err
}

// First returns when the first chat came to a department; the zero time if none has.
func (t Tables) First(ctx context.Context, department string) (first time.Time, err error) {
	var at *time.Time
	err = t.Pool().QueryRow(ctx, "select min(at) from fact_quarters where department_id = $1", department).Scan(&at)
	if at != nil {
		first = *at
	}
	return first, err
}

// Holding is how long an operator held a live chat, and how many at once meanwhile.
type Holding struct {
	Seconds float64
	AtOnce  float64
}

// holdingsMost bounds how many are read: more tell no more.
const holdingsMost = 20_000

// Holdings returns how chats of a department were held since a time, the newest first.
func (t Tables) Holdings(ctx context.Context, department string, since time.Time) (list []Holding, err error) {
	err = t.DB.WithContext(ctx).Raw(`select p.active_s + p.wrap_s as seconds, b.chat_s::float8 / b.busy_s as at_once
		from fact_operators p join fact_chats f on f.chat_id = p.chat_id and f.ending <> 'message'
		join fact_busy b on b.operator_id = p.operator_id and b.busy_s > 0 and b.at = `+quarterOf("lower(p.held)")+`
		where p.department_id = ? and p.arrived_at >= ? and not isempty(p.held) order by p.arrived_at desc limit ?`, department, since, holdingsMost).Scan(&list).Error
	return list, err
}

// Patience is how long the visitors of a department waited in all, and how many of them
// gave up.
type Patience struct {
	WaitedS float64
	GaveUp  int64
}

// PatienceOf returns that since a time.
func (t Tables) PatienceOf(ctx context.Context, department string, since time.Time) (p Patience, err error) {
	err = t.DB.WithContext(ctx).Raw(`select coalesce(sum(coalesce(wait_s, kept_s)), 0) as waited_s, count(*) filter (where missed in ('left', 'ended') or kept_s is not null) as gave_up
		from fact_chats where first_department_id = ? and arrived_at >= ?`, department, since).Scan(&p).Error
	return p, err
}
