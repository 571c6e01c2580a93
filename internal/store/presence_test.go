package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/store"
)

// Somebody is lost when their last connection ends, not before; and when their
// server dies, another one notices.
func TestWhoIsConnectedToWhichServer(t *testing.T) {
	ctx := context.Background()
	r := newRoom(t)
	maren := chat.Operator(r.maren)
	one, two := uuid.NewString(), uuid.NewString()
	require.NoError(t, r.Beat(ctx, one, nil))
	require.NoError(t, r.Beat(ctx, two, nil))
	here := func() bool {
		t.Helper()
		all, err := r.HereNow(ctx)
		require.NoError(t, err)
		return all[r.maren]
	}

	require.NoError(t, r.Connect(ctx, one, "tab 1", maren))
	require.NoError(t, r.Connect(ctx, two, "tab 2", maren))
	require.True(t, here())
	require.NoError(t, r.Disconnect(ctx, "tab 1", maren, noon))
	require.True(t, here(), "the other tab is on another server")
	at, err := r.Lost(ctx, maren)
	require.NoError(t, err)
	require.Nil(t, at)
	require.NoError(t, r.Disconnect(ctx, "tab 2", maren, noon))
	require.False(t, here())
	at, err = r.Lost(ctx, maren)
	require.NoError(t, err)
	require.Equal(t, noon, at.UTC())

	require.NoError(t, r.Connect(ctx, two, "tab 3", maren))
	at, err = r.Lost(ctx, maren)
	require.NoError(t, err)
	require.Nil(t, at, "back again")

	// Server two dies with a chat in her hands and a visitor in the queue.
	c := r.start(t, "Hello")
	a := appender(t, r.Store, nil)
	_, err = a.Append(ctx, take(c, r.maren))
	require.NoError(t, err)
	waits := r.start(t, "Anybody?")
	require.NoError(t, r.Connect(ctx, two, "panel", chat.Visitor(waits.VisitorID)))
	require.NoError(t, r.Connect(ctx, one, "other panel", chat.Visitor(c.VisitorID)))
	recount := func(at time.Time) bool {
		t.Helper()
		team, err := r.Recount(ctx, at)
		require.NoError(t, err)
		return team
	}
	gone := func(at time.Time) (owners, abandoned []string) {
		t.Helper()
		owners, err := r.GoneOwners(ctx, at.Add(-45*time.Second))
		require.NoError(t, err)
		abandoned, err = r.Abandoned(ctx, at)
		require.NoError(t, err)
		return owners, abandoned
	}
	require.False(t, recount(noon))
	require.NoError(t, r.DB.Exec("update nodes set seen_at = now() - interval '8 seconds' where id = ?", two).Error)
	require.False(t, here(), "a server that does not say so does not live")
	require.True(t, recount(noon))
	require.False(t, recount(noon.Add(time.Second)), "once")
	owners, abandoned := gone(noon.Add(44 * time.Second))
	require.Empty(t, owners)
	require.Empty(t, abandoned)
	owners, abandoned = gone(noon.Add(60 * time.Second))
	require.Equal(t, []string{r.maren}, owners)
	require.Equal(t, []string{waits.ID}, abandoned)

	// It was only asleep: its next beat brings back what it holds, and whoever is
	// there is not lost; when they leave for good, that is noticed like any time.
	require.NoError(t, r.Beat(ctx, two, map[string]chat.Party{"tab 3": maren}))
	require.True(t, here())
	require.True(t, recount(noon.Add(61*time.Second)))
	owners, _ = gone(noon.Add(200 * time.Second))
	require.Empty(t, owners)
	require.NoError(t, r.Disconnect(ctx, "tab 3", maren, noon.Add(300*time.Second)))
	owners, _ = gone(noon.Add(346 * time.Second))
	require.Equal(t, []string{r.maren}, owners)

	// A departure that could not be noted at the time is found all the same.
	require.NoError(t, r.DB.Exec("update operators set lost_at = null where id = ?", r.maren).Error)
	require.True(t, recount(noon.Add(400*time.Second)))
	owners, _ = gone(noon.Add(446 * time.Second))
	require.Equal(t, []string{r.maren}, owners)
}

// The queue is read as routing wants it: in order, with who is preferred, who
// let it pass and who answered last time.
func TestTheQueueAsRoutingReadsIt(t *testing.T) {
	ctx := context.Background()
	r := newRoom(t)
	departments, err := r.Departments(ctx)
	require.NoError(t, err)
	d := departments[0].ID
	a := appender(t, r.Store, nil)
	decide := func(c store.Chat, do func(chat.State) (chat.Event, error)) {
		t.Helper()
		_, err := a.Append(ctx, store.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			e, err := do(s)
			return []chat.Event{e}, err
		}})
		require.NoError(t, err)
	}
	var chats []store.Chat
	for i := range 3 {
		c := r.start(t, "Hello")
		chats = append(chats, c)
		decide(c, func(s chat.State) (chat.Event, error) {
			return s.Route(routing.Decision{Department: d, Priority: i / 2}, false, time.Now())
		})
	}
	decide(chats[0], func(s chat.State) (chat.Event, error) {
		return s.Offer(r.maren, time.Now().Add(time.Minute), nil, time.Now())
	})
	queue, err := r.Queue(ctx, 10*time.Minute)
	require.NoError(t, err)
	require.Len(t, queue, 3)
	require.Equal(t, []string{chats[2].ID, chats[0].ID, chats[1].ID}, []string{queue[0].Chat, queue[1].Chat, queue[2].Chat}, "priority, then arrival")
	require.Equal(t, r.maren, queue[1].OfferedTo)
	staff, err := r.Staff(ctx, time.Now())
	require.NoError(t, err)
	for _, s := range staff {
		require.Equal(t, s.ID == r.maren, s.Offered == 1)
		require.False(t, s.Available, "nobody is connected")
	}
	_, err = a.Append(ctx, take(chats[0], r.maren))
	require.NoError(t, err)
	queue, err = r.Queue(ctx, 10*time.Minute)
	require.NoError(t, err)
	require.Len(t, queue, 2)
}
