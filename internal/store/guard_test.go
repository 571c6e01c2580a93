package store_test

import (
	"context"
	"encoding/json"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/store"
)

// What belongs into an act's transaction is durable with it or not at all.
func TestGuardAndAlsoBelongToTheirAct(t *testing.T) {
	r := newRoom(t)
	a := appender(t, r.Store, nil)
	c := r.start(t, "Hello")
	refused := errors.New("no room")
	act := take(c, r.maren)
	act.Guard = func(context.Context, pgx.Tx) error { return refused }
	_, err := a.Append(context.Background(), act)
	require.ErrorIs(t, err, refused)

	act.Guard = nil
	act.Also = func(ctx context.Context, tx pgx.Tx, after store.Chat, events []chat.Event) error {
		require.Equal(t, chat.Active, after.Phase)
		require.Equal(t, chat.Taken, events[0].Kind)
		_, err := tx.Exec(ctx, "insert into settings (key, value) values ('side effect', 'x')")
		return errors.Join(err, errors.New("and then it broke"))
	}
	_, err = a.Append(context.Background(), act)
	require.ErrorContains(t, err, "and then it broke")
	now, err := r.Chat(context.Background(), c.ID)
	require.NoError(t, err)
	require.Equal(t, chat.Waiting, now.Phase, "the chat must not be taken without what belongs to it")
	var n int
	require.NoError(t, r.DB.Raw("select count(*) from settings where key = 'side effect'").Scan(&n).Error)
	require.Zero(t, n)
	events, err := r.Events(context.Background(), c.ID, 0, 10)
	require.NoError(t, err)
	require.Len(t, events, 2)

	act.Also = func(ctx context.Context, tx pgx.Tx, _ store.Chat, _ []chat.Event) error {
		_, err := tx.Exec(ctx, "insert into settings (key, value) values ('side effect', 'x')")
		return err
	}
	_, err = a.Append(context.Background(), act)
	require.NoError(t, err)
	require.NoError(t, r.DB.Raw("select count(*) from settings where key = 'side effect'").Scan(&n).Error)
	require.Equal(t, 1, n)
}

// Acts of both kinds on the same chats keep their order and their numbers.
func TestGuardedActsAmongMessages(t *testing.T) {
	r := newRoom(t)
	a := appender(t, r.Store, nil)
	c := r.start(t, "Hello")
	visitor := chat.Visitor(c.VisitorID)
	var wait sync.WaitGroup
	for i := range 40 {
		wait.Go(func() {
			act := say(c, visitor, uuid.NewString(), "words")
			if i%4 == 0 {
				act.Guard = func(ctx context.Context, tx pgx.Tx) error {
					_, _, err := store.LockOperator(ctx, tx, r.maren, time.Now())
					return err
				}
			}
			_, err := a.Append(context.Background(), act)
			require.NoError(t, err)
		})
	}
	wait.Wait()
	log, err := r.Events(context.Background(), c.ID, 0, 100)
	require.NoError(t, err)
	require.Len(t, log, 42)
	_, err = chat.Fold(log)
	require.NoError(t, err)
}

// Whoever counts an operator's chats under their lock sees all of them: of many
// who try to give the last free place away at once, one wins.
func TestTheLastPlaceIsGivenAwayOnce(t *testing.T) {
	r := newRoom(t)
	full := errors.New("full")
	appenders := []*store.Appender{appender(t, r.Store, nil), appender(t, r.Store, nil)}
	var wait sync.WaitGroup
	results := make([]error, 12)
	for i := range results {
		c := r.start(t, "Hello")
		wait.Go(func() {
			act := take(c, r.maren)
			act.Guard = func(ctx context.Context, tx pgx.Tx) error {
				load, offered, err := store.LockOperator(ctx, tx, r.maren, time.Now())
				if err == nil && load+offered >= 3 {
					err = full
				}
				return err
			}
			_, results[i] = appenders[i%2].Append(context.Background(), act)
		})
	}
	wait.Wait()
	won := 0
	for _, err := range results {
		if err == nil {
			won++
			continue
		}
		require.ErrorIs(t, err, full)
	}
	require.Equal(t, 3, won)
}

