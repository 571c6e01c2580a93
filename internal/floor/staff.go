package floor

import (
	"context"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// staffLasts is how long who is in may be told to pages without being read anew:
// thousands of them ask. What this server hears of it makes it read at once.
const staffLasts = time.Second

// staffOf is who was in at a moment. It is copied for each who asks: a floor
// counts what it hands out in the staff that it gets.
type staffOf struct {
	at    time.Time
	staff []routing.Staff
}

// readStaff reads who is in, and lets pages be told so for a while.
func (room *Room) readStaff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	forgotten := room.staff.Times()
	staff, err := room.Staff(ctx, now)
	if err != nil {
		return nil, err
	}
	room.staff.Put(forgotten, &staffOf{now, slices.Clone(staff)})
	return staff, nil
}

func (room *Room) recentStaff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	read := func() (*staffOf, error) {
		// For all who ask at this moment, also when the first of them has gone.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), settings.Patience)
		defer cancel()
		staff, err := room.Staff(ctx, now)
		return &staffOf{now, staff}, err
	}
	recent, err := room.staff.Get(read)
	if err == nil && now.Sub(recent.at) > staffLasts {
		room.staff.Forget()
		recent, err = room.staff.Get(read)
	}
	if err != nil {
		return nil, err
	}
	return slices.Clone(recent.staff), nil
}

// Standings returns how operators stand, by id: who has a connection, their own
// word, and what they have in hand and on offer. Who is not listed is offline and
// has nothing.
func (s Tables) Standings(ctx context.Context, now time.Time) (map[string]view.Standing, error) {
	rows, err := s.Pool().Query(ctx, standingsQuery, now)
	if err != nil {
		return nil, err
	}
	return toStandings(rows)
}

const standingsQuery = `
	with here as (select distinct c.party_id as id from connections c join nodes n on n.id = c.node_id
		where c.side = 'team' and n.seen_at > now() - interval '` + aliveFor + `'),
	loads as (select owner_id as id, count(*) as n from chats where owner_id is not null and (phase = 'active' and not message or wrap_until > $1) group by owner_id),
	offers as (select id, count(*) as n from (
		select offered_to as id from chats where offered_to is not null
		union all select handing_to from chats where handing_to is not null) o group by id)
	select id::text, here.id is not null, coalesce(a.available, false), coalesce(a.reachable, false), coalesce(a.away_why, ''), coalesce(loads.n, 0), coalesce(offers.n, 0)
	from (select operator_id as id, available, reachable, away_why from availability) a
		full join here using (id) full join loads using (id) full join offers using (id)`

func toStandings(rows pgx.Rows) (map[string]view.Standing, error) {
	standings := map[string]view.Standing{}
	var id string
	var v view.Standing
	_, err := pgx.ForEachRow(rows, []any{&id, &v.Here, &v.Available, &v.Reachable, &v.AwayWhy, &v.Load, &v.Offered}, func() error {
		standings[id] = v
		return nil
	})
	return standings, err
}

// Standing returns how an operator stands.
func (room *Room) Standing(ctx context.Context, operatorID string) (view.Standing, error) {
	all, err := room.Tables.Standings(ctx, room.Now())
	return all[operatorID], err
}

// Standings returns how all operators stand, by id; who is not listed is offline and has nothing.
func (room *Room) Standings(ctx context.Context) (map[string]view.Standing, error) {
	return room.Tables.Standings(ctx, room.Now())
}

// Queue returns the chats that look for somebody, in the order in which they are handed out.
func (room *Room) Queue(ctx context.Context) ([]routing.Waiting, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	return room.Tables.Queue(ctx, s.HeadStart())
}

// Staff returns the team as routing sees it: who is there, and with how much, in
// the order of their names.
func (room *Room) Staff(ctx context.Context, now time.Time) ([]routing.Staff, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	standings, err := room.Tables.Standings(ctx, now)
	if err != nil {
		return nil, err
	}
	return teamOf(s, standings), nil
}

func teamOf(s *settings.Settings, standings map[string]view.Standing) []routing.Staff {
	staff := make([]routing.Staff, len(s.Team))
	for i, o := range s.Team {
		stands := standings[o.ID]
		staff[i] = routing.Staff{
			ID: o.ID, Name: o.Name, Available: stands.Available && stands.Here && o.Active, WithinCall: stands.WithinCall() && o.Active, Load: stands.Load, Offered: stands.Offered,
			Percent: o.CapacityPercent, Languages: o.Languages,
		}
		if o.Capacity != nil {
			staff[i].Capacity = *o.Capacity
		}
	}
	return staff
}

// tookTurn moves a member to the end of a department's turn, along with an act.
func tookTurn(departmentID, operatorID string) chatlog.Statement {
	return chatlog.Statement{SQL: `insert into turns_taken (department_id, operator_id, turn) values ($1, $2, nextval('turns'))
		on conflict (department_id, operator_id) do update set turn = excluded.turn`, Args: []any{departmentID, operatorID}}
}

func toTurns(rows pgx.Rows) (map[string]int64, error) {
	out := map[string]int64{}
	var key string
	var turn int64
	_, err := pgx.ForEachRow(rows, []any{&key, &turn}, func() error {
		out[key] = turn
		return nil
	})
	return out, err
}

// Nodes returns how many servers live.
func (room *Room) Nodes(ctx context.Context) (int, error) { return room.Tables.Nodes(ctx) }
