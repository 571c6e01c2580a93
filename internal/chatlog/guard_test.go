package chatlog_test

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
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// What belongs into an act's transaction is durable with it or not at all.
func TestGuardAndAlsoBelongToTheirAct(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	c := r.Start(t, "Hello")
	refused := errors.New("no room")
	act := logtest.Take(c, r.Maren)
	act.Guard = func(context.Context, pgx.Tx) error { return refused }
	_, err := a.Append(context.Background(), act)
	require.ErrorIs(t, err, refused)

	act.Guard = nil
	act.Also = func(ctx context.Context, tx pgx.Tx, after chatlog.Chat, events []chat.Event) error {
		require.Equal(t, chat.Active, after.Phase)
		require.Equal(t, chat.Taken, events[0].Kind)
		_, err := tx.Exec(ctx, "insert into settings (key, value) values ('side effect', 'x')")
		return errors.Join(err, errors.New("and then it broke"))
	}
	_, err = a.Append(context.Background(), act)
	require.ErrorContains(t, err, "and then it broke")
	now, err := chatlog.On(r.Store).Chat(context.Background(), c.ID)
	require.NoError(t, err)
	require.Equal(t, chat.Waiting, now.Phase, "the chat must not be taken without what belongs to it")
	var n int
	require.NoError(t, r.DB.Raw("select count(*) from settings where key = 'side effect'").Scan(&n).Error)
	require.Zero(t, n)
	events, err := chatlog.On(r.Store).Events(context.Background(), c.ID, 0, 10)
	require.NoError(t, err)
	require.Len(t, events, 2)

	act.Also = func(ctx context.Context, tx pgx.Tx, _ chatlog.Chat, _ []chat.Event) error {
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
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	c := r.Start(t, "Hello")
	visitor := chat.Visitor(c.VisitorID)
	var wait sync.WaitGroup
	for i := range 40 {
		wait.Go(func() {
			act := logtest.Say(c, visitor, uuid.NewString(), "words")
			if i%4 == 0 {
				act.Guard = func(ctx context.Context, tx pgx.Tx) error {
					_, err := tx.Exec(ctx, "select pg_advisory_xact_lock(1)")
					return err
				}
			}
			_, err := a.Append(context.Background(), act)
			require.NoError(t, err)
		})
	}
	wait.Wait()
	log, err := chatlog.On(r.Store).Events(context.Background(), c.ID, 0, 100)
	require.NoError(t, err)
	require.Len(t, log, 42)
	_, err = chat.Fold(log)
	require.NoError(t, err)
}

// An act with a guard holds up its own chat, and no other: while somebody is
// waited for, words go on elsewhere, and those of this chat follow in their order.
func TestAGuardHoldsUpItsOwnChatOnly(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	entered, release := make(chan struct{}), make(chan struct{})
	act := logtest.Take(c, r.Maren)
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
		other := r.Start(t, "Hello")
		_, err := a.Append(ctx, logtest.Say(other, chat.Visitor(other.VisitorID), uuid.NewString(), "words"))
		require.NoError(t, err)
	}
	var late chatlog.Result
	wait.Go(func() {
		var err error
		late, err = a.Append(ctx, logtest.Say(c, chat.Operator(r.Maren), uuid.NewString(), "Only the owner may say this"))
		require.NoError(t, err)
	})
	close(release)
	wait.Wait()
	require.Equal(t, int64(4), late.Chat.Last, "after the act that it waited for")
}

// A chat's row is what its log adds up to after every act, whichever of the
// statements stored it.
func TestTheRowFollowsEveryAct(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Is there room?")
	visitor, maren := chat.Visitor(c.VisitorID), chat.Operator(r.Maren)
	now := func() time.Time { return time.Now().UTC() }
	act := func(by chat.Party, decide chatlog.Decide) {
		t.Helper()
		result, err := a.Append(ctx, chatlog.Act{ChatID: c.ID, By: by, Decide: decide})
		require.NoError(t, err)
		row, err := chatlog.On(r.Store).Chat(ctx, c.ID)
		require.NoError(t, err)
		encoded := func(c chatlog.Chat) string {
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
}

// Statements sent along with an act are durable with it or not at all; one before
// it may refuse it.
func TestStatementsAlongBelongToTheirAct(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	note := chatlog.Statement{SQL: "insert into settings (key, value) values ('along', $1)", Args: []any{"x"}}
	noted := func() (n int) {
		require.NoError(t, r.DB.Raw("select count(*) from settings where key = 'along'").Scan(&n).Error)
		return n
	}
	mustHold := func(n int) func(chatlog.Chat) []chatlog.Statement {
		return func(before chatlog.Chat) []chatlog.Statement {
			require.Equal(t, chat.Waiting, before.Phase)
			return []chatlog.Statement{{SQL: "select must_hold($1::int > 1)", Args: []any{n}}}
		}
	}
	act := logtest.Take(c, r.Maren)
	act.Along = []chatlog.Statement{note}
	act.Ahead = mustHold(1)
	_, err := a.Append(ctx, act)
	require.ErrorIs(t, err, chatlog.ErrRefused)
	require.Zero(t, noted())

	broken := act
	broken.Ahead, broken.Along = nil, []chatlog.Statement{note, note}
	_, err = a.Append(ctx, broken)
	require.Error(t, err)
	require.Zero(t, noted(), "what went wrong along with an act undoes all of it")
	log, err := chatlog.On(r.Store).Events(ctx, c.ID, 0, 10)
	require.NoError(t, err)
	require.Len(t, log, 2)

	act.Ahead = mustHold(2)
	_, err = a.Append(ctx, act)
	require.NoError(t, err)
	require.Equal(t, 1, noted())
}

// Another server's word is a number that is given: the act with its statements is
// decided anew, and what was sent along happens once.
func TestAnActWithStatementsIsDecidedAnewOverAnotherServersWord(t *testing.T) {
	r := logtest.New(t)
	ours, theirs := logtest.Log(t, r.Store, nil), logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	visitor := chat.Visitor(c.VisitorID)
	_, err := ours.Append(ctx, logtest.Say(c, visitor, uuid.NewString(), "remembered here"))
	require.NoError(t, err)
	_, err = theirs.Append(ctx, logtest.Say(c, visitor, uuid.NewString(), "and said there"))
	require.NoError(t, err)
	act := logtest.Take(c, r.Maren)
	act.Along = []chatlog.Statement{{SQL: "insert into settings (key, value) values ('once', 'x')"}}
	taken, err := ours.Append(ctx, act)
	require.NoError(t, err)
	require.EqualValues(t, 5, taken.Chat.Last)
}
