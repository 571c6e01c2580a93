package transcripts_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/transcripts"
)

func TestSearchFindsAllWordsAnywhereInTheChat(t *testing.T) {
	r := logtest.New(t)
	a := logtest.Log(t, r.Store, nil)
	end := func(c chatlog.Chat) {
		_, err := a.Append(context.Background(), chatlog.Act{ChatID: c.ID, By: chat.Visitor(c.VisitorID), Decide: func(s chat.State) ([]chat.Event, error) {
			return s.End(chat.Visitor(c.VisitorID), chat.WrapUp{}, time.Now())
		}})
		require.NoError(t, err)
	}
	group := r.Start(t, "We would like to bring a group over")
	_, err := a.Append(context.Background(), logtest.Say(group, chat.Visitor(group.VisitorID), "2", "with our own minibus, it's 6.8 m"))
	require.NoError(t, err)
	bus := r.Start(t, "Is there a minibus at the other end?")
	open := r.Start(t, "group minibus, still talking")
	markup := r.Start(t, `How do I write <b>bold</b> or <img alt="anchor"> here?`)
	end(markup)
	end(group)
	end(bus)
	find := func(words string) (ids []string) {
		hits, err := transcripts.On(r.Store).Search(context.Background(), transcripts.Search{Words: words, Limit: 10})
		require.NoError(t, err)
		for _, h := range hits {
			ids = append(ids, h.Chat.ID)
		}
		return ids
	}
	require.Eventually(t, func() bool { // other tests' transactions hold the feed up for a moment
		_, err := chatlog.On(r.Store).Step(context.Background(), (&transcripts.Room{}).Index())
		require.NoError(t, err)
		return len(find("castellane")) == 3
	}, 20*time.Second, 10*time.Millisecond)
	require.Equal(t, []string{group.ID}, find("group MINIBUS"))
	require.Equal(t, []string{bus.ID, group.ID}, find("mini"), "the beginning of a word finds it; newest first")
	require.Equal(t, []string{markup.ID, bus.ID, group.ID}, find("castellane"), "by name")
	require.Empty(t, find("lorry"))
	require.Equal(t, []string{markup.ID}, find("anchor"), "what looks like markup is text, and found")
	require.Equal(t, []string{markup.ID}, find("<img"))
	require.Equal(t, []string{group.ID}, find("it's"))
	require.NotContains(t, find(""), open.ID, "an open chat is no transcript yet")
	for _, odd := range []string{`'`, `\`, `& | ! ()`, `a:*b`, `%`, `''' OR 1=1`} {
		_, err := transcripts.On(r.Store).Search(context.Background(), transcripts.Search{Words: odd, Limit: 10})
		require.NoError(t, err, "typing %q must not break the search", odd)
	}
}
