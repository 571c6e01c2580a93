package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/store"
)

var noon = time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)

// arrive stores a chat that began at a time and, unless takenAfter is zero, was
// taken so much later; ended makes it missed or answered.
func (r room) arrive(t *testing.T, at time.Time, takenAfter time.Duration, ended bool) {
	t.Helper()
	visitor := chat.Visitor(uuid.NewString())
	require.NoError(t, r.EnsureVisitor(context.Background(), store.Visitor{ID: visitor.ID, WidgetID: r.widget}))
	log, err := chat.Start(visitor, "1", chat.Intro{}, "Hello", 100, at)
	require.NoError(t, err)
	state, err := chat.Fold(log)
	require.NoError(t, err)
	add := func(events []chat.Event, err error) {
		require.NoError(t, err)
		for _, e := range events {
			state, err = state.Apply(e)
			require.NoError(t, err)
			log = append(log, e)
		}
	}
	if takenAfter > 0 {
		add(state.Take(chat.Operator(r.maren), at.Add(takenAfter)))
	}
	if ended {
		add(state.End(visitor, chat.WrapUp{}, at.Add(takenAfter+time.Minute)))
	}
	_, _, err = r.Start(context.Background(), store.Chat{ID: uuid.NewString(), WidgetID: r.widget, VisitorID: visitor.ID, StartClientID: "1"}, log)
	require.NoError(t, err)
}

// The strip says "taken within 1:00 today 2 of 5". Common practice in the
// trade: who gave up counts against the target, who has not waited long enough
// to tell does not count yet.
func TestTakenInTargetToday(t *testing.T) {
	r := newRoom(t)
	midnight := noon.Add(-12 * time.Hour)
	r.arrive(t, midnight.Add(-time.Second), 5*time.Second, true) // yesterday's
	r.arrive(t, midnight, 5*time.Second, true)                   // the first of today, in target
	r.arrive(t, noon.Add(-time.Hour), time.Minute, false)        // exactly on target
	r.arrive(t, noon.Add(-time.Hour), 61*time.Second, true)      // too late
	r.arrive(t, noon.Add(-time.Hour), 0, true)                   // missed
	r.arrive(t, noon.Add(-2*time.Minute), 0, false)              // still waiting, beyond the target
	r.arrive(t, noon.Add(-20*time.Second), 0, false)             // still waiting, in time so far
	within, decided, err := r.Today(context.Background(), midnight, noon)
	require.NoError(t, err)
	require.EqualValues(t, 2, within)
	require.EqualValues(t, 5, decided)
}

func TestWhoIsOnTheSite(t *testing.T) {
	r := newRoom(t)
	ctx := context.Background()
	pulse := func(id, url, title string, at time.Time) (store.Visit, bool) {
		v, moved, err := r.Pulse(ctx, store.Visit{ID: id, WidgetID: r.widget, PageURL: url, PageTitle: title, SeenAt: at})
		require.NoError(t, err)
		return v, moved
	}
	on := func(at time.Time) int64 {
		n, err := r.OnSite(ctx, at)
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

	require.NoError(t, r.Leave(ctx, wren, r.widget, noon.Add(70*time.Second)))
	require.Zero(t, on(noon.Add(71*time.Second)))
	pulse(wren, "/book", "Book", noon.Add(80*time.Second))
	require.EqualValues(t, 1, on(noon.Add(81*time.Second)), "and back when they return")

	_, moved, err := r.Pulse(ctx, store.Visit{ID: wren, WidgetID: uuid.NewString(), PageURL: "/evil", SeenAt: noon.Add(90 * time.Second)})
	require.NoError(t, err)
	require.False(t, moved, "another widget's page must not move this visit")
	v, _ = pulse(wren, "/book", "Book", noon.Add(95*time.Second))
	require.True(t, v.PageSince.Equal(noon.Add(50*time.Second)))
	require.ErrorIs(t, r.Leave(ctx, "no-uuid", r.widget, noon), store.ErrNotFound)
}
