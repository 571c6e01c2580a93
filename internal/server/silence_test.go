package server_test

import (
	"context"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/live"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

// A visitor who falls silent is reminded after the time that their department
// gives them, and the chat ends after another one; whoever looks is the server
// that runs then, since nothing is remembered outside of the database.
func TestASilentVisitorIsRemindedAndGivenUp(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testpg.Open(t)
	var now atomic.Int64
	begin := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	at := func() time.Time { return begin.Add(time.Duration(now.Load()) * time.Second) }
	restarted := func() *server.House {
		disk, err := files.NewDisk(t.TempDir())
		require.NoError(t, err)
		a, err := server.NewHouse(server.HouseConfig{Store: s, Live: live.Nobody{}, Files: disk, Now: at})
		require.NoError(t, err)
		return a
	}
	departments, err := settings.On(s).Departments(ctx)
	require.NoError(t, err)
	ada := settings.Operator{ID: uuid.NewString(), Email: "ada@example.com", Name: "Ada Merrow", Role: access.Operator, PasswordHash: "-"}
	require.NoError(t, settings.On(s).AddOperator(ctx, ada))
	departments[0].Members, departments[0].SilentRemind, departments[0].SilentEnd = []settings.Member{{OperatorID: ada.ID}}, 300, 120
	require.NoError(t, settings.On(s).SaveDepartment(ctx, departments[0]))
	w := settings.Widget{ID: uuid.NewString(), Key: "ferry", Design: widget.Design{Name: "Site", Title: "Ask", Sites: []string{}, Colour: "#9c3f27", Corner: "right", MessageLimit: 2000, AnswerTargetSeconds: 60}}
	require.NoError(t, settings.On(s).SaveWidget(ctx, w))

	a := restarted()
	require.NoError(t, a.Start(ctx))
	actor := access.Actor{ID: ada.ID, Role: ada.Role, Departments: []string{departments[0].ID}}
	a.Floor.Connected(ctx, "ada", chat.Operator(ada.ID), nil)
	_, err = a.Floor.SetAvailable(ctx, actor, true)
	require.NoError(t, err)
	visitor, err := a.Talk.Admit(ctx, w, "", "")
	require.NoError(t, err)
	opened, err := a.Talk.Open(ctx, visitor, talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?"})
	require.NoError(t, err)
	_, err = a.Talk.Take(ctx, actor, opened.Chat.ID, false)
	require.NoError(t, err)
	_, err = a.Talk.OperatorSays(ctx, actor, opened.Chat.ID, uuid.NewString(), "How many are you?", nil)
	require.NoError(t, err)
	kinds := func() map[chat.Kind]int {
		events, err := chatlog.On(s).Events(ctx, opened.Chat.ID, 0, 100)
		require.NoError(t, err)
		count := map[chat.Kind]int{}
		for _, e := range events {
			count[e.Kind]++
		}
		return count
	}
	soon := func(kind chat.Kind) {
		t.Helper()
		require.Eventually(t, func() bool { return kinds()[kind] == 1 }, 20*time.Second, 50*time.Millisecond, kind)
	}
	now.Store(301)
	soon(chat.Reminded)
	a.Close()

	a = restarted()
	t.Cleanup(a.Close)
	require.NoError(t, a.Start(ctx))
	now.Store(423)
	soon(chat.Ended)
	require.Equal(t, 1, kinds()[chat.Reminded], "one reminder, not one each look")
}
