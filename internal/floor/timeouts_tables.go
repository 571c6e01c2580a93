package floor

import (
	"context"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"stoop/internal/chatlog"
)

// ChatsHeldBy returns the ids of the chats that an operator holds, with or
// without messages, which nobody waits for live.
func (s Tables) ChatsHeldBy(ctx context.Context, operatorID string, messages bool) ([]string, error) {
	return s.IDs(ctx, "select id::text from chats where owner_id = $1 and phase = 'active' and ($2 or not message) order by arrived_at, id", operatorID, messages)
}

// Clocked returns the chats in which somebody has a time to answer: offers, and
// chats that are handed on.
func (s Tables) Clocked(ctx context.Context) ([]chatlog.Chat, error) {
	return chatlog.On(s.Store).Find(ctx, "", "offered_to is not null or handing_to is not null or phase = 'active' and seeking_id is not null")
}

// WrapUpsOver returns the chats whose wrap-up is over by a time.
func (s Tables) WrapUpsOver(ctx context.Context, now time.Time) ([]string, error) {
	return s.IDs(ctx, "select id::text from chats where wrap_until <= $1", now)
}

// Recount forgets nodes that died and works out anew who has a connection, of
// those on whom somebody waits: operators with chats in hand, and visitors of
// chats that go on. However a connection got lost or came back, this finds it;
// it reports whether somebody of the team came or went, and whether a server
// died.
func (s Tables) Recount(ctx context.Context, now time.Time) (team, died bool, err error) {
	came := false
	var all pgx.Batch // without a transaction of its own it is one
	all.Queue(`delete from nodes where seen_at <= now() - interval '` + aliveFor + `'`).Exec(func(dead pgconn.CommandTag) error {
		died = dead.RowsAffected() > 0
		return nil
	})
	all.Queue("delete from absences a where " + isConnected("a.party_id") +
		" returning exists (select from chats where owner_id = a.party_id or offered_to = a.party_id or handing_to = a.party_id)").Query(func(rows pgx.Rows) error {
		back, err := pgx.CollectRows(rows, pgx.RowTo[bool])
		came = slices.Contains(back, true)
		return err
	})
	all.Queue(`insert into absences (party_id, since)
		select id, $1 from (
			select owner_id as id from chats where phase = 'active' and owner_id is not null
			union select offered_to from chats where offered_to is not null
			union select handing_to from chats where handing_to is not null) o
		where not `+isConnected("o.id")+` on conflict (party_id) do nothing`, now).Exec(func(lost pgconn.CommandTag) error {
		team = lost.RowsAffected() > 0
		return nil
	})
	all.Queue(`insert into absences (party_id, since)
		select distinct visitor_id, $1::timestamptz from chats v where phase <> 'ended' and not message and not `+isConnected("v.visitor_id")+`
		on conflict (party_id) do nothing`, now)
	err = s.Pool().SendBatch(ctx, &all).Close()
	return team || died || came, died, err
}

// GoneOwners returns the operators who have been without a connection since a
// time, who can be reached since an earlier one, and hold chats or have some on offer.
func (s Tables) GoneOwners(ctx context.Context, since, earlier time.Time) ([]string, error) {
	return s.IDs(ctx, `select a.party_id::text from absences a left join availability v on v.operator_id = a.party_id
		where a.since <= case when v.reachable then $2::timestamptz else $1::timestamptz end and not `+isConnected("a.party_id")+`
		and exists (select 1 from chats c where c.owner_id = a.party_id and c.phase = 'active' and not c.message or c.offered_to = a.party_id or c.handing_to = a.party_id)`, since, earlier)
}

// Abandoned returns the waiting chats whose visitors have been without a
// connection for as long as their widgets allow, in seconds by the widget's id.
func (s Tables) Abandoned(ctx context.Context, now time.Time, patience map[string]int) ([]string, error) {
	widgets := slices.Collect(maps.Keys(patience))
	seconds := make([]int, len(widgets))
	for i, id := range widgets {
		seconds[i] = patience[id]
	}
	return s.IDs(ctx, `select c.id::text from chats c join absences a on a.party_id = c.visitor_id
			join unnest($2::uuid[], $3::int[]) as w(id, seconds) on w.id = c.widget_id
		where c.phase = 'waiting' and not c.message and c.over = '' and a.since <= $1::timestamptz - make_interval(secs => w.seconds)
		  and not `+isConnected("a.party_id"), now, widgets, seconds)
}
