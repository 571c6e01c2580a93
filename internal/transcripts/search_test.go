package transcripts_test

import (
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"
	"unicode"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/search"
	"stoop/internal/chatlog"
	"stoop/internal/chatlog/logtest"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/testpg"
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
	note := func(c chatlog.Chat, words string) {
		_, err := a.Append(t.Context(), chatlog.Act{ChatID: c.ID, Decide: func(s chat.State) ([]chat.Event, error) {
			e, err := s.Note(chat.Operator(r.Idris), "n", words, time.Now())
			return []chat.Event{e}, err
		}})
		require.NoError(t, err)
	}
	note(bus, "asks for a Café in Fåborg")
	look := func(words string) []transcripts.Hit {
		t.Helper()
		q, err := search.Parse(words)
		require.NoError(t, err)
		hits, err := transcripts.On(r.Store).Search(t.Context(), transcripts.Search{Query: q, Limit: 10})
		require.NoError(t, err)
		n, err := transcripts.On(r.Store).Count(t.Context(), transcripts.Search{Query: q})
		require.NoError(t, err)
		require.EqualValues(t, len(hits), n)
		return hits
	}
	find := func(words string) (ids []string) {
		t.Helper()
		for _, h := range look(words) {
			ids = append(ids, h.Chat.ID)
		}
		return ids
	}
	cache := &settings.Cache{Tables: settings.On(r.Store)}
	require.Eventually(t, func() bool { // other tests' transactions hold the feed up for a moment
		for _, f := range []chatlog.Follower{(&transcripts.Room{}).Index(), facts.Follower(cache, slog.New(slog.DiscardHandler))} {
			_, err := chatlog.On(r.Store).Step(t.Context(), f)
			require.NoError(t, err)
		}
		return len(find("castellane")) == 3 && len(find("faborg")) == 1
	}, 20*time.Second, 10*time.Millisecond)
	require.Equal(t, []string{group.ID}, find("group MINIBUS"))
	require.Equal(t, []string{bus.ID, group.ID}, find("mini"), "the beginning of a word finds it; newest first")
	require.Equal(t, []string{markup.ID, bus.ID, group.ID}, find("castellane"), "by name")
	require.Empty(t, find("lorry"))
	require.Equal(t, []string{markup.ID}, find("anchor"), "what looks like markup is text, and found")
	require.Equal(t, []string{markup.ID}, find("<img"))
	require.Equal(t, []string{group.ID}, find("it's"))
	require.NotContains(t, find(""), open.ID, "an open chat is no transcript yet")

	require.Equal(t, []string{group.ID}, find(`"own minibus"`))
	require.Empty(t, find(`"minibus own"`), "a phrase has its order")
	require.Empty(t, find(`"over with"`), "and does not reach over two messages")
	require.Equal(t, []string{bus.ID}, find("minibus -group"))
	require.Equal(t, []string{markup.ID, group.ID}, find("group OR anchor"))
	require.Equal(t, []string{bus.ID}, find("CAFE fåborg"), "a note for the team, whatever the accents")
	require.True(t, look("cafe")[0].Noted)
	require.Equal(t, []search.Piece{{Text: "Is there a "}, {Text: "minibus", Hit: true}, {Text: " at the other end?"}}, look("minibus -group")[0].Excerpt)
	for _, odd := range []string{`'x`, `\x`, `& | ! x ()`, `a:*b`, `%x`, `x''' OR 1=1`, `<-> x`, `x:A`, "x\x00y", "\xffx"} {
		look(odd) // must not break the search
	}
}

// Letters are folded as PostgreSQL's own dictionary of accents does it.
func TestLettersFoldAsPostgresHasThem(t *testing.T) {
	s := testpg.Open(t)
	_, err := s.Pool().Exec(t.Context(), "create extension if not exists unaccent")
	require.NoError(t, err, "unaccent is part of Debian's package of PostgreSQL")
	for r := rune(0xC0); r <= 0x17F; r++ {
		if !unicode.IsLetter(r) {
			continue
		}
		var want string
		require.NoError(t, s.Pool().QueryRow(t.Context(), "select lower(unaccent($1))", string(r)).Scan(&want))
		require.Equal(t, strings.Trim(want, "'"), search.Fold(string(r)), string(r))
	}
}
