package store

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
)

// aliveFor is how long a node counts as alive after it last said so. It says
// so every two seconds, and does nothing else meanwhile.
const aliveFor = "7 seconds"

// connected is a query's condition that a party has a connection to a node
// that lives.
const connected = `exists (select 1 from connections c join nodes n on n.id = c.node_id
	where c.party_id = %s and n.seen_at > now() - interval '` + aliveFor + `')`

// Beat says that a node lives, with the connections that it has. What the
// database missed while it was away is put right.
func (s *Store) Beat(ctx context.Context, nodeID string, connections map[string]chat.Party) error {
	ids, sides, parties := make([]string, 0, len(connections)), []string{}, []string{}
	for id, p := range connections {
		ids, sides, parties = append(ids, id), append(sides, string(p.Side)), append(parties, p.ID)
	}
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `insert into nodes (id) values ($1) on conflict (id) do update set seen_at = now()`, nodeID); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `delete from connections where node_id = $1 and id <> all ($2)`, nodeID, ids); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into connections (id, node_id, side, party_id)
			select u.id, $1, u.side, u.party from unnest($2::text[], $3::text[], $4::uuid[]) as u(id, side, party) on conflict (id) do nothing`,
			nodeID, ids, sides, parties)
		return err
	})
}

// Connect takes note of a connection: its party is not lost any more.
func (s *Store) Connect(ctx context.Context, nodeID, connectionID string, p chat.Party) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `insert into connections (id, node_id, side, party_id) values ($1, $2, $3, $4) on conflict (id) do nothing`,
			connectionID, nodeID, string(p.Side), p.ID); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "update "+tableOf(p.Side)+" set lost_at = null where id = $1 and lost_at is not null", p.ID)
		return err
	})
}

// Disconnect takes note that a connection ended. Since when its party has none,
// if it was the last one, is worked out here and once more by every Recount.
func (s *Store) Disconnect(ctx context.Context, connectionID string, p chat.Party, now time.Time) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		// Two tabs that close at once must not each think that the other is there.
		if _, err := tx.Exec(ctx, "select 1 from "+tableOf(p.Side)+" where id = $1 for update", p.ID); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "delete from connections where id = $1", connectionID); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "update "+tableOf(p.Side)+" t set lost_at = $2 where t.id = $1 and lost_at is null and not "+
			sprintfCondition(connected, "t.id"), p.ID, now)
		return err
	})
}

// Recount forgets nodes that died and works out anew who has a connection, of
// those on whom somebody waits: operators with chats in hand, and visitors of
// chats that go on. However a connection got lost or came back, this finds it;
// it reports whether somebody of the team came or went.
func (s *Store) Recount(ctx context.Context, now time.Time) (team bool, err error) {
	err = pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		dead, err := tx.Exec(ctx, `delete from nodes where seen_at <= now() - interval '`+aliveFor+`'`)
		if err != nil {
			return err
		}
		team = dead.RowsAffected() > 0
		for _, statement := range []string{
			"update operators t set lost_at = null where lost_at is not null and " + sprintfCondition(connected, "t.id"),
			"update operators t set lost_at = $1 where lost_at is null and not " + sprintfCondition(connected, "t.id") +
				" and exists (select 1 from chats c where c.owner_id = t.id and c.phase = 'active' or c.offered_to = t.id or c.handing_to = t.id)",
			"update visitors t set lost_at = null where lost_at is not null and " + sprintfCondition(connected, "t.id"),
			"update visitors t set lost_at = $1 where lost_at is null and not " + sprintfCondition(connected, "t.id") +
				" and t.id in (select visitor_id from chats where phase <> 'ended' and not message)",
		} {
			args := []any{now}
			if !strings.Contains(statement, "$1") {
				args = nil
			}
			changed, err := tx.Exec(ctx, statement, args...)
			if err != nil {
				return err
			}
			team = team || changed.RowsAffected() > 0 && strings.HasPrefix(statement, "update operators")
		}
		return nil
	})
	return team, err
}

// GoneOwners returns the operators who have been without a connection since a
// time, and hold chats or have some on offer.
func (s *Store) GoneOwners(ctx context.Context, since time.Time) ([]string, error) {
	return s.ids(ctx, `select o.id::text from operators o where lost_at <= $1 and not `+sprintfCondition(connected, "o.id")+`
		and exists (select 1 from chats c where c.owner_id = o.id and c.phase = 'active' and not c.message or c.offered_to = o.id or c.handing_to = o.id)`, since)
}

// Abandoned returns the waiting chats whose visitors have been without a
// connection for as long as their widgets allow.
func (s *Store) Abandoned(ctx context.Context, now time.Time) ([]string, error) {
	return s.ids(ctx, `select c.id::text from chats c join visitors v on v.id = c.visitor_id join widgets w on w.id = c.widget_id
		where c.phase = 'waiting' and not c.message and v.lost_at <= $1::timestamptz - make_interval(secs => w.gone_seconds)
		  and not `+sprintfCondition(connected, "v.id"), now)
}

// Lost returns since when a party has no connection, or nil when it has one.
func (s *Store) Lost(ctx context.Context, p chat.Party) (*time.Time, error) {
	var at *time.Time
	err := s.pool.QueryRow(ctx, "select case when not "+sprintfCondition(connected, "t.id")+" then coalesce(lost_at, now()) end from "+tableOf(p.Side)+" t where id = $1", p.ID).Scan(&at)
	return at, err
}

// RemoveNode forgets a node that stops in good order, after its connections.
func (s *Store) RemoveNode(ctx context.Context, nodeID string) error {
	_, err := s.pool.Exec(ctx, "delete from nodes where id = $1", nodeID)
	return err
}

func tableOf(side chat.Side) string {
	if side == chat.TeamSide {
		return "operators"
	}
	return "visitors"
}
