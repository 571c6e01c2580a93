package floor

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// Whoever counts an operator's chats under their lock sees all of them: of many
// who try to give the last free place away at once, one wins.
func TestTheLastPlaceIsGivenAwayOnce(t *testing.T) {
	r := logtest.New(t)
	room := &Room{Tables: On(r.Store), Now: time.Now}
	logs := []*chatlog.Log{logtest.Log(t, r.Store, nil), logtest.Log(t, r.Store, nil)}
	var wait sync.WaitGroup
	results := make([]error, 12)
	for i := range results {
		c := r.Start(t, "Hello")
		wait.Go(func() {
			act := logtest.Take(c, r.Maren)
			act.Ahead = func(chatlog.Chat) []chatlog.Statement { return room.Taking(r.Maren, 3, false) }
			_, results[i] = logs[i%2].Append(context.Background(), act)
		})
	}
	wait.Wait()
	won := 0
	for _, err := range results {
		if err == nil {
			won++
			continue
		}
		require.ErrorIs(t, err, chatlog.ErrRefused)
	}
	require.Equal(t, 3, won)
	n, err := room.Load(t.Context(), r.Maren)
	require.NoError(t, err)
	require.Equal(t, 3, n)

	one := r.Start(t, "One more")
	act := logtest.Take(one, r.Maren)
	act.Ahead = func(chatlog.Chat) []chatlog.Statement { return room.Taking(r.Maren, 3, true) }
	_, err = logs[0].Append(t.Context(), act)
	require.NoError(t, err, "a person may take more, if they say so")
}

// What hands out by itself gives nothing to somebody who is not there.
func TestNothingIsHandedToWhoIsAway(t *testing.T) {
	r := logtest.New(t)
	log := logtest.Log(t, r.Store, nil)
	act := logtest.Take(r.Start(t, "Hello"), r.Maren)
	act.Ahead = mustHaveRoom(r.Maren, time.Now(), 3)
	_, err := log.Append(t.Context(), act)
	require.ErrorIs(t, err, chatlog.ErrRefused)
}
