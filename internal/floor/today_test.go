package floor_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/floor"
	"stoop/internal/people/register"
)

// arrive stores a chat that began at a time and, unless takenAfter is zero, was
// taken so much later; ended makes it missed or answered.
func arrive(t *testing.T, r logtest.Room, at time.Time, takenAfter time.Duration, ended bool) {
	t.Helper()
	visitor := chat.Visitor(uuid.NewString())
	require.NoError(t, register.On(r.Store).EnsureVisitor(context.Background(), register.Visitor{ID: visitor.ID, WidgetID: r.Widget}))
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
		add(state.Take(chat.Operator(r.Maren), at.Add(takenAfter)))
	}
	if ended {
		add(state.End(visitor, chat.WrapUp{}, at.Add(takenAfter+time.Minute)))
	}
	_, _, err = chatlog.On(r.Store).Start(context.Background(), chatlog.Chat{ID: uuid.NewString(), WidgetID: r.Widget, VisitorID: visitor.ID, StartClientID: "1"}, log)
	require.NoError(t, err)
}

// The strip says "taken within 1:00 today 2 of 5". Common practice in the
// trade: who gave up counts against the target, who has not waited long enough
// to tell does not count yet.
func TestTakenInTargetToday(t *testing.T) {
	r := logtest.New(t)
	midnight := noon.Add(-12 * time.Hour)
	arrive(t, r, midnight.Add(-time.Second), 5*time.Second, true) // yesterday's
	arrive(t, r, midnight, 5*time.Second, true)                   // the first of today, in target
	arrive(t, r, noon.Add(-time.Hour), time.Minute, false)        // exactly on target
	arrive(t, r, noon.Add(-time.Hour), 61*time.Second, true)      // too late
	arrive(t, r, noon.Add(-time.Hour), 0, true)                   // missed
	arrive(t, r, noon.Add(-2*time.Minute), 0, false)              // still waiting, beyond the target
	arrive(t, r, noon.Add(-20*time.Second), 0, false)             // still waiting, in time so far
	today, err := floor.On(r.Store).Today(context.Background(), midnight, noon, map[string]int{r.Widget: 60})
	require.NoError(t, err)
	require.Equal(t, map[string]floor.Within{r.Widget: {Within: 2, Decided: 5}}, today)
}
