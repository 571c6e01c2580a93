package chatlog_test

import (
	"context"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
)

// What is told is made ready while an act is stored; what was seen in between is not
// counted as unseen.
func TestWhatIsToldKnowsWhatWasSeenMeanwhile(t *testing.T) {
	r := logtest.New(t)
	ctx := context.Background()
	made, told := make(chan struct{}, 10), make(chan chatlog.Result, 10)
	a := chatlog.New(r.Store, func(result chatlog.Result) func() {
		made <- struct{}{}
		return func() { told <- result }
	})
	t.Cleanup(a.Close)
	c := r.Start(t, "Hello")
	_, err := a.Append(ctx, logtest.Take(c, r.Maren))
	require.NoError(t, err)
	<-made
	<-told
	act := logtest.Say(c, chat.Visitor(c.VisitorID), uuid.NewString(), "Are you there?")
	act.Guard = func(context.Context, pgx.Tx) error {
		<-made // what would be told is ready
		return a.Receive(ctx, c.ID, chat.Operator(r.Maren), chat.Seen, 2)
	}
	_, err = a.Append(ctx, act)
	require.NoError(t, err)
	for result := range told {
		if !result.Marked {
			require.EqualValues(t, 2, result.Chat.Marks().ByTeam.Seen)
			require.Equal(t, 1, result.Chat.State.UnseenBy(chat.TeamSide, result.Chat.Marks()))
			return
		}
	}
}
