package facts

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Came is a chat of the past as it came and was held.
type Came struct {
	ChatID     string
	At         time.Time
	WidgetID   string
	VisitorID  string
	Ending     string
	Department string // to which it came
	Owner      string // who held it last
	Country    string
	Source     string
	Language   string
	Page       string // path
	PageTitle  string
	Wait       *int // seconds until it was taken
	InTarget   bool
	Waited     int // seconds that its visitor waited in all
	Held       int // seconds that it kept somebody, with the work after it
}

// CameBetween returns the chats that came to the team between two times, in their order,
// up to a limit. Those that the helper alone answered, or that left it, came to nobody.
func (s Tables) CameBetween(ctx context.Context, from, to time.Time, limit int) ([]Came, error) {
	rows, err := s.Pool().Query(ctx, `select chat_id::text, arrived_at, widget_id::text, visitor_id::text, ending, coalesce(first_department_id::text, department_id::text, ''),
			coalesce(owner_id::text, ''), country, source, language, page, page_title, wait_s, coalesce(in_target, false), waited_s, active_s + wrap_s
		from fact_chats where arrived_at >= $1 and arrived_at < $2 and ending <> 'helped' and missed <> 'helper' order by arrived_at, chat_id limit $3`, from, to, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Came])
}

// HeldTime is a time in which an operator held a chat.
type HeldTime struct {
	Operator string
	From, To time.Time
}

// HeldBetween returns when operators held live chats that came between two times, by
// operator and in the order of time.
func (s Tables) HeldBetween(ctx context.Context, from, to time.Time) ([]HeldTime, error) {
	rows, err := s.Pool().Query(ctx, `select operator_id::text, lower(h), upper(h) from fact_operators, unnest(held) h
		where live and arrived_at >= $1 and arrived_at < $2 and not isempty(h) order by operator_id, lower(h), upper(h)`, from, to)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[HeldTime])
}
