package faults

import (
	"bytes"
	"context"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

// A dump as the guide has it, restored beside: the same chats are there, one that
// was going on goes on, and visitors' tokens are good.
func TestADumpRestoredServesTheSameChats(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	cluster, database, data := seeded(ctx, t)
	server := newServer(ctx, t, database)
	t.Cleanup(server.kill)
	visitor, chatID := askAndAnswer(ctx, t, server.URL)
	visitor.Close()

	require.NoError(t, cluster.Create(ctx, "restored"))
	var dump, trouble bytes.Buffer
	command := exec.CommandContext(ctx, tool(t, "pg_dump"), "--format=custom", database)
	command.Stdout, command.Stderr = &dump, &trouble
	require.NoError(t, command.Run(), trouble.String())
	command = exec.CommandContext(ctx, tool(t, "pg_restore"), "--no-owner", "--exit-on-error", "--dbname="+cluster.URL("restored"))
	command.Stdin, command.Stderr = &dump, &trouble
	require.NoError(t, command.Run(), trouble.String())

	copied, err := store.Open(cluster.URL("restored"), 4)
	require.NoError(t, err)
	t.Cleanup(func() { copied.Close() })
	count := func(s *store.Store) (chats, events int64) {
		require.NoError(t, s.DB.Raw("select (select count(*) from chats), (select count(*) from events)").Row().Scan(&chats, &events))
		return chats, events
	}
	chats, events := count(data)
	copiedChats, copiedEvents := count(copied)
	require.Equal(t, []int64{chats, events}, []int64{copiedChats, copiedEvents})

	again := newServer(ctx, t, cluster.URL("restored"))
	t.Cleanup(again.kill)
	back, err := talker.Return(ctx, again.URL, demo.WidgetKey, visitor.Token, nil)
	require.NoError(t, err)
	t.Cleanup(back.Close)
	_, err = back.Say(ctx, chatID, uuid.NewString(), "And on Sunday?")
	require.NoError(t, err)
	log, err := chatlog.On(copied).Events(ctx, chatID, 0, 100)
	require.NoError(t, err)
	_, err = chat.Fold(log)
	require.NoError(t, err)
	require.Equal(t, "And on Sunday?", log[len(log)-1].Text)
}

// askAndAnswer is a chat that goes on.
func askAndAnswer(ctx context.Context, t *testing.T, base string) (*talker.Visitor, string) {
	t.Helper()
	o, err := talker.NewOperator(ctx, base, demo.Logins[0].Email, demo.Password, nil)
	require.NoError(t, err)
	t.Cleanup(o.Close)
	require.NoError(t, o.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
	v, err := talker.NewVisitor(ctx, base, demo.WidgetKey, nil)
	require.NoError(t, err)
	var opened talk.Opened
	require.Eventually(t, func() bool {
		opened, err = v.Open(ctx, talk.Opening{ClientID: "first", Text: "Is there room on Saturday?"})
		return err == nil // the operator's connection is noted in a moment
	}, 30*time.Second, 20*time.Millisecond)
	require.NoError(t, o.Post(ctx, "/api/chats/"+opened.Chat.ID+"/take", nil, nil))
	_, err = o.Say(ctx, opened.Chat.ID, uuid.NewString(), "There is.")
	require.NoError(t, err)
	return v, opened.Chat.ID
}

// tool is a program of PostgreSQL's.
func tool(t *testing.T, name string) string {
	t.Helper()
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	require.NoError(t, err)
	require.NotEmpty(t, found, "%s is missing", name)
	return found[len(found)-1]
}
