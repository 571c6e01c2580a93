package visits_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/visit"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/people/register"
	"stoop/internal/site/visits"
)

// Two servers store the same visit, each with a part that the other knows better: the
// database holds the better of each, and whoever knew less is told.
func TestTheBetterOfEachPartIsStored(t *testing.T) {
	r := logtest.New(t)
	ctx := t.Context()
	tables := visits.On(r.Store)
	here, there := uuid.NewString(), uuid.NewString()
	noon := time.Date(2026, time.June, 3, 12, 0, 0, 0, time.UTC)
	at := func(seconds int) time.Time { return noon.Add(time.Duration(seconds) * time.Second) }
	v := visits.Visit{ID: uuid.NewString(), WidgetID: r.Widget, VisitorID: uuid.NewString(), PageURL: "/", PageSince: noon, StartedAt: noon, SeenAt: noon, Stay: visit.Stay{ID: "s"}}
	require.NoError(t, register.On(r.Store).EnsureVisitorOf(ctx, v.VisitorID, r.Widget, noon))
	put := func(node string, v visits.Visit) []visits.Visit {
		t.Helper()
		better, err := tables.Put(ctx, node, []visits.Visit{v})
		require.NoError(t, err)
		return better
	}
	require.Empty(t, put(here, v))

	// There a basket and data are said; here she goes on meanwhile, and is seen last.
	told := v
	told.Basket, told.Data = &visits.Basket{Cents: 10}, visits.Data{Claimed: map[string]string{"tier": "gold"}}
	told.Told.Basket, told.Told.Data = told.Told.Basket.Next(at(1)), told.Told.Data.Next(at(1))
	require.Empty(t, put(there, told))
	seen := v
	seen.PageURL, seen.SeenAt = "/book", at(5)
	better := put(here, seen)
	require.Len(t, better, 1, "here nothing is known of the basket")
	require.EqualValues(t, 10, better[0].Basket.Cents)
	require.Equal(t, "gold", better[0].Data.Claimed["tier"])
	require.Equal(t, "/book", better[0].PageURL)
	require.Equal(t, told.Told.Basket, better[0].Told.Basket)

	// What is stale changes nothing, and its sender is told better.
	stale := told
	stale.Basket = nil
	stale.Told.Basket = visits.Moment{Time: noon}
	better = put(there, stale)
	require.Len(t, better, 1)
	require.NotNil(t, better[0].Basket)
	require.Equal(t, "/book", better[0].PageURL)

	// A basket that was emptied since is none.
	last := better[0]
	last.Basket, last.Told.Basket = nil, last.Told.Basket.Next(noon)
	require.Empty(t, put(there, last))
	known, err := tables.KnownOf(ctx, v.VisitorID)
	require.NoError(t, err)
	require.Nil(t, known.Latest.Basket)
	require.Equal(t, "gold", known.Latest.Data.Claimed["tier"])
	require.Equal(t, last.Told, known.Latest.Told)

	// Somebody else's visit is not overwritten under its id.
	other := last
	other.VisitorID, other.PageURL, other.SeenAt = uuid.NewString(), "/forged", at(60)
	require.NoError(t, register.On(r.Store).EnsureVisitorOf(ctx, other.VisitorID, r.Widget, noon))
	require.Empty(t, put(there, other))
	known, err = tables.KnownOf(ctx, v.VisitorID)
	require.NoError(t, err)
	require.Equal(t, "/book", known.Latest.PageURL)
}