// An act with a guard holds up its own chat, and no other: while somebody is
// waited for, words go on elsewhere, and those of this chat follow in their order.
func TestAGuardHoldsUpItsOwnChatOnly(t *testing.T) {
	r := newRoom(t)
	a := appender(t, r.Store, nil)
	ctx := context.Background()
	c := r.start(t, "Hello")
	entered, release := make(chan struct{}), make(chan struct{})
	act := take(c, r.maren)
	act.Guard = func(context.Context, pgx.Tx) error {
		close(entered)
		<-release
		return nil
	}
	var wait sync.WaitGroup
	wait.Go(func() {
		_, err := a.Append(ctx, act)
		require.NoError(t, err)
	})
	<-entered
	for range 24 { // more than there are shards
		other := r.start(t, "Hello")
		_, err := a.Append(ctx, say(other, chat.Visitor(other.VisitorID), uuid.NewString(), "words"))
		require.NoError(t, err)
	}
	var late store.Result
	wait.Go(func() {
		var err error
		late, err = a.Append(ctx, say(c, chat.Operator(r.maren), uuid.NewString(), "Only the owner may say this"))
		require.NoError(t, err)
	})
	close(release)
	wait.Wait()
	require.Equal(t, int64(4), late.Chat.Last, "after the act that it waited for")
}

// A chat's row is what its log adds up to after every act, whichever of the
// statements stored it.
func TestTheRowFollowsEveryAct(t *testing.T) {
	r := newRoom(t)
	a := appender(t, r.Store, nil)
	ctx := context.Background()
	c := r.start(t, "Is there room?")
	visitor, maren := chat.Visitor(c.VisitorID), chat.Operator(r.maren)
	now := func() time.Time { return time.Now().UTC() }
	act := func(by chat.Party, decide store.Decide) {
		t.Helper()
		result, err := a.Append(ctx, store.Act{ChatID: c.ID, By: by, Decide: decide})
		require.NoError(t, err)
		row, err := r.Chat(ctx, c.ID)
		require.NoError(t, err)
		encoded := func(c store.Chat) string {
			text, err := json.Marshal(c)
			require.NoError(t, err)
			return string(text)
		}
		require.JSONEq(t, encoded(result.Chat), encoded(row))
	}
	saying := func(by chat.Party, words string) {
		t.Helper()
		act(by, func(s chat.State) ([]chat.Event, error) {
			e, err := s.Say(by, uuid.NewString(), words, 2000, now())
			return []chat.Event{e}, err
		})
	}
	saying(visitor, "Hello?")
	act(maren, func(s chat.State) ([]chat.Event, error) { return s.Take(maren, now()) })
	saying(maren, "There is")
	saying(visitor, "Good")
	act(maren, func(s chat.State) ([]chat.Event, error) { return s.Tag(maren, "group", now()) })
	act(maren, func(s chat.State) ([]chat.Event, error) { return s.SetAside(maren, true, now()) })
	saying(visitor, "Thank you")
	act(maren, func(s chat.State) ([]chat.Event, error) {
		return s.Conclude(maren, "Sold", &chat.Money{Cents: 41280, Currency: "EUR"}, now())
	})
	act(maren, func(s chat.State) ([]chat.Event, error) { return s.Receive(maren, chat.Seen, s.Last, now()) })
}

// A message changes the row of its chat within its page: no index is written.
func TestAMessageWritesNoIndexOfItsChat(t *testing.T) {
	r := newRoom(t)
	a := appender(t, r.Store, nil)
	ctx := context.Background()
	c := r.start(t, "Hello")
	_, err := a.Append(ctx, take(c, r.maren))
	require.NoError(t, err)
	updates := func() (all, inPage int64) {
		row := r.DB.Raw("select pg_stat_force_next_flush(), n_tup_upd, n_tup_hot_upd from pg_stat_user_tables where relname = 'chats'").Row()
		var none any
		require.NoError(t, row.Scan(&none, &all, &inPage))
		return all, inPage
	}
	const messages = 40
	for i := range messages {
		by := []chat.Party{chat.Visitor(c.VisitorID), chat.Operator(r.maren)}[i%2]
		_, err := a.Append(ctx, say(c, by, uuid.NewString(), "words"))
		require.NoError(t, err)
	}
	// PostgreSQL gathers its counts by the way; all connections must have told.
	require.Eventually(t, func() bool { all, _ := updates(); return all >= messages }, 20*time.Second, 100*time.Millisecond)
	all, inPage := updates()
	require.GreaterOrEqual(t, float64(inPage)/float64(all), 0.6, "%d of %d", inPage, all)
}
