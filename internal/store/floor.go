package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"stoop/core/routing"
)

func sprintfCondition(condition, column string) string { return fmt.Sprintf(condition, column) }

// routingLock is the advisory lock under which chats are handed out. It is one
// for all departments, because an operator may be a member of several and an
// overflow reaches across them.
const routingLock = 0x570_0b01

// router is the one connection over which a server holds the lock of routing.
// It is none of the pool's: what is done under the lock needs those.
type router struct {
	turn chan struct{} // held by who hands out
	conn *pgx.Conn
}

// UnderRoutingLock runs something while no other server hands out chats. It
// waits for its turn as long as the context allows.
func (s *Store) UnderRoutingLock(ctx context.Context, do func(context.Context) error) (err error) {
	select {
	case s.router.turn <- struct{}{}:
		defer func() { <-s.router.turn }()
	case <-ctx.Done():
		return ctx.Err()
	}
	if s.router.conn == nil || s.router.conn.IsClosed() {
		if s.router.conn, err = pgx.ConnectConfig(ctx, s.pool.Config().ConnConfig.Copy()); err != nil {
			return fmt.Errorf("connecting for the lock of routing: %w", err)
		}
	}
	if _, err := s.router.conn.Exec(ctx, "select pg_advisory_lock($1)", routingLock); err != nil {
		return s.dropRouter(err)
	}
	defer func() {
		unlock, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		if _, unlockErr := s.router.conn.Exec(unlock, "select pg_advisory_unlock($1)", routingLock); unlockErr != nil {
			err = errors.Join(err, s.dropRouter(unlockErr)) // the database unlocks what a lost connection held
		}
	}()
	return do(ctx)
}

func (s *Store) dropRouter(err error) error {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	_ = s.router.conn.Close(ctx) // it is of no use any more
	return err
}

// LockOperator keeps others from giving an operator a chat until the
// transaction ends, and returns how many chats they have in hand (active and in
// wrap-up) and on offer.
func LockOperator(ctx context.Context, tx pgx.Tx, operatorID string, now time.Time) (load, offered int, err error) {
	if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock(hashtextextended($1, 0))", operatorID); err != nil {
		return 0, 0, err
	}
	err = tx.QueryRow(ctx, `select
		(select count(*) from chats where owner_id = $1 and (phase = 'active' and not message or wrap_until > $2)),
		(select count(*) from chats where offered_to = $1) + (select count(*) from chats where handing_to = $1)`, operatorID, now).Scan(&load, &offered)
	return load, offered, err
}

// AvailableNow reports whether an operator is connected and wants chats.
func AvailableNow(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	var available bool
	err := tx.QueryRow(ctx, "select available and active and "+sprintfCondition(connected, "o.id")+" from operators o where id = $1", operatorID).Scan(&available)
	return available, err
}

// Staff returns the team as routing sees it: who is there, and with how much.
func (s *Store) Staff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	rows, err := s.pool.Query(ctx, `
		with here as (select distinct c.party_id from connections c join nodes n on n.id = c.node_id where n.seen_at > now() - interval '`+aliveFor+`'),
		loads as (select owner_id, count(*) as n from chats where phase = 'active' and not message or wrap_until > $1 group by owner_id),
		offers as (select operator, count(*) as n from (
			select offered_to as operator from chats where offered_to is not null
			union all select handing_to from chats where handing_to is not null) o group by operator)
		select o.id::text, o.name, o.available and o.active and here.party_id is not null, coalesce(loads.n, 0), coalesce(offers.n, 0),
			coalesce(o.capacity, 0), o.capacity_percent, o.languages
		from operators o left join here on here.party_id = o.id left join loads on loads.owner_id = o.id left join offers on offers.operator = o.id
		order by o.name, o.id`, now)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (w routing.Staff, err error) {
		var languages []byte
		if err = r.Scan(&w.ID, &w.Name, &w.Available, &w.Load, &w.Offered, &w.Capacity, &w.Percent, &languages); err == nil {
			err = json.Unmarshal(languages, &w.Languages)
		}
		return w, err
	})
}

