package server_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/internal/devpg"
	"stoop/internal/server"
	"stoop/internal/standin/talker"
	"stoop/internal/transcripts"
)

// Searches and reports read from PostgreSQL's own copy of the database; while it lags, pages
// say by how much; when it goes away, they go on from the database itself.
func TestSearchesAndReportsReadFromAReplica(t *testing.T) {
	t.Parallel()
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	t.Cleanup(cancel)
	folder := func() string { // where PostgreSQL's own user may go
		dir, err := os.MkdirTemp("", "stoop-replica-")
		require.NoError(t, err)
		require.NoError(t, os.Chmod(dir, 0o755))
		t.Cleanup(func() { _ = os.RemoveAll(dir) })
		return dir
	}
	primary, err := devpg.Start(ctx, folder(), devpg.Options{Fast: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = primary.Stop() })
	require.NoError(t, primary.Create(ctx, "stoop"))
	replica, err := primary.Replica(ctx, folder(), devpg.Options{Fast: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = replica.Stop() })

	f := start(t, func(c *server.Config) {
		c.DatabaseURL, c.ReadDatabaseURL = primary.URL("stoop"), replica.URL("stoop")
	})
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	behind := func() int {
		var c transcripts.TranscriptChoices
		require.NoError(t, lead.Get(f.ctx, "/api/transcripts/choices", &c))
		return c.Behind
	}
	reads := func(url string) func() bool {
		return func() bool { return f.Transcripts.Replica.Reader().Pool().Config().ConnString() == url }
	}
	require.Eventually(t, reads(replica.URL("stoop")), 20*time.Second, 20*time.Millisecond)
	f.answered(f.visitor(newInbox()), idris)
	found := func(words string) func() bool {
		return func() bool { return f.look(lead, "words="+words).Total == 1 }
	}
	f.zeppelin(idris, "airship")
	require.Eventually(t, found("airship"), 20*time.Second, 50*time.Millisecond)
	require.Zero(t, behind())

	// The copy stands still: what was said since is not found, and pages say so.
	admin, err := pgx.Connect(ctx, replica.URL("stoop"))
	require.NoError(t, err)
	defer admin.Close(ctx)
	_, err = admin.Exec(ctx, "select pg_wal_replay_pause()")
	require.NoError(t, err)
	f.zeppelin(idris, "blimp")
	require.Eventually(t, func() bool { return behind() >= 2 }, 20*time.Second, 50*time.Millisecond)
	require.Zero(t, f.look(lead, "words=blimp").Total)
	total := f.report(lead, "").Total.Chats
	_, err = admin.Exec(ctx, "select pg_wal_replay_resume()")
	require.NoError(t, err)
	require.Eventually(t, found("blimp"), 20*time.Second, 50*time.Millisecond)
	require.Eventually(t, func() bool { return behind() == 0 && f.report(lead, "").Total.Chats == total+1 }, 20*time.Second, 50*time.Millisecond)

	// It goes away: nobody waits for it.
	require.NoError(t, replica.Stop())
	require.Eventually(t, reads(primary.URL("stoop")), 20*time.Second, 20*time.Millisecond)
	require.True(t, found("blimp")())
	require.Zero(t, behind())
}

// zeppelin lets a visitor ask with a word, and an operator answer.
func (f fixture) zeppelin(o *talker.Operator, word string) {
	f.t.Helper()
	v := f.visitor(newInbox())
	id := f.ask(v, "Where is the "+word+"?")
	f.take(o, id)
	_, err := o.Say(f.ctx, id, uuid.NewString(), "In the shed.")
	require.NoError(f.t, err)
	require.NoError(f.t, v.Call(f.ctx, "end", map[string]string{"chatId": id}, nil))
	f.counted(id)
}
