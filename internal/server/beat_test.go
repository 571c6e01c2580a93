package server_test

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/files"
	"stoop/internal/live"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// Whoever connects is there from then on, and whoever leaves is gone, also when
// the server says meanwhile whom it has: it says so as of a moment ago.
func TestABeatUndoesNoConnection(t *testing.T) {
	t.Parallel()
	ctx, cancel := context.WithCancel(context.Background())
	s, err := store.Open(testpg.New(t), 8)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, s.Migrate(ctx))
	disk, err := files.NewDisk(t.TempDir())
	require.NoError(t, err)
	a, err := server.NewHouse(server.HouseConfig{Store: s, Live: live.Nobody{}, Files: disk})
	require.NoError(t, err)
	t.Cleanup(a.Close)
	require.NoError(t, a.Start(ctx))
	var beats sync.WaitGroup
	beats.Go(func() {
		for ctx.Err() == nil {
			_ = a.Floor.BeatOnce(ctx) // the last one is cut off by the end of the test
		}
	})
	t.Cleanup(beats.Wait)
	t.Cleanup(cancel)
	for i := range 40 {
		o := settings.Operator{ID: uuid.NewString(), Email: fmt.Sprintf("%d@example.com", i), Name: "Ada", Role: access.Operator, PasswordHash: "-"}
		require.NoError(t, settings.On(s).AddOperator(ctx, o))
		a.Floor.Connected(ctx, o.ID, chat.Operator(o.ID), nil)
		stands, err := a.Floor.Standing(ctx, o.ID)
		require.NoError(t, err)
		require.True(t, stands.Here, "after %d others", i)
		a.Floor.Disconnected(ctx, o.ID, chat.Operator(o.ID))
		stands, err = a.Floor.Standing(ctx, o.ID)
		require.NoError(t, err)
		require.False(t, stands.Here, "after %d others", i)
	}
}
