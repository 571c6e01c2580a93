package floor

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
)

// aliveFor is how long a node counts as alive after it last said so. It says
// so every two seconds, and does nothing else meanwhile.
const aliveFor = "7 seconds"

// isConnected is a query's condition that the party with an id has a connection
// to a node that lives.
func isConnected(id string) string {
	return `exists (select 1 from connections live join nodes on nodes.id = live.node_id
		where live.party_id = ` + id + ` and nodes.seen_at > now() - interval '` + aliveFor + `')`
}

// Beat says that a node lives, with the connections that it has. What the
// database missed while it was away is put right.
func (s Tables) Beat(ctx context.Context, nodeID string, connections map[string]chat.Party) error {
	ids, sides, parties := make([]string, 0, len(connections)), []string{}, []string{}
	for id, p := range connections {
		ids, sides, parties = append(ids, id), append(sides, string(p.Side)), append(parties, p.ID)
	}
	return pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error {
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

// Connect takes note of a connection: its party is not absent any more.
func (s Tables) Connect(ctx context.Context, nodeID, connectionID string, p chat.Party) error {
	var both pgx.Batch // without a transaction of its own it is one
	both.Queue(`insert into connections (id, node_id, side, party_id) values ($1, $2, $3, $4) on conflict (id) do nothing`, connectionID, nodeID, string(p.Side), p.ID)
	both.Queue("delete from absences where party_id = $1", p.ID)
	return s.Pool().SendBatch(ctx, &both).Close()
}

// Disconnect takes note that a connection ended. Since when its party has none,
// if it was the last one, is worked out here and once more by every Recount.
func (s Tables) Disconnect(ctx context.Context, connectionID string, p chat.Party, now time.Time) error {
	var all pgx.Batch
	// Two tabs that close at once must not each think that the other is there.
	all.Queue("select pg_advisory_xact_lock(hashtextextended('party ' || $1, 0))", p.ID)
	all.Queue("delete from connections where id = $1", connectionID)
	all.Queue("insert into absences (party_id, since) select $1, $2 where not "+isConnected("$1::uuid")+" on conflict (party_id) do nothing", p.ID, now)
	return s.Pool().SendBatch(ctx, &all).Close()
}

// Lost returns since when a party has no connection, or nil when it has one.
func (s Tables) Lost(ctx context.Context, p chat.Party) (*time.Time, error) {
	var at *time.Time
	err := s.Pool().QueryRow(ctx, "select case when not "+isConnected("$1::uuid")+" then coalesce((select since from absences where party_id = $1), now()) end", p.ID).Scan(&at)
	return at, err
}

// RemoveNode forgets a node that stops in good order, after its connections.
func (s Tables) RemoveNode(ctx context.Context, nodeID string) error {
	_, err := s.Pool().Exec(ctx, "delete from nodes where id = $1", nodeID)
	return err
}
