package floor

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// Whoever counts an operator's chats under their lock sees all of them: of many
// who try to give the last free place away at once, one wins.
func TestTheLastPlaceIsGivenAwayOnce(t *testing.T) {
	r := logtest.New(t)
	full := errors.New("full")
	appenders := []*chatlog.Log{logtest.Log(t, r.Store, nil), logtest.Log(t, r.Store, nil)}
	var wait sync.WaitGroup
	results := make([]error, 12)
	for i := range results {
		c := r.Start(t, "Hello")
		wait.Go(func() {
			act := logtest.Take(c, r.Maren)
			act.Guard = func(ctx context.Context, tx pgx.Tx) error {
				h, err := lockOperator(ctx, tx, r.Maren, time.Now())
				if err == nil && h.load+h.offered >= 3 {
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
