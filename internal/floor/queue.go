package floor

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// SomebodyWaits reports whether any chat looks for somebody.
func (s Tables) SomebodyWaits(ctx context.Context) (waits bool, err error) {
	err = s.Pool().QueryRow(ctx, "select exists (select from chats where seeking_id is not null)").Scan(&waits)
	return waits, err
}

// Queue returns the chats that look for somebody, in the order in which they
// are handed out; headStart is what a step of priority is worth there.
func (s Tables) Queue(ctx context.Context, headStart time.Duration) ([]routing.Waiting, error) {
	rows, err := s.Pool().Query(ctx, queueQuery)
	if err != nil {
		return nil, err
	}
	queue, err := pgx.CollectRows(rows, toWaiting)
	routing.Sort(queue, headStart)
	return queue, err
}

const queueQuery = `select id::text, visitor_id::text, seeking_id::text, priority, arrived_at, since, language, state,
	coalesce((select p.owner_id::text from chats p where p.visitor_id = c.visitor_id and p.phase = 'ended' and p.owner_id is not null
		order by p.started_at desc limit 1), '')
	from chats c where seeking_id is not null`

func toWaiting(r pgx.CollectableRow) (w routing.Waiting, err error) {
	var stateText string
	if err = r.Scan(&w.Chat, &w.Visitor, &w.Department, &w.Priority, &w.Arrived, &w.Since, &w.Language, &stateText, &w.Last); err != nil {
		return w, err
	}
	var row chatlog.Chat
	if err = json.Unmarshal([]byte(stateText), &row.State); err != nil {
		return w, err
	}
	return waiting(w, row.State), nil
}

// waiting adds to a chat in the queue what its state says of its wait.
func waiting(w routing.Waiting, state chat.State) routing.Waiting {
	w.Prefer, w.Passed, w.OpenTo, w.Not = state.Prefer, state.PassedBy, state.OpenTo, state.Owner
	if state.HandingOn != nil {
		w.Since = state.HandingOn.Until // it lapses before it overflows
	}
	if state.Offered != nil {
		w.OfferedTo = state.Offered.To
	}
	return w
}

// looked is what handing out goes by, as the database says it.
type looked struct {
	queue     []routing.Waiting // in no order
	standings map[string]view.Standing
	turns     map[string]int64 // of members who have had one, by the ids of department and operator behind each other
}

// departments returns the departments with the turns of their members.
func (l looked) departments(s *settings.Settings, now time.Time) []routing.Department {
	departments := s.CoreDepartments(now)
	for i := range departments {
		for j := range departments[i].Members {
			m := &departments[i].Members[j]
			m.Turn = l.turns[departments[i].ID+m.Operator]
		}
	}
	return departments
}

// lookInto adds to a batch the questions for what handing out goes by; the answers
// are there when the batch is done.
func lookInto(all *pgx.Batch, now time.Time) *looked {
	l := &looked{}
	all.Queue(queueQuery).Query(func(rows pgx.Rows) (err error) {
		l.queue, err = pgx.CollectRows(rows, toWaiting)
		return err
	})
	all.Queue(standingsQuery, now).Query(func(rows pgx.Rows) (err error) {
		l.standings, err = toStandings(rows)
		return err
	})
	all.Queue("select department_id::text || operator_id::text, turn from turns_taken").Query(func(rows pgx.Rows) (err error) {
		l.turns, err = toTurns(rows)
		return err
	})
	return l
}

// Handled returns for each of some departments how long the chats that ended last were
// in hand, wrap-up included.
func (s Tables) Handled(ctx context.Context, departments []string) (map[string]routing.Handled, error) {
	rows, err := s.Pool().Query(ctx, `select d.id::text, extract(epoch from h.took)::float8 from unnest($2::uuid[]) as d(id) cross join lateral (
			select coalesce(wrapped_at, ended_at) - taken_at as took from chats c
			where c.department_id = d.id and taken_at is not null and ended_at is not null and not message
			order by ended_at desc limit $1) h`, routing.HandledKept, departments)
	if err != nil {
		return nil, err
	}
	out := map[string]routing.Handled{}
	var id string
	var seconds float64
	_, err = pgx.ForEachRow(rows, []any{&id, &seconds}, func() error {
		out[id] = append(out[id], time.Duration(seconds*float64(time.Second)))
		return nil
	})
	return out, err
}

// InHand returns the chats that operators hold or wrap up.
func (s Tables) InHand(ctx context.Context, now time.Time) ([]routing.InHand, error) {
	rows, err := s.Pool().Query(ctx, `select owner_id::text, coalesce(department_id::text, ''), case when phase = 'ended' then wrap_until end from chats
		where owner_id is not null and (phase = 'active' and not message or wrap_until > $1)`, now)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (h routing.InHand, err error) {
		var until *time.Time
		if err = r.Scan(&h.Operator, &h.Department, &until); until != nil {
			h.Until = *until
		}
		return h, err
	})
}

// Coming returns how many chats of each priority but the usual one came to each
// department since a time.
func (s Tables) Coming(ctx context.Context, since time.Time, perHour float64) ([]routing.Coming, error) {
	rows, err := s.Pool().Query(ctx, `select department_id::text, priority, count(*)::float8 from chats
		where started_at > $1 and not message and department_id is not null and priority <> 0 group by 1, 2`, since)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (c routing.Coming, err error) {
		err = r.Scan(&c.Department, &c.Priority, &c.PerHour)
		c.PerHour *= perHour
		return c, err
	})
}
