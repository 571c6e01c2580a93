package chatlog

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/testpg"
)

// Who follows anything but words does not look at words: PostgreSQL goes along the
// index without them, however many there are, and finds the few others.
func TestAFollowerOfActsLooksAtNoWords(t *testing.T) {
	s := testpg.Open(t)
	ctx := t.Context()
	_, err := s.Pool().Exec(ctx, `insert into events (chat_id, number, kind, at, side, party_id, xid)
		select $1, n, case when n % 4000 = 0 then 'ended' else 'said' end, now(), 'visitor', $1, (1 + n / 50)::text::xid8 from generate_series(1, 20000) as t(n)`, uuid.NewString())
	require.NoError(t, err)
	_, err = s.Pool().Exec(ctx, "analyze events")
	require.NoError(t, err)

	part, err := readFeed(ctx, s.Pool(), Position{}, []chat.Kind{chat.Ended})
	require.NoError(t, err)
	require.Len(t, part.entries, 5)
	require.False(t, part.full)
	require.EqualValues(t, 20000, part.end.Number)
	part, err = readFeed(ctx, s.Pool(), part.end, []chat.Kind{chat.Ended})
	require.NoError(t, err)
	require.Empty(t, part.entries)
	require.EqualValues(t, 20000, part.end.Number, "it stays where it is")

	for query, index := range map[string]string{actsOfPart: "events_acts", kindsOfPart: "events_feed", allOfPart: "events_feed"} {
		// As it is planned when the values are not known.
		tx, err := s.Pool().Begin(ctx)
		require.NoError(t, err)
		_, err = tx.Exec(ctx, "set local plan_cache_mode = force_generic_plan")
		require.NoError(t, err)
		_, err = tx.Exec(ctx, "prepare part as "+query, pgx.QueryExecModeSimpleProtocol)
		require.NoError(t, err)
		rows, err := tx.Query(ctx, "explain (costs off) execute part (1::smallint, '0', '"+noChat+"', 0, '{ended}')", pgx.QueryExecModeSimpleProtocol)
		require.NoError(t, err)
		lines, err := pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		_, err = tx.Exec(ctx, "deallocate part")
		require.NoError(t, err)
		require.NoError(t, tx.Rollback(ctx))
		plan := strings.Join(lines, "\n")
		require.Contains(t, plan, index, plan)
		require.NotContains(t, plan, "Seq Scan on events", plan)
	}
}
