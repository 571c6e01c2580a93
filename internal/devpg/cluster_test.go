package devpg_test

import (
	"context"
	"os"
	"path/filepath"
	"strconv"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/internal/devpg"
)

func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "stoop-devpg-*")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return dir
}

func query(t *testing.T, url, sql string) string {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), url)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	var out string
	require.NoError(t, conn.QueryRow(context.Background(), sql).Scan(&out))
	return out
}

func execute(t *testing.T, url, sql string) {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), url)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	_, err = conn.Exec(context.Background(), sql)
	require.NoError(t, err)
}

func TestDataSurvivesAStopAndACrash(t *testing.T) {
	ctx, dir := context.Background(), folder(t)
	c, err := devpg.Start(ctx, dir, devpg.Options{})
	require.NoError(t, err)
	require.NoError(t, c.Create(ctx, "stoop"))
	execute(t, c.URL("stoop"), "create table kept as select generate_series(1,3)")
	require.NoError(t, c.Crash())
	require.NoError(t, c.Restart(ctx, devpg.Options{}))
	require.Equal(t, "3", query(t, c.URL("stoop"), "select count(*)::text from kept"))
	require.NoError(t, c.Stop())

	c, err = devpg.Start(ctx, dir, devpg.Options{})
	require.NoError(t, err)
	require.NoError(t, c.Create(ctx, "stoop"), "a second start finds its database")
	require.Equal(t, "3", query(t, c.URL("stoop"), "select count(*)::text from kept"))
	require.Equal(t, "on", query(t, c.URL("stoop"), "show synchronous_commit"), "acknowledged must mean committed")
	require.NoError(t, c.Stop())
}

// A killed run leaves a pid file, whose number may by now be another program's.
func TestARestartOfARunningServerIsInGoodOrder(t *testing.T) {
	ctx := context.Background()
	c, err := devpg.Start(ctx, folder(t), devpg.Options{})
	require.NoError(t, err)
	require.NoError(t, c.Create(ctx, "stoop"))
	execute(t, c.URL("stoop"), "create table kept as select generate_series(1,3)")
	for range 3 {
		require.NoError(t, c.Restart(ctx, devpg.Options{}))
		require.Equal(t, "3", query(t, c.URL("stoop"), "select count(*)::text from kept"))
	}
	require.NoError(t, c.Stop())
}

func TestStaleLockNeedsNoHandWork(t *testing.T) {
	ctx, dir := context.Background(), folder(t)
	c, err := devpg.Start(ctx, dir, devpg.Options{})
	require.NoError(t, err)
	require.NoError(t, c.Stop())
	stale := strconv.Itoa(os.Getpid()) + "\n" + c.Dir + "\n"
	require.NoError(t, os.WriteFile(filepath.Join(c.Dir, "postmaster.pid"), []byte(stale), 0o644))
	c, err = devpg.Start(ctx, dir, devpg.Options{})
	require.NoError(t, err)
	require.NoError(t, c.Stop())
}

func TestTwoDemosDoNotDisturbEachOther(t *testing.T) {
	ctx, dir := context.Background(), filepath.Join(folder(t), "demo")
	first, err := devpg.StartFree(ctx, dir, false, devpg.Options{Fast: true})
	require.NoError(t, err)
	defer first.Stop()
	require.NoError(t, first.Create(ctx, "mine"))

	second, err := devpg.StartFree(ctx, dir, true, devpg.Options{Fast: true})
	require.NoError(t, err, "a fresh demo beside a running one")
	defer second.Stop()
	require.NotEqual(t, first.Port, second.Port)
	require.NotEqual(t, first.Dir, second.Dir)
	require.Equal(t, "true", query(t, first.URL("mine"), "select 'true'"), "the running demo kept its data")

	_, err = devpg.Start(ctx, dir, devpg.Options{})
	require.ErrorIs(t, err, devpg.ErrInUse)
}
