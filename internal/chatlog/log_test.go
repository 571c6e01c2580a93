package chatlog_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/people/register"
)

// Two servers on one database, many senders, every message sent twice: the log
// has each message once, without gaps, and the stored state is the fold of it.
func TestTwoServersAppendWithoutGapsOrDoubles(t *testing.T) {
	r := logtest.New(t)
	servers := []*chatlog.Log{logtest.Log(t, r.Store, nil), logtest.Log(t, r.Store, nil)}
	chats := []chatlog.Chat{r.Start(t, "one"), r.Start(t, "two"), r.Start(t, "three")}
	const each = 40
	var wait sync.WaitGroup
	for _, c := range chats {
		for sender := range 4 {
			wait.Go(func() {
				for i := range each {
					act := logtest.Say(c, chat.Visitor(c.VisitorID), fmt.Sprintf("%d-%d", sender, i), fmt.Sprintf("%d says %d", sender, i))
					first, err := servers[rand.IntN(2)].Append(context.Background(), act)
					if !assertNo(t, err) {
						return
					}
					second, err := servers[rand.IntN(2)].Append(context.Background(), act)
					if !assertNo(t, err) {
						return
					}
					if !second.Repeated || first.Events[0].Number != second.Events[0].Number || first.Events[0].Text != second.Events[0].Text {
						t.Errorf("sending again gave another result: %+v then %+v", first.Events, second.Events)
					}
				}
			})
		}
	}
	wait.Wait()
	for _, c := range chats {
		log, err := chatlog.On(r.Store).Events(context.Background(), c.ID, 0, 10_000)
		require.NoError(t, err)
		require.Len(t, log, 2+4*each)
		folded, err := chat.Fold(log)
		require.NoError(t, err)
		stored, err := chatlog.On(r.Store).Chat(context.Background(), c.ID)
		require.NoError(t, err)
		require.Equal(t, folded, stored.State)
		require.Equal(t, folded.Last, stored.Last)
	}
}

func assertNo(t *testing.T, err error) bool {
	if err != nil {
		t.Error(err)
	}
	return err == nil
}

func TestOneOfTwoTakersOnTwoServersWins(t *testing.T) {
	r := logtest.New(t)
	servers := []*chatlog.Log{logtest.Log(t, r.Store, nil), logtest.Log(t, r.Store, nil)}
	for range 30 {
		c := r.Start(t, "Is there room?")
		var wait sync.WaitGroup
		errs := make([]error, 2)
		for i, operator := range []string{r.Maren, r.Idris} {
			wait.Go(func() { _, errs[i] = servers[i].Append(context.Background(), logtest.Take(c, operator)) })
		}
		wait.Wait()
		won := 0
		for _, err := range errs {
			var taken *chat.TakenError
			if err == nil {
				won++
			} else {
				require.ErrorAs(t, err, &taken)
			}
		}
		require.Equal(t, 1, won)
	}
}

// What is told is told after the commit and in the order of the log.
func TestTellingFollowsTheLog(t *testing.T) {
	r := logtest.New(t)
	var mu sync.Mutex
	var told []int64
	a := logtest.Log(t, r.Store, func(res chatlog.Result) {
		mu.Lock()
		defer mu.Unlock()
		for _, e := range res.Events {
			told = append(told, e.Number)
		}
	})
	c := r.Start(t, "Hello")
	var wait sync.WaitGroup
	for i := range 100 {
		wait.Go(func() {
			_, err := a.Append(context.Background(), logtest.Say(c, chat.Visitor(c.VisitorID), fmt.Sprint(i), "words"))
			assertNo(t, err)
		})
	}
	wait.Wait()
	a.Close()
	mu.Lock()
	defer mu.Unlock()
	require.Len(t, told, 100)
	for i, n := range told {
		require.EqualValues(t, i+3, n)
	}
	_, err := a.Append(context.Background(), logtest.Say(c, chat.Visitor(c.VisitorID), "late", "words"))
	require.ErrorIs(t, err, chatlog.ErrClosed)
}

// A message whose acknowledgement was lost is sent again after the chat ended:
// the sender hears that it arrived, not that it is too late.
func TestRepeatAfterTheEndGetsTheFirstResult(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	c := r.Start(t, "Hello")
	act := logtest.Say(c, chat.Visitor(c.VisitorID), "again", "one more thing")
	first, err := a.Append(context.Background(), act)
	require.NoError(t, err)
	_, err = a.Append(context.Background(), chatlog.Act{ChatID: c.ID, By: chat.Visitor(c.VisitorID), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.End(chat.Visitor(c.VisitorID), chat.WrapUp{}, time.Now())
	}})
	require.NoError(t, err)
	second, err := a.Append(context.Background(), act)
	require.NoError(t, err)
	require.True(t, second.Repeated)
	require.Equal(t, first.Events[0].Number, second.Events[0].Number)
	_, err = a.Append(context.Background(), logtest.Say(c, chat.Visitor(c.VisitorID), "new", "and another"))
	require.ErrorIs(t, err, chat.ErrEnded)
}

// One act that the database refuses must not take others of its batch along.
func TestOneRefusedActDoesNotHarmItsBatch(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	good, bad := r.Start(t, "good"), r.Start(t, "bad")
	var wait sync.WaitGroup
	for i := range 50 {
		wait.Go(func() {
			_, err := a.Append(context.Background(), logtest.Say(good, chat.Visitor(good.VisitorID), fmt.Sprint(i), "words"))
			assertNo(t, err)
		})
		wait.Go(func() {
			// An owner that does not exist breaks the foreign key.
			_, err := a.Append(context.Background(), logtest.Take(bad, uuid.NewString()))
			if err == nil {
				t.Error("taken by an operator who does not exist")
			}
		})
	}
	wait.Wait()
	now, err := chatlog.On(r.Store).Chat(context.Background(), good.ID)
	require.NoError(t, err)
	require.EqualValues(t, 52, now.Last)
}

func TestStartIsIdempotentAndOpensOneChat(t *testing.T) {
	r := logtest.New(t)
	visitor := uuid.NewString()
	require.NoError(t, register.On(r.Store).EnsureVisitor(context.Background(), register.Visitor{ID: visitor, WidgetID: r.Widget}))
	first, opened, err := r.StartAs(visitor, "a", "Hello")
	require.NoError(t, err)
	require.True(t, opened)
	again, opened, err := r.StartAs(visitor, "a", "Hello")
	require.NoError(t, err)
	require.False(t, opened)
	require.Equal(t, first.ID, again.ID)
	otherTab, opened, err := r.StartAs(visitor, "b", "Hello from a second tab")
	require.NoError(t, err)
	require.False(t, opened)
	require.Equal(t, first.ID, otherTab.ID)
}
