package floor_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/push"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/floor"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

var noon = time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)

// Somebody is lost when their last connection ends, not before; and when their
// server dies, another one notices.
func TestWhoIsConnectedToWhichServer(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	maren := chat.Operator(r.Maren)
	one, two := uuid.NewString(), uuid.NewString()
	require.NoError(t, floor.On(r.Store).Beat(ctx, one, nil))
	require.NoError(t, floor.On(r.Store).Beat(ctx, two, nil))
	here := func() bool {
		t.Helper()
		all, err := floor.On(r.Store).Standings(ctx, noon)
		require.NoError(t, err)
		return all[r.Maren].Here
	}

	require.NoError(t, floor.On(r.Store).Connect(ctx, one, "tab 1", maren))
	require.NoError(t, floor.On(r.Store).Connect(ctx, two, "tab 2", maren))
	require.True(t, here())
	require.NoError(t, floor.On(r.Store).Disconnect(ctx, "tab 1", maren, noon))
	require.True(t, here(), "the other tab is on another server")
	at, err := floor.On(r.Store).Lost(ctx, maren)
	require.NoError(t, err)
	require.Nil(t, at)
	require.NoError(t, floor.On(r.Store).Disconnect(ctx, "tab 2", maren, noon))
	require.False(t, here())
	at, err = floor.On(r.Store).Lost(ctx, maren)
	require.NoError(t, err)
	require.Equal(t, noon, at.UTC())

	require.NoError(t, floor.On(r.Store).Connect(ctx, two, "tab 3", maren))
	at, err = floor.On(r.Store).Lost(ctx, maren)
	require.NoError(t, err)
	require.Nil(t, at, "back again")

	// Server two dies with a chat in her hands and a visitor in the queue.
	c := r.Start(t, "Hello")
	a := logtest.Log(t, r.Store, nil)
	_, err = a.Append(ctx, logtest.Take(c, r.Maren))
	require.NoError(t, err)
	waits := r.Start(t, "Anybody?")
	require.NoError(t, floor.On(r.Store).Connect(ctx, two, "panel", chat.Visitor(waits.VisitorID)))
	require.NoError(t, floor.On(r.Store).Connect(ctx, one, "other panel", chat.Visitor(c.VisitorID)))
	recount := func(at time.Time) bool {
		t.Helper()
		team, _, err := floor.On(r.Store).Recount(ctx, at)
		require.NoError(t, err)
		return team
	}
	gone := func(at time.Time) (owners, abandoned []string) {
		t.Helper()
		owners, err := floor.On(r.Store).GoneOwners(ctx, at.Add(-45*time.Second), at.Add(-push.Grace))
		require.NoError(t, err)
		abandoned, err = floor.On(r.Store).Abandoned(ctx, at, map[string]int{r.Widget: 60})
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
	require.Equal(t, []string{r.Maren}, owners)
	require.Equal(t, []string{waits.ID}, abandoned)

	// It was only asleep: its next beat brings back what it holds, and whoever is
	// there is not lost; when they leave for good, that is noticed like any time.
	require.NoError(t, floor.On(r.Store).Beat(ctx, two, map[string]chat.Party{"tab 3": maren}))
	require.True(t, here())
	require.True(t, recount(noon.Add(61*time.Second)))
	owners, _ = gone(noon.Add(200 * time.Second))
	require.Empty(t, owners)
	require.NoError(t, floor.On(r.Store).Disconnect(ctx, "tab 3", maren, noon.Add(300*time.Second)))
	owners, _ = gone(noon.Add(346 * time.Second))
	require.Equal(t, []string{r.Maren}, owners)
	moved, err := floor.On(r.Store).SetReachable(ctx, []string{r.Maren})
	require.NoError(t, err)
	require.True(t, moved)
	owners, _ = gone(noon.Add(479 * time.Second))
	require.Empty(t, owners, "she can be told to come back")
	owners, _ = gone(noon.Add(480 * time.Second))
	require.Equal(t, []string{r.Maren}, owners)
	for _, want := range []bool{true, false} {
		moved, err = floor.On(r.Store).SetReachable(ctx, nil)
		require.NoError(t, err)
		require.Equal(t, want, moved)
	}

	// A departure that could not be noted at the time is found all the same.
	require.NoError(t, r.DB.Exec("delete from absences where party_id = ?", r.Maren).Error)
	require.True(t, recount(noon.Add(400*time.Second)))
	owners, _ = gone(noon.Add(446 * time.Second))
	require.Equal(t, []string{r.Maren}, owners)
}

// The queue is read as routing wants it: in order, with who is preferred, who
// let it pass and who answered last time.
func TestTheQueueAsRoutingReadsIt(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	departments, err := settings.On(r.Store).Departments(ctx)
	require.NoError(t, err)
	d := departments[0].ID
	a := logtest.Log(t, r.Store, nil)
	decide := func(c chatlog.Chat, do func(chat.State) (chat.Event, error)) {
		t.Helper()
		_, err := a.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			e, err := do(s)
			return []chat.Event{e}, err
		}})
		require.NoError(t, err)
	}
	var chats []chatlog.Chat
	for i := range 3 {
		c := r.Start(t, "Hello")
		chats = append(chats, c)
		decide(c, func(s chat.State) (chat.Event, error) {
			return s.Route(routing.Decision{Department: d, Priority: i / 2}, false, time.Now())
		})
	}
	decide(chats[0], func(s chat.State) (chat.Event, error) {
		return s.Offer(r.Maren, time.Now().Add(time.Minute), nil, time.Now())
	})
	queue, err := floor.On(r.Store).Queue(ctx, 10*time.Minute)
	require.NoError(t, err)
	require.Len(t, queue, 3)
	require.Equal(t, []string{chats[2].ID, chats[0].ID, chats[1].ID}, []string{queue[0].Chat, queue[1].Chat, queue[2].Chat}, "priority, then arrival")
	require.Equal(t, r.Maren, queue[1].OfferedTo)
	staff, err := floor.On(r.Store).Standings(ctx, time.Now())
	require.NoError(t, err)
	require.Equal(t, map[string]view.Standing{r.Maren: {Offered: 1}}, staff, "nobody is connected, and she has it on offer")
	_, err = a.Append(ctx, logtest.Take(chats[0], r.Maren))
	require.NoError(t, err)
	queue, err = floor.On(r.Store).Queue(ctx, 10*time.Minute)
	require.NoError(t, err)
	require.Len(t, queue, 2)
}
