package chat_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

// overChat is a chat that was answered and has ended, with the survey or without.
func overChat(t *testing.T, survey bool, why string) (chat.State, time.Time) {
	t.Helper()
	now := epoch
	log, err := chat.Start(wren, "1", chat.Intro{}, "Is the 14:10 on time?", 100, now)
	require.NoError(t, err)
	s, err := chat.Fold(log)
	require.NoError(t, err)
	apply := func(events []chat.Event, err error) {
		t.Helper()
		require.NoError(t, err)
		for _, e := range events {
			s, err = s.Apply(e)
			require.NoError(t, err)
		}
	}
	apply(s.Take(maren, now))
	said, err := s.Say(maren, "2", "It is.", 100, now)
	apply([]chat.Event{said}, err)
	if why == chat.Banned {
		apply(s.ShutOut(maren, chat.WrapUp{Survey: survey}, now))
	} else {
		apply(s.End(wren, chat.WrapUp{Survey: survey}, now))
	}
	return s, now
}

func rated(t *testing.T, s chat.State, rating int, words string, now time.Time) chat.State {
	t.Helper()
	events, err := s.Rate(wren, rating, words, now)
	require.NoError(t, err)
	require.Len(t, events, 1)
	s, err = s.Apply(events[0])
	require.NoError(t, err)
	return s
}

func TestOneClickIsARatingAndTheLastWordHolds(t *testing.T) {
	s, now := overChat(t, true, "")
	require.True(t, s.Surveyed)
	s = rated(t, s, 2, "", now)
	require.True(t, s.Feedback.ToRead())
	again, err := s.Rate(wren, 2, " ", now)
	require.NoError(t, err)
	require.Empty(t, again, "the same again changes nothing")
	s = rated(t, s, 4, "  It was quick.\x00 ", now.Add(time.Hour))
	require.Equal(t, "It was quick.", s.Feedback.Words)
	require.Equal(t, 4, s.Feedback.Rating)
	require.False(t, s.Feedback.ToRead())
}

func TestWhoMayNotRate(t *testing.T) {
	s, now := overChat(t, true, "")
	for _, c := range []struct {
		name   string
		by     chat.Party
		rating int
		words  string
		at     time.Time
		is     error
	}{
		{"somebody else", chat.Visitor("stranger"), 5, "", now, chat.ErrNotYours},
		{"the operator", maren, 5, "", now, chat.ErrNotYours},
		{"nothing", wren, 0, "", now, chat.ErrNoRating},
		{"more than there is", wren, 6, "", now, chat.ErrNoRating},
		{"too late", wren, 5, "", now.Add(chat.RateWithin + time.Second), chat.ErrRatedLate},
	} {
		_, err := s.Rate(c.by, c.rating, c.words, c.at)
		require.ErrorIs(t, err, c.is, c.name)
	}
	var long *chat.TooLongError
	_, err := s.Rate(wren, 5, strings.Repeat("x", chat.FeedbackLength+1), now)
	require.ErrorAs(t, err, &long)

	silent, _ := overChat(t, false, "")
	_, err = silent.Rate(wren, 5, "", now)
	require.ErrorIs(t, err, chat.ErrNotAsked, "a widget without a survey")
	banned, _ := overChat(t, true, chat.Banned)
	require.False(t, banned.Surveyed, "who was shut out is not asked")
	open, err := chat.Start(wren, "1", chat.Intro{}, "Hello", 100, now)
	require.NoError(t, err)
	running, err := chat.Fold(open)
	require.NoError(t, err)
	_, err = running.Rate(wren, 5, "", now)
	require.ErrorIs(t, err, chat.ErrNotAsked, "a chat that goes on")
}

func TestAChangeOfMindHasAnEnd(t *testing.T) {
	s, now := overChat(t, true, "")
	var err error
	changes := 0
	for ; err == nil && changes < 100; changes++ {
		var events []chat.Event
		if events, err = s.Rate(wren, 1+changes%2, "", now); err == nil {
			s, err = s.Apply(events[0])
		}
	}
	require.ErrorIs(t, err, chat.ErrRatedOften)
	require.Equal(t, 2, s.Feedback.Rating, "what was said last is kept")
}

// What a lead closes is what they have read: a change in between must be read too.
func TestALowRatingIsReadAndClosed(t *testing.T) {
	s, now := overChat(t, true, "")
	_, err := s.ReadFeedback(maren, 99, "", now)
	require.ErrorIs(t, err, chat.ErrNotThat, "there is none")
	s = rated(t, s, 1, "", now)
	seen := s.Feedback.Number
	s = rated(t, s, 1, "Nobody answered my second question.", now)
	_, err = s.ReadFeedback(maren, seen, "", now)
	require.ErrorIs(t, err, chat.ErrRatedAnew)
	_, err = s.ReadFeedback(wren, s.Feedback.Number, "", now)
	require.ErrorIs(t, err, chat.ErrNotYours)
	events, err := s.ReadFeedback(maren, s.Feedback.Number, "Called her.", now)
	require.NoError(t, err)
	require.Equal(t, "Called her.", events[0].Text)
	s, err = s.Apply(events[0])
	require.NoError(t, err)
	require.Equal(t, "maren", s.Feedback.ReadBy)
	again, err := s.ReadFeedback(chat.Operator("idris"), s.Feedback.Number, "", now)
	require.NoError(t, err)
	require.Empty(t, again, "a colleague was faster")
	s = rated(t, s, 2, "Thank you for the call.", now)
	require.True(t, s.Feedback.ToRead(), "what came after it is to be read")
}
