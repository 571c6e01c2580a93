package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
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
	lost := 0
	count := func(context.Context, pgx.Tx) error { lost++; return nil }
	here := func() bool {
		t.Helper()
		all, err := r.HereNow(ctx)
		require.NoError(t, err)
		return all[r.maren]
	}

	require.NoError(t, r.Connect(ctx, one, "tab 1", maren))
	require.NoError(t, r.Connect(ctx, two, "tab 2", maren))
	require.True(t, here())
	require.NoError(t, r.Disconnect(ctx, "tab 1", maren, noon, count))
	require.Zero(t, lost, "the other tab is on another server")
	require.True(t, here())
	at, err := r.Lost(ctx, maren)
	require.NoError(t, err)
	require.Nil(t, at)
	require.NoError(t, r.Disconnect(ctx, "tab 2", maren, noon, count))
	require.Equal(t, 1, lost)
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
	reap := func() (parties []chat.Party) {
		t.Helper()
		require.NoError(t, r.Reap(ctx, noon, func(_ context.Context, _ pgx.Tx, p chat.Party) error {
			parties = append(parties, p)
			return nil
		}))
		return parties
	}
	require.Empty(t, reap())
	require.NoError(t, r.DB.Exec("update nodes set seen_at = now() - interval '16 seconds' where id = ?", two).Error)
	require.False(t, here(), "a server that does not say so does not live")
	require.ElementsMatch(t, []chat.Party{maren, chat.Visitor(waits.VisitorID)}, reap())
	require.Empty(t, reap(), "once")

	// It was only asleep: its next beat brings back what it holds.
	require.NoError(t, r.Beat(ctx, two, map[string]chat.Party{"tab 3": maren}))
	require.True(t, here())
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
	queue, err := r.Queue(ctx)
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
	queue, err = r.Queue(ctx)
	require.NoError(t, err)
	require.Len(t, queue, 2)
}
