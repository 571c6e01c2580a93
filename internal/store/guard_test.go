package store_test

import (
	"context"
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
