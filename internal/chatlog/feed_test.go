package chatlog_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// A transaction that began early and commits late is not passed over: what came
// in between waits for it, and then all of it is found, each once.
func TestTheFeedWaitsForWhoeverBeganEarlier(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	log := logtest.Log(t, r.Store, nil)
	slow, quick := r.Start(t, "slow"), r.Start(t, "quick")
	begun, end := make(chan struct{}), make(chan struct{})
	commits := sync.OnceFunc(func() { close(end) })
	t.Cleanup(commits)
	act := logtest.Say(slow, chat.Visitor(slow.VisitorID), "s", "late")
	act.Also = func(context.Context, pgx.Tx, chatlog.Chat, []chat.Event) error {
		close(begun)
		<-end
		return nil
	}
	at := chatlog.Position{}
	read := func() (texts []string) {
		t.Helper()
		entries, err := log.Read(ctx, at)
		require.NoError(t, err)
		for _, e := range entries {
			if e.Text != "" {
				texts = append(texts, e.Text)
			}
			at = e.At
		}
		return texts
	}
	found := func(want ...string) {
		t.Helper()
		var got []string
		require.Eventually(t, func() bool { // other tests' transactions hold the feed up for a moment
			got = append(got, read()...)
			return len(got) >= len(want)
		}, 20*time.Second, 5*time.Millisecond)
		require.ElementsMatch(t, want, got)
	}
	found("slow", "quick")
	done := make(chan error, 1)
	go func() {
		_, err := log.Append(ctx, act)
		done <- err
	}()
	<-begun
	for i := range 3 {
		_, err := log.Append(ctx, logtest.Say(quick, chat.Visitor(quick.VisitorID), fmt.Sprint(i), fmt.Sprint("early ", i)))
		require.NoError(t, err)
	}
	require.Empty(t, read(), "what is committed has a higher number than what is under way")
	// Who waits for a follower waits for that, too: a chat that has just ended is not found yet.
	follower := chatlog.Follower{Name: "ends", Kinds: []chat.Kind{chat.Ended}, Do: func(context.Context, pgx.Tx, []chatlog.Entry) error { return nil }}
	follows := func() {
		t.Helper()
		for again := true; again; {
			var err error
			again, err = chatlog.On(r.Store).Step(ctx, follower)
			require.NoError(t, err)
		}
	}
	lags := func() bool {
		t.Helper()
		yes, err := chatlog.On(r.Store).Lags(ctx, "ends", follower.Kinds)
		require.NoError(t, err)
		return yes
	}
	follows()
	require.False(t, lags(), "words are not what it follows")
	_, err := log.Append(ctx, chatlog.Act{ChatID: quick.ID, By: chat.Visitor(quick.VisitorID), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.End(chat.Visitor(quick.VisitorID), chat.WrapUp{}, time.Now())
	}})
	require.NoError(t, err)
	follows()
	require.True(t, lags())
	commits()
	require.NoError(t, <-done)
	require.Eventually(t, func() bool { follows(); return !lags() }, 20*time.Second, 5*time.Millisecond)
	found("late", "early 0", "early 1", "early 2")
	require.Empty(t, read())
}

// While several servers append, a follower that fails now and then, is cut off
// now and then and runs on two servers at once does its work for each event once
// and in the order of each chat.
func TestAFollowerMissesAndDoublesNothing(t *testing.T) {
	ctx := t.Context()
	r := logtest.New(t)
	require.NoError(t, r.DB.Exec("create table followed (position bigserial primary key, chat_id uuid, number bigint, unique (chat_id, number))").Error)
	var chats []chatlog.Chat
	for range 6 {
		chats = append(chats, r.Start(t, "Hello"))
	}
	follower := chatlog.Follower{Name: "test", Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
		for _, e := range entries {
			if _, err := tx.Exec(ctx, "insert into followed (chat_id, number) values ($1, $2)", e.ChatID, e.Number); err != nil {
				return err
			}
		}
		if rand.IntN(4) == 0 {
			return errors.New("a hiccup after the work and before it counts")
		}
		return nil
	}}
	const each = 60
	var writing sync.WaitGroup
	for _, c := range chats {
		log := logtest.Log(t, r.Store, nil)
		writing.Go(func() {
			for i := range each {
				_, err := log.Append(ctx, logtest.Say(c, chat.Visitor(c.VisitorID), fmt.Sprint(i), "words"))
				require.NoError(t, err)
			}
		})
	}
	stop := make(chan struct{})
	var following sync.WaitGroup
	for range 2 {
		following.Go(func() {
			for {
				patience := time.Duration(1+rand.IntN(30)) * time.Millisecond
				if rand.IntN(4) == 0 {
					patience = time.Minute // on a busy machine every shorter one would be cut off
				}
				cut, cancel := context.WithTimeout(ctx, patience)
				_, _ = chatlog.On(r.Store).Step(cut, follower) // what fails is done again
				cancel()
				select {
				case <-stop:
					return
				default:
				}
			}
		})
	}
	writing.Wait()
	total := int64(len(chats) * (each + 2))
	require.Eventually(t, func() bool {
		var n int64
		require.NoError(t, r.DB.Raw("select count(*) from followed").Scan(&n).Error)
		return n == total
	}, 30*time.Second, 10*time.Millisecond, "something was missed")
	close(stop)
	following.Wait()
	var outOfOrder int64
	require.NoError(t, r.DB.Raw("select count(*) from (select number, lag(number) over (partition by chat_id order by position) as before from followed) f where number <> coalesce(before, 0) + 1").Scan(&outOfOrder).Error)
	require.Zero(t, outOfOrder)
}

