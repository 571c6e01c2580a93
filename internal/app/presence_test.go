package app_test

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/app"
	"stoop/internal/files"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// Whoever connects is there from then on, and whoever leaves is gone, also when
// the server says meanwhile whom it has: it says so as of a moment ago.
func TestABeatUndoesNoConnection(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	s, err := store.Open(testpg.New(t), 8)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, s.Migrate(ctx))
	disk, err := files.NewDisk(t.TempDir())
	require.NoError(t, err)
	a, err := app.New(app.Config{Store: s, Live: nobody{}, Files: disk})
	require.NoError(t, err)
	t.Cleanup(a.Close)
	require.NoError(t, a.Start(ctx))
	var beats sync.WaitGroup
	beats.Go(func() {
		for ctx.Err() == nil {
			_ = app.BeatOnce(ctx, a) // the last one is cut off by the end of the test
		}
	})
	t.Cleanup(beats.Wait)
	t.Cleanup(cancel)
	for i := range 40 {
		o := store.Operator{ID: uuid.NewString(), Email: fmt.Sprintf("%d@example.com", i), Name: "Ada", Role: access.Operator, PasswordHash: "-"}
		require.NoError(t, s.AddOperator(ctx, o))
		a.Connected(ctx, o.ID, chat.Operator(o.ID), nil)
		here, err := s.HereNow(ctx)
		require.NoError(t, err)
		require.True(t, here[o.ID], "after %d others", i)
		a.Disconnected(ctx, o.ID, chat.Operator(o.ID))
		here, err = s.HereNow(ctx)
		require.NoError(t, err)
		require.False(t, here[o.ID], "after %d others", i)
	}
}
