package demo_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// One that is cut off goes on where it was, and one that is there is left alone.
func TestThePastIsLoadedOnce(t *testing.T) {
	s := testpg.Open(t)
	now := time.Date(2026, time.November, 28, 10, 0, 0, 0, time.UTC)
	require.NoError(t, demo.Seed(t.Context(), s, []string{"http://localhost:8090"}, now))
	const chats = 3000
	ctx, kill := context.WithCancel(t.Context())
	err := demo.SeedPast(ctx, s, "http://localhost:8090", chats, now, func(facts.Loading) { kill() })
	require.ErrorIs(t, err, context.Canceled)
	var last facts.Loading
	tomorrow := now.AddDate(0, 0, 1)
	require.NoError(t, demo.SeedPast(t.Context(), s, "http://localhost:8090", chats, tomorrow, func(l facts.Loading) { last = l }))
	require.Equal(t, facts.Loading{Done: chats, Total: chats}, last)
	require.NoError(t, demo.SeedPast(t.Context(), s, "http://localhost:8090", chats, tomorrow, func(facts.Loading) { t.Error("it is there") }))

	count := func(query string) (n int64) {
		require.NoError(t, s.Pool().QueryRow(t.Context(), query).Scan(&n))
		return n
	}
	require.EqualValues(t, chats, count("select count(*) from fact_chats"))
	require.EqualValues(t, chats, count("select count(*) from chats where start_client_id = 'past'"))
	require.EqualValues(t, chats, count("select count(*) from chat_search s join fact_chats f using (chat_id)"))
	require.Zero(t, count("select count(*) from events where generation = 0 and kind = 'said' and text ~ '[{}|]'"), "every name in braces is filled in")
	require.Greater(t, count("select count(distinct text) from events where generation = 0 and kind = 'said'"), int64(chats), "words vary")
	// The shape that reports are to show: more in summer than in winter, waits that end.
	require.Greater(t, count("select count(*) from fact_chats where extract(month from arrived_at) = 7"), count("select count(*) from fact_chats where extract(month from arrived_at) = 1"))
	for _, some := range []string{"ending = 'missed'", "ending = 'message'", "rating <= 2", "rating = 5", "hand_ons > 0", "sale_cents > 0", "invited <> ''", "wait_s > target_s", "'weather' = any(tags)"} {
		require.Greater(t, count("select count(*) from fact_chats where "+some), int64(3), some)
	}
}

// The same seed gives the same past.
func TestThePastIsTheSame(t *testing.T) {
	var facts [2]string
	for i := range facts {
		s := testpg.Open(t)
		facts[i] = shape(t, s)
	}
	require.Equal(t, facts[0], facts[1])
}

func shape(t *testing.T, s *store.Store) (hash string) {
	now := time.Date(2026, time.November, 28, 10, 0, 0, 0, time.UTC)
	require.NoError(t, demo.Seed(t.Context(), s, []string{"http://localhost:8090"}, now))
	require.NoError(t, demo.SeedPast(t.Context(), s, "http://localhost:8090", 300, now, func(facts.Loading) {}))
	require.NoError(t, s.Pool().QueryRow(t.Context(), `select md5(string_agg(chat_id::text || at::text || kind || text, '' order by chat_id, number)) from events where generation = 0`).Scan(&hash))
	return hash
}
