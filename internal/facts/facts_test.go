package facts_test

import (
	"context"
	"fmt"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

var quiet = slog.New(slog.DiscardHandler)

// bytes is all that the facts say, as text.
func bytes(t *testing.T, s *store.Store) map[string]string {
	t.Helper()
	all := map[string]string{}
	for table, key := range map[string]string{"fact_chats": "chat_id", "fact_operators": "chat_id, operator_id", "fact_quarters": "department_id, at", "fact_busy": "operator_id, at", "fact_hours": "at, department_id, widget_id"} {
		var text string
		require.NoError(t, s.Pool().QueryRow(t.Context(), fmt.Sprintf("select coalesce(string_agg(t::text, E'\\n' order by %s), '') from %s t", key, table)).Scan(&text))
		require.NotEmpty(t, text, table)
		all[table] = text
	}
	return all
}

// past is a database with some hundred chats of which the facts followed in bulk.
func past(t *testing.T) (*store.Store, *settings.Cache) {
	t.Helper()
	s := testpg.Open(t)
	now := time.Now()
	require.NoError(t, demo.Seed(t.Context(), s, []string{"http://localhost:8090"}, now))
	require.NoError(t, demo.SeedPast(t.Context(), s, "http://localhost:8090", 400, now, func(facts.Loading) {}))
	return s, &settings.Cache{Tables: settings.On(s)}
}

// follow lets the facts follow until they have come to the end.
func follow(t *testing.T, s *store.Store, cache *settings.Cache) {
	t.Helper()
	require.Eventually(t, func() bool { // other tests' transactions hold the feed up for a moment
		_, err := chatlog.On(s).Step(t.Context(), facts.Follower(cache, quiet))
		require.NoError(t, err)
		var missing int
		require.NoError(t, s.Pool().QueryRow(t.Context(), "select count(*) from chats c where phase = 'ended' and not exists (select from fact_chats f where f.chat_id = c.id and (f.rating is not null) = (c.rating is not null))").Scan(&missing))
		return missing == 0
	}, 30*time.Second, 10*time.Millisecond)
}

// Facts that followed one by one, those that came in bulk and those that are rebuilt are
// the same, to the byte; also when who rebuilds them is killed and begins again.
func TestFactsAreTheSameHoweverTheyCome(t *testing.T) {
	s, cache := past(t)
	all, err := cache.Get(t.Context())
	require.NoError(t, err)
	follow(t, s, cache) // the few that the demo began with
	bulk := bytes(t, s)
	tables := facts.On(s)

	killed, kill := context.WithCancel(t.Context())
	err = tables.Rebuild(killed, all, quiet, func(_, _ int64) { kill() })
	require.Error(t, err)
	same(t, bulk, bytes(t, s))
	require.NoError(t, tables.Rebuild(t.Context(), all, quiet, func(_, _ int64) {}))
	same(t, bulk, bytes(t, s))

	// From nothing, as the feed brings them.
	_, err = s.Pool().Exec(t.Context(), "delete from followers where name = $1", facts.FollowerName)
	require.NoError(t, err)
	for _, table := range []string{"fact_chats", "fact_operators", "fact_quarters", "fact_busy", "fact_hours"} {
		_, err := s.Pool().Exec(t.Context(), "truncate "+table)
		require.NoError(t, err)
	}
	follow(t, s, cache)
	same(t, bulk, bytes(t, s))
}

// same fails with the first line that differs.
func same(t *testing.T, want, got map[string]string) {
	t.Helper()
	for table := range want {
		before, after := strings.Split(want[table], "\n"), strings.Split(got[table], "\n")
		for i := range min(len(before), len(after)) {
			require.Equal(t, before[i], after[i], table)
		}
		require.Len(t, after, len(before), table)
	}
}

// What is said of a chat after its end changes its facts: a rating, tags, a sale.
func TestFactsFollowWhatComesAfterTheEnd(t *testing.T) {
	r := logtest.New(t)
	log := logtest.Log(t, r.Store, nil)
	cache := &settings.Cache{Tables: settings.On(r.Store)}
	c := r.Start(t, "Is there room for a minibus?")
	act := func(decide func(chat.State) ([]chat.Event, error)) {
		t.Helper()
		_, err := log.Append(t.Context(), chatlog.Act{ChatID: c.ID, Decide: decide})
		require.NoError(t, err)
	}
	_, err := log.Append(t.Context(), logtest.Take(c, r.Idris))
	require.NoError(t, err)
	_, err = log.Append(t.Context(), logtest.Say(c, chat.Operator(r.Idris), "2", "There is"))
	require.NoError(t, err)
	visitor, idris := chat.Visitor(c.VisitorID), chat.Operator(r.Idris)
	act(func(s chat.State) ([]chat.Event, error) { return s.End(visitor, chat.WrapUp{Survey: true}, time.Now()) })
	follow(t, r.Store, cache)
	act(func(s chat.State) ([]chat.Event, error) { return s.Rate(visitor, 4, "Quick", time.Now()) })
	act(func(s chat.State) ([]chat.Event, error) { return s.Tag(idris, "minibus", time.Now()) })
	act(func(s chat.State) ([]chat.Event, error) {
		return s.Conclude(idris, "Sold", &chat.Money{Cents: 4600, Currency: "EUR"}, time.Now())
	})
	read := func() (rating *int, tags []string, outcome string, cents *int64) {
		require.NoError(t, r.Pool().QueryRow(t.Context(), "select rating, tags, outcome, sale_cents from fact_chats where chat_id = $1", c.ID).Scan(&rating, &tags, &outcome, &cents))
		return
	}
	require.Eventually(t, func() bool {
		_, err := chatlog.On(r.Store).Step(t.Context(), facts.Follower(cache, quiet))
		require.NoError(t, err)
		rating, tags, outcome, cents := read()
		return rating != nil && *rating == 4 && len(tags) == 1 && outcome == "Sold" && cents != nil && *cents == 4600
	}, 30*time.Second, 10*time.Millisecond)
}

// A message that somebody holds for a week keeps nobody busy, and a live chat that is held
// as long counts for a day.
func TestWhatIsHeldForDaysKeepsNobodyBusy(t *testing.T) {
	r := logtest.New(t)
	cache := &settings.Cache{Tables: settings.On(r.Store)}
	begin := time.Now().UTC().Add(-10 * 24 * time.Hour).Truncate(time.Second)
	idris := chat.Operator(r.Idris)
	hold := func(message bool) {
		visitor := uuid.NewString()
		require.NoError(t, register.On(r.Store).EnsureVisitor(t.Context(), register.Visitor{ID: visitor, WidgetID: r.Widget}))
		log, err := chat.Start(chat.Visitor(visitor), "1", chat.Intro{Message: message}, "Hello?", 1000, begin)
		require.NoError(t, err)
		state, err := chat.Fold(log)
		require.NoError(t, err)
		for _, act := range []func() ([]chat.Event, error){
			func() ([]chat.Event, error) { return state.Take(idris, begin.Add(time.Hour)) },
			func() ([]chat.Event, error) {
				e, err := state.Say(idris, "2", "Hello.", 1000, begin.Add(2*time.Hour))
				return []chat.Event{e}, err
			},
			func() ([]chat.Event, error) { return state.End(idris, chat.WrapUp{}, begin.Add(7*24*time.Hour)) },
		} {
			events, err := act()
			require.NoError(t, err)
			for _, e := range events {
				state, err = state.Apply(e)
				require.NoError(t, err)
				log = append(log, e)
			}
		}
		_, _, err = chatlog.On(r.Store).Start(t.Context(), chatlog.Chat{ID: uuid.NewString(), WidgetID: r.Widget, VisitorID: visitor, StartClientID: "1"}, log)
		require.NoError(t, err)
	}
	busy := func() (seconds int64) {
		require.NoError(t, r.Pool().QueryRow(t.Context(), "select coalesce(sum(busy_s), 0) from fact_busy where operator_id = $1", r.Idris).Scan(&seconds))
		return seconds
	}
	hold(true)
	follow(t, r.Store, cache)
	require.Zero(t, busy())
	hold(false)
	follow(t, r.Store, cache)
	require.EqualValues(t, 24*3600, busy())
}

// Days are those of the clock: where it is put forward or back they have 23 or 25
// hours, and where it jumps over midnight they begin after the jump. Dates of changes
// from memory of the IANA time zone database; those of
// Copenhagen are directive 2000/84/EC's: the last Sundays of March and October.
func TestDaysOnWhichClocksChange(t *testing.T) {
	for _, c := range []struct {
		zone, day string
		hours     float64
	}{
		{"Europe/Copenhagen", "2026-03-29", 23},
		{"Europe/Copenhagen", "2026-10-25", 25},
		{"Europe/Copenhagen", "2026-11-28", 24},
		{"America/Santiago", "2026-09-06", 23}, // from 24:00 to 1:00
		{"Africa/Cairo", "2026-04-24", 23},     // the same
		{"Australia/Lord_Howe", "2026-04-05", 24.5},
		{"UTC", "2026-03-29", 24},
	} {
		zone, err := time.LoadLocation(c.zone)
		require.NoError(t, err)
		from, to, err := facts.Days(c.day, c.day, zone)
		require.NoError(t, err)
		require.InDelta(t, c.hours, to.Sub(from).Hours(), 1e-9, "%s in %s", c.day, c.zone)
		require.Equal(t, c.day, from.In(zone).Format(time.DateOnly))
		require.Equal(t, c.day, to.Add(-time.Second).In(zone).Format(time.DateOnly))
	}
	_, _, err := facts.Days("2026-02-30", "", time.UTC)
	require.ErrorContains(t, err, "not a date")
}
