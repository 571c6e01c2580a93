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
	"stoop/core/hours"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/live"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

// The hours end while somebody waits: after a minute their question is kept as
// a message, and the widget says when the team is back. In the morning the team
// is open again.
func TestWhoStillWaitsWhenTheHoursEndIsKeptAsAMessage(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := testpg.Open(t)
	var now atomic.Pointer[time.Time]
	clock := func(text string) {
		at, err := time.Parse("2006-01-02 15:04:05", text)
		require.NoError(t, err)
		now.Store(&at)
	}
	clock("2026-11-24 16:59:30")
	disk, err := files.NewDisk(t.TempDir())
	require.NoError(t, err)
	a, err := server.NewHouse(server.HouseConfig{Store: s, Live: live.Nobody{}, Files: disk, Now: func() time.Time { return *now.Load() }})
	require.NoError(t, err)
	t.Cleanup(a.Close)
	week := settings.Hours{ID: uuid.NewString(), Name: "Day", Zone: "UTC", Exceptions: []hours.Exception{}}
	for day := time.Sunday; day <= time.Saturday; day++ {
		week.Weekly = append(week.Weekly, hours.Period{Day: day, Span: hours.Span{From: 8 * 60, To: 17 * 60}})
	}
	require.NoError(t, settings.On(s).SaveHours(ctx, week))
	departments, err := settings.On(s).Departments(ctx)
	require.NoError(t, err)
	ada := settings.Operator{ID: uuid.NewString(), Email: "ada@example.com", Name: "Ada Merrow", Role: access.Operator, PasswordHash: "-"}
	require.NoError(t, settings.On(s).AddOperator(ctx, ada))
	departments[0].HoursID, departments[0].Members = &week.ID, []settings.Member{{OperatorID: ada.ID}}
	require.NoError(t, settings.On(s).SaveDepartment(ctx, departments[0]))
	w := settings.Widget{ID: uuid.NewString(), Key: "ferry", Design: widget.Design{Name: "Site", Title: "Ask", Sites: []string{}, Colour: "#9c3f27", Corner: "right", MessageLimit: 2000, AnswerTargetSeconds: 60}}
	require.NoError(t, settings.On(s).SaveWidget(ctx, w))
	require.NoError(t, a.Start(ctx))
	a.Floor.Connected(ctx, "ada", chat.Operator(ada.ID), nil)
	_, err = a.Floor.SetAvailable(ctx, access.Actor{ID: ada.ID, Role: ada.Role}, true)
	require.NoError(t, err)

	visitor, err := a.Talk.Admit(ctx, w, "", "")
	require.NoError(t, err)
	a.Floor.Connected(ctx, "visitor", chat.Visitor(visitor.ID), nil)
	opened, err := a.Talk.Open(ctx, visitor, talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?"})
	require.NoError(t, err)
	state := func() chat.State {
		require.NoError(t, a.Floor.HandOut(ctx))
		c, err := chatlog.On(s).Chat(ctx, opened.Chat.ID)
		require.NoError(t, err)
		return c.State
	}
	clock("2026-11-24 17:00:30")
	require.False(t, state().Message, "somebody may still take it")
	view, err := a.Floor.WidgetView(ctx, w)
	require.NoError(t, err)
	require.Equal(t, "closed", view.Now.State)
	require.Equal(t, "2026-11-25 08:00", view.Now.OpensAt.Format("2006-01-02 15:04"))
	another, err := a.Talk.Admit(ctx, w, "", "")
	require.NoError(t, err)
	_, err = a.Talk.Open(ctx, another, talk.Opening{ClientID: uuid.NewString(), Text: "Too late?"})
	var closed *talk.ClosedError
	require.ErrorAs(t, err, &closed)

	clock("2026-11-24 17:01:01")
	kept := state()
	require.True(t, kept.Message)
	require.Equal(t, chat.Waiting, kept.Phase, "it waits on the line for the morning")
	clock("2026-11-25 08:00:00")
	view, err = a.Floor.WidgetView(ctx, w)
	require.NoError(t, err)
	require.Equal(t, "open", view.Now.State)
	require.Equal(t, []string{"Ada"}, view.Now.In)
}
