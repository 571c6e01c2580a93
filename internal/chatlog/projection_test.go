package chatlog_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// rowOf returns what a chat's row says by itself.
func rowOf(t *testing.T, r logtest.Room, id string) (last int64, words string) {
	t.Helper()
	require.NoError(t, r.DB.Raw("select last, last_words from chats where id = ?", id).Row().Scan(&last, &words))
	return last, words
}

// Whoever reads a chat reads what was just said, on whatever server; its row
// follows.
func TestAReaderIsNeverBehindTheLog(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	other := r.Start(t, "Nothing more is said here")
	for i, words := range []string{"Is there room?", "For a minibus", "On Sunday"} {
		said, err := a.Append(ctx, logtest.Say(c, chat.Visitor(c.VisitorID), uuid.NewString(), words))
		require.NoError(t, err)
		read, err := chatlog.On(r.Store).Chat(ctx, c.ID)
		require.NoError(t, err)
		require.EqualValues(t, i+3, read.Last)
		require.Equal(t, words, read.LastWords)
		require.Equal(t, said.Chat.State, read.State)
	}
	open, err := chatlog.On(r.Store).OpenChats(ctx)
	require.NoError(t, err)
	require.Len(t, open, 2)
	for _, read := range open {
		require.Equal(t, map[string]string{c.ID: "On Sunday", other.ID: other.LastWords}[read.ID], read.LastWords)
	}
	require.Eventually(t, func() bool { last, words := rowOf(t, r, c.ID); return last == 5 && words == "On Sunday" }, 20*time.Second, 20*time.Millisecond)
}

// A server that stops leaves no row behind.
func TestRowsFollowBeforeAServerStops(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	c := r.Start(t, "Hello")
	_, err := a.Append(context.Background(), logtest.Say(c, chat.Visitor(c.VisitorID), uuid.NewString(), "One more thing"))
	require.NoError(t, err)
	a.Close()
	last, words := rowOf(t, r, c.ID)
	require.EqualValues(t, 3, last)
	require.Equal(t, "One more thing", words)
}

// What a server had stored before it was killed is mended by whichever lives.
func TestRowsOfADeadServerAreMended(t *testing.T) {
	r := logtest.New(t)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	// As a server leaves it that dies right after the commit.
	require.NoError(t, r.DB.Exec(`insert into events (chat_id, number, kind, at, side, party_id, text) values (?, 3, 'said', ?, 'visitor', ?, 'said before the end')`,
		c.ID, c.StartedAt.Add(time.Second), c.VisitorID).Error)
	last, _ := rowOf(t, r, c.ID)
	require.EqualValues(t, 2, last)
	require.NoError(t, chatlog.On(r.Store).Mend(ctx))
	last, words := rowOf(t, r, c.ID)
	require.EqualValues(t, 3, last)
	require.Equal(t, "said before the end", words)
}

// Rows follow without waiting for one that somebody else has locked: that one comes
// when it is free.
func TestALockedRowHoldsUpNoOther(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	held, free := r.Start(t, "Hello"), r.Start(t, "Hello")
	tx := r.DB.Begin()
	defer tx.Rollback()
	require.NoError(t, tx.Exec("select from chats where id = ? for update", held.ID).Error)
	for _, c := range []chatlog.Chat{held, free} {
		_, err := a.Append(ctx, logtest.Say(c, chat.Visitor(c.VisitorID), uuid.NewString(), "words"))
		require.NoError(t, err, "words wait for no row")
	}
	follows := func(id string) func() bool {
		return func() bool { last, _ := rowOf(t, r, id); return last == 3 }
	}
	require.Eventually(t, follows(free.ID), 20*time.Second, 20*time.Millisecond)
	require.False(t, follows(held.ID)())
	require.NoError(t, tx.Rollback().Error)
	require.Eventually(t, follows(held.ID), 20*time.Second, 20*time.Millisecond)
}

// A row follows within its page: no index is written.
func TestAFollowingRowWritesNoIndex(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	ctx := context.Background()
	c := r.Start(t, "Hello")
	_, err := a.Append(ctx, logtest.Take(c, r.Maren))
	require.NoError(t, err)
	updates := func() (all, inPage int64) {
		row := r.DB.Raw("select pg_stat_force_next_flush(), n_tup_upd, n_tup_hot_upd from pg_stat_user_tables where relname = 'chats'").Row()
		var none any
		require.NoError(t, row.Scan(&none, &all, &inPage))
		return all, inPage
	}
	const messages = 40
	for i := range messages {
		by := []chat.Party{chat.Visitor(c.VisitorID), chat.Operator(r.Maren)}[i%2]
		_, err := a.Append(ctx, logtest.Say(c, by, uuid.NewString(), "words"))
		require.NoError(t, err)
		require.NoError(t, a.Mend(ctx))
	}
	// PostgreSQL gathers its counts by the way; all connections must have told.
	require.Eventually(t, func() bool { all, _ := updates(); return all >= messages }, 20*time.Second, 100*time.Millisecond)
	all, inPage := updates()
	require.GreaterOrEqual(t, float64(inPage)/float64(all), 0.6, "%d of %d", inPage, all)
}
