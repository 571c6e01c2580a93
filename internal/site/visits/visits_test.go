package visits_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/chatlog/logtest"
	"stoop/internal/site/visits"
	"stoop/internal/store"
)

var noon = time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)

func TestWhoIsOnTheSite(t *testing.T) {
	r := logtest.New(t)
	ctx := context.Background()
	pulse := func(id, url, title string, at time.Time) (visits.Visit, bool) {
		v, moved, err := visits.On(r.Store).Pulse(ctx, visits.Visit{ID: id, WidgetID: r.Widget, PageURL: url, PageTitle: title, SeenAt: at})
		require.NoError(t, err)
		return v, moved
	}
	on := func(at time.Time) int64 {
		n, err := visits.On(r.Store).OnSite(ctx, at)
		require.NoError(t, err)
		return n
	}
	wren, oskar := uuid.NewString(), uuid.NewString()
	_, moved := pulse(wren, "/fares", "Fares", noon)
	require.True(t, moved)
	pulse(oskar, "/help", "Help", noon)
	require.EqualValues(t, 2, on(noon.Add(time.Second)))

	v, moved := pulse(wren, "/fares", "Fares", noon.Add(25*time.Second))
	require.False(t, moved)
	require.True(t, v.PageSince.Equal(noon), "the time on a page goes on while it is open")
	v, moved = pulse(wren, "/book", "Book", noon.Add(50*time.Second))
	require.True(t, moved)
	require.True(t, v.PageSince.Equal(noon.Add(50*time.Second)))
	require.EqualValues(t, 1, on(noon.Add(61*time.Second)), "a browser that fell silent is gone after a minute")

	require.NoError(t, visits.On(r.Store).Leave(ctx, wren, r.Widget, noon.Add(70*time.Second)))
	require.Zero(t, on(noon.Add(71*time.Second)))
	pulse(wren, "/book", "Book", noon.Add(80*time.Second))
	require.EqualValues(t, 1, on(noon.Add(81*time.Second)), "and back when they return")

	_, moved, err := visits.On(r.Store).Pulse(ctx, visits.Visit{ID: wren, WidgetID: uuid.NewString(), PageURL: "/evil", SeenAt: noon.Add(90 * time.Second)})
	require.NoError(t, err)
	require.False(t, moved, "another widget's page must not move this visit")
	v, _ = pulse(wren, "/book", "Book", noon.Add(95*time.Second))
	require.True(t, v.PageSince.Equal(noon.Add(50*time.Second)))
	require.ErrorIs(t, visits.On(r.Store).Leave(ctx, "no-uuid", r.Widget, noon), store.ErrNotFound)
}
