package server_test

import (
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/standin/crowd"
	"stoop/internal/talk"
)

// Two simulated colleagues answer who waits, and say what they are; more than two
// chats at once they leave to others; when they go, they are away.
func TestSimulatedColleaguesAnswer(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	f.available(f.operator(4, newInbox()), false)
	for range 2 { // again it changes nothing
		require.NoError(t, demo.SeedSimulated(f.ctx, f.Store, time.Now()))
	}
	f.Settings.Forget()
	s, err := f.Settings.Get(f.ctx)
	require.NoError(t, err)
	require.Len(t, s.Operators, len(demo.Logins)+2)
	ctx, leave := context.WithCancel(f.ctx)
	gone := make(chan struct{})
	go func() {
		defer close(gone)
		crowd.WorkTogether(ctx, crowd.Colleague{Base: f.URL, Email: demo.Simulated[0].Email, Password: demo.Password, Log: slog.New(slog.DiscardHandler), Brisk: true})
	}()
	require.Eventually(t, func() bool {
		for _, o := range s.Operators {
			if o.Email == demo.Simulated[0].Email {
				stands, err := f.Floor.Standing(f.ctx, o.ID)
				return err == nil && stands.Here
			}
		}
		return false
	}, 20*time.Second, 20*time.Millisecond)

	wren := f.visitor(newInbox())
	opened, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Can the dog sit with us in the lounge?", Name: "Wren"})
	require.NoError(t, err)
	said := func(words string) func() bool {
		return func() bool {
			for _, e := range f.resume(wren).Events {
				if e.Kind == "said" && e.Side == "team" && strings.Contains(e.Text, words) {
					return true
				}
			}
			return false
		}
	}
	require.Eventually(t, said("simulated colleague of this demo. In the aft lounge"), 20*time.Second, 50*time.Millisecond)
	_, err = wren.Say(f.ctx, opened.Chat.ID, uuid.NewString(), "Is there a bus?")
	require.NoError(t, err)
	require.Eventually(t, said("Line 4"), 20*time.Second, 50*time.Millisecond)
	leave()
	<-gone
}