// HereNow returns the ids of the operators who have a connection.
func (s *Store) HereNow(ctx context.Context) (map[string]bool, error) {
	rows, err := s.pool.Query(ctx, `select distinct c.party_id::text from connections c join nodes n on n.id = c.node_id
		where c.side = 'team' and n.seen_at > now() - interval '`+aliveFor+`'`)
	if err != nil {
		return nil, err
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
	here := make(map[string]bool, len(ids))
	for _, id := range ids {
		here[id] = true
	}
	return here, err
}

// SomebodyWaits reports whether any chat looks for somebody.
func (s *Store) SomebodyWaits(ctx context.Context) (waits bool, err error) {
	err = s.pool.QueryRow(ctx, "select exists (select from chats where seeking_id is not null)").Scan(&waits)
	return waits, err
}

// Queue returns the chats that look for somebody, in the order in which they
// are handed out; headStart is what a step of priority is worth there.
func (s *Store) Queue(ctx context.Context, headStart time.Duration) ([]routing.Waiting, error) {
	rows, err := s.pool.Query(ctx, `select id::text, visitor_id::text, seeking_id::text, priority, arrived_at, since, language, state,
		coalesce((select p.owner_id::text from chats p where p.visitor_id = c.visitor_id and p.phase = 'ended' and p.owner_id is not null
			order by p.started_at desc limit 1), '')
		from chats c where seeking_id is not null`)
	if err != nil {
		return nil, err
	}
	queue, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (w routing.Waiting, err error) {
		var stateText string
		if err = r.Scan(&w.Chat, &w.Visitor, &w.Department, &w.Priority, &w.Arrived, &w.Since, &w.Language, &stateText, &w.Last); err != nil {
			return w, err
		}
		var row Chat
		if err = json.Unmarshal([]byte(stateText), &row.State); err != nil {
			return w, err
		}
		w.Prefer, w.Passed, w.OpenTo, w.Not = row.State.Prefer, row.State.PassedBy, row.State.OpenTo, row.State.Owner
		if row.State.HandingOn != nil {
			w.Since = row.State.HandingOn.Until // it lapses before it overflows
		}
		if row.State.Offered != nil {
			w.OfferedTo = row.State.Offered.To
		}
		return w, nil
	})
	routing.Sort(queue, headStart)
	return queue, err
}