// A follower of some kinds passes over what is not for it, and not over what is still
// being stored.
func TestAFollowerOfSomeKindsPassesOverTheRest(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	log, on := logtest.Log(t, r.Store, nil), chatlog.On(r.Store)
	c := r.Start(t, "Hello")
	var found []string
	follower := chatlog.Follower{Name: "takes", Kinds: []chat.Kind{chat.Taken}, Do: func(_ context.Context, _ pgx.Tx, entries []chatlog.Entry) error {
		for _, e := range entries {
			found = append(found, fmt.Sprint(e.Kind, " ", e.Number))
		}
		return nil
	}}
	step := func() (xid int64) {
		t.Helper()
		_, err := on.Step(ctx, follower)
		require.NoError(t, err)
		require.NoError(t, r.DB.Raw("select xid::text::bigint from followers where name = 'takes'").Scan(&xid).Error)
		return xid
	}
	others := func() (last int64) {
		t.Helper()
		for range 300 {
			require.NoError(t, r.DB.Raw("select pg_current_xact_id()::text::bigint").Scan(&last).Error)
		}
		return last
	}
	last := others()
	require.Eventually(t, func() bool { return step() >= last-300 }, 20*time.Second, 5*time.Millisecond)
	require.Empty(t, found)

	act := logtest.Take(c, r.Maren)
	begun, end := make(chan struct{}), make(chan struct{})
	act.Also = func(context.Context, pgx.Tx, chatlog.Chat, []chat.Event) error {
		close(begun)
		<-end
		return nil
	}
	done := make(chan error, 1)
	go func() {
		_, err := log.Append(ctx, act)
		done <- err
	}()
	<-begun
	last = others()
	require.Less(t, step(), last-300, "it stays before what is under way")
	close(end)
	require.NoError(t, <-done)
	require.Eventually(t, func() bool { return step() >= last-300 && len(found) > 0 }, 20*time.Second, 5*time.Millisecond)
	step()
	require.Equal(t, []string{"taken 3"}, found)
}

// A copy of the database that is restored where transactions have lower numbers
// begins a generation: followers go on behind what they have.
func TestTheFeedGoesOnAfterARestore(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	c := r.Start(t, "before")
	on := chatlog.On(r.Store)
	require.NoError(t, on.BeginFeed(ctx))
	// As if it had been written by a cluster that has lived longer.
	require.NoError(t, r.DB.Exec("update events set xid = '900000000000'").Error)
	require.NoError(t, on.BeginFeed(ctx))
	require.NoError(t, on.BeginFeed(ctx), "once")
	log := logtest.Log(t, r.Store, nil)
	_, err := log.Append(ctx, logtest.Say(c, chat.Visitor(c.VisitorID), uuid.NewString(), "after"))
	require.NoError(t, err)
	var entries []chatlog.Entry
	require.Eventually(t, func() bool {
		entries, err = log.Read(ctx, chatlog.Position{})
		require.NoError(t, err)
		return len(entries) == 3
	}, 20*time.Second, 5*time.Millisecond)
	require.Equal(t, "before", entries[1].Text)
	require.Equal(t, "after", entries[2].Text)
	require.EqualValues(t, 2, entries[len(entries)-1].At.Generation)
}

// Marks are told at once and stored soon; another server that reads the chat has
// them, and of two the higher counts.
func TestMarksAreStoredBesideTheLog(t *testing.T) {
	ctx := context.Background()
	r := logtest.New(t)
	told := make(chan chatlog.Result, 10)
	log := logtest.Log(t, r.Store, func(r chatlog.Result) { told <- r })
	c := r.Start(t, "Hello")
	_, err := log.Append(ctx, logtest.Take(c, r.Maren))
	require.NoError(t, err)
	<-told
	require.NoError(t, log.Receive(ctx, c.ID, chat.Operator(r.Maren), chat.Seen, 3))
	heard := <-told
	require.True(t, heard.Marked)
	require.Equal(t, chat.Mark{Delivered: 2, Seen: 2}, heard.Chat.Marks().ByTeam)
	require.NoError(t, log.Receive(ctx, c.ID, chat.Operator(r.Maren), chat.Delivered, 2), "no news, nothing told")
	require.ErrorIs(t, log.Receive(ctx, c.ID, chat.Operator(r.Idris), chat.Seen, 2), chat.ErrNotYours)
	require.Eventually(t, func() bool {
		stored, err := chatlog.On(r.Store).Chat(ctx, c.ID)
		require.NoError(t, err)
		return stored.Marks().ByTeam.Seen == 2 && stored.Last == 3
	}, 10*time.Second, 10*time.Millisecond)
	require.NoError(t, chatlog.On(r.Store).StoreMarks(ctx, map[string]chat.Marks{
		c.ID:             {ByVisitor: chat.Mark{Delivered: 3}, ByTeam: chat.Mark{Delivered: 1}},
		uuid.NewString(): {ByTeam: chat.Mark{Delivered: 1}}, // of a chat that is gone
	}))
	stored, err := chatlog.On(r.Store).Chat(ctx, c.ID)
	require.NoError(t, err)
	require.Equal(t, chat.Marks{ByVisitor: chat.Mark{Delivered: 3}, ByTeam: chat.Mark{Delivered: 2, Seen: 2}}, stored.Marks())
	require.Empty(t, told)
}