// Handled returns for each department how long the chats that ended last were
// in hand, wrap-up included.
func (s *Store) Handled(ctx context.Context) (map[string]routing.Handled, error) {
	rows, err := s.pool.Query(ctx, `select d.id::text, extract(epoch from h.took)::float8 from departments d cross join lateral (
			select coalesce(wrapped_at, ended_at) - taken_at as took from chats c
			where c.department_id = d.id and taken_at is not null and ended_at is not null and not message
			order by ended_at desc limit $1) h
		where d.removed_at is null`, routing.HandledKept)
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

// TookTurn moves members to the end of a department's turn.
func TookTurn(ctx context.Context, tx pgx.Tx, departmentID, operatorID string) error {
	_, err := tx.Exec(ctx, "update members set turn = nextval('turns') where department_id = $1 and operator_id = $2", departmentID, operatorID)
	return err
}

// CountPass adds to the offers that an operator let by one after the other,
// sets them away when they reach the limit, and reports whether that happened.
func CountPass(ctx context.Context, tx pgx.Tx, operatorID string, limit int, why string) (setAway bool, err error) {
	err = tx.QueryRow(ctx, `update operators set passes = passes + 1,
			available = available and passes + 1 < $2,
			away_why = case when available and passes + 1 >= $2 then $3 else away_why end
		where id = $1 returning passes >= $2 and away_why = $3`, operatorID, limit, why).Scan(&setAway)
	return setAway, err
}

// ForgetPasses begins the count of an operator's passes anew.
func ForgetPasses(ctx context.Context, tx pgx.Tx, operatorID string) error {
	_, err := tx.Exec(ctx, "update operators set passes = 0 where id = $1 and passes > 0", operatorID)
	return err
}

// ChatsHeldBy returns the ids of the chats that an operator holds, with or
// without messages, which nobody waits for live.
func (s *Store) ChatsHeldBy(ctx context.Context, operatorID string, messages bool) ([]string, error) {
	return s.ids(ctx, "select id::text from chats where owner_id = $1 and phase = 'active' and ($2 or not message) order by arrived_at, id", operatorID, messages)
}

// ChatsOfferedTo returns the ids of the chats that are offered to an operator.
func (s *Store) ChatsOfferedTo(ctx context.Context, operatorID string) ([]string, error) {
	return s.ids(ctx, "select id::text from chats where offered_to = $1 or handing_to = $1", operatorID)
}

// WaitingChatOf returns the id of the live chat of a visitor that nobody has
// taken, or nothing.
func (s *Store) WaitingChatOf(ctx context.Context, visitorID string) (string, error) {
	ids, err := s.ids(ctx, "select id::text from chats where visitor_id = $1 and phase = 'waiting' and not message", visitorID)
	return strings.Join(ids, ""), err
}

func (s *Store) ids(ctx context.Context, query string, args ...any) ([]string, error) {
	rows, err := s.pool.Query(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// Pool returns the driver's own connections, for the job queue.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Turns returns the turn of each member, by the ids of department and operator
// behind each other.
func (s *Store) Turns(ctx context.Context) (map[string]int64, error) {
	rows, err := s.pool.Query(ctx, "select department_id::text || operator_id::text, turn from members")
	if err != nil {
		return nil, err
	}
	out := map[string]int64{}
	var key string
	var turn int64
	_, err = pgx.ForEachRow(rows, []any{&key, &turn}, func() error {
		out[key] = turn
		return nil
	})
	return out, err
}

// LastOperator returns who owned the visitor's last chat that ended, or nothing.
func (s *Store) LastOperator(ctx context.Context, visitorID string) (string, error) {
	ids, err := s.ids(ctx, `select owner_id::text from chats where visitor_id = $1 and phase = 'ended' and owner_id is not null order by started_at desc limit 1`, visitorID)
	return strings.Join(ids, ""), err
}

// Counts are the figures of a department on the Floor.
type Counts struct {
	Waiting, Messages, Load, Today, Missed int
	LongestSince                           *time.Time
}

// FloorCounts returns the figures of all departments, by id.
func (s *Store) FloorCounts(ctx context.Context, since time.Time) (map[string]Counts, error) {
	out := map[string]Counts{}
	rows, err := s.pool.Query(ctx, `
		select d.id::text,
			(select count(*) from chats c where c.seeking_id = d.id),
			(select min(since) from chats c where c.seeking_id = d.id and phase = 'waiting'),
			(select count(*) from chats c where c.department_id = d.id and phase <> 'ended' and message),
			(select count(*) from chats c where c.department_id = d.id and phase = 'active' and not message),
			(select count(*) from chats c where c.department_id = d.id and started_at >= $1 and not message),
			(select count(*) from chats c where c.department_id = d.id and started_at >= $1 and ending = 'missed')
		from departments d where removed_at is null`, since)
	if err != nil {
		return nil, err
	}
	var id string
	var n Counts
	_, err = pgx.ForEachRow(rows, []any{&id, &n.Waiting, &n.LongestSince, &n.Messages, &n.Load, &n.Today, &n.Missed}, func() error {
		out[id] = n
		return nil
	})
	return out, err
}

// InHand returns the chats that operators hold or wrap up.
func (s *Store) InHand(ctx context.Context, now time.Time) ([]routing.InHand, error) {
	rows, err := s.pool.Query(ctx, `select owner_id::text, coalesce(department_id::text, ''), case when phase = 'ended' then wrap_until end from chats
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
func (s *Store) Coming(ctx context.Context, since time.Time, perHour float64) ([]routing.Coming, error) {
	rows, err := s.pool.Query(ctx, `select department_id::text, priority, count(*)::float8 from chats
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

// Clocked returns the chats in which somebody has a time to answer: offers, and
// chats that are handed on.
func (s *Store) Clocked(ctx context.Context) ([]Chat, error) {
	var list []Chat
	err := s.DB.WithContext(ctx).Where("offered_to is not null or handing_to is not null or phase = 'active' and seeking_id is not null").Find(&list).Error
	return list, err
}

// WrapUpsOver returns the chats whose wrap-up is over by a time.
func (s *Store) WrapUpsOver(ctx context.Context, now time.Time) ([]string, error) {
	return s.ids(ctx, "select id::text from chats where wrap_until <= $1", now)
}

// Reached tells how far the log of a chat goes.
type Reached struct {
	ID   string
	Last int64
}

// OpenNow returns how far the logs of all open chats go.
func (s *Store) OpenNow(ctx context.Context) ([]Reached, error) {
	var list []Reached
	err := s.DB.WithContext(ctx).Raw("select id, last from chats where phase <> 'ended'").Scan(&list).Error
	return list, err
}

// Nodes returns how many servers live.
func (s *Store) Nodes(ctx context.Context) (int, error) {
	var n int
	err := s.pool.QueryRow(ctx, "select count(*) from nodes where seen_at > now() - interval '"+aliveFor+"'").Scan(&n)
	return n, err
}
