package chat_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/chat"
)

// There is as much to receive as the other side has said: what stands behind it
// is no news of theirs.
func TestReceipts(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5), says(maren, 9)) // the answer is number 4
	var m chat.Marks
	require.Equal(t, chat.Sent, m.Receipt(4, chat.TeamSide, true))
	require.Equal(t, chat.WaitingForReturn, m.Receipt(4, chat.TeamSide, false))
	require.Equal(t, chat.Sent, m.Receipt(2, chat.VisitorSide, false), "the visitor's own words never wait for the visitor")

	upTo, err := s.Receive(wren, s.Last)
	require.NoError(t, err)
	require.EqualValues(t, 4, upTo)
	m, news := m.Moved(chat.VisitorSide, chat.Delivered, upTo)
	require.True(t, news)
	require.Equal(t, chat.WasDelivered, m.Receipt(4, chat.TeamSide, false), "delivered stays delivered when the page closes")
	require.Equal(t, 1, s.UnseenBy(chat.VisitorSide, m))

	m, _ = m.Moved(chat.VisitorSide, chat.Seen, upTo)
	require.Equal(t, chat.Mark{Delivered: 4, Seen: 4}, m.ByVisitor, "seen implies delivered")
	require.Zero(t, s.UnseenBy(chat.VisitorSide, m))
	_, news = m.Moved(chat.VisitorSide, chat.Delivered, 4)
	require.False(t, news)

	upTo, err = s.Receive(maren, s.Last)
	require.NoError(t, err)
	require.EqualValues(t, 2, upTo, "of the visitor's words, the last is the question")
	for _, beyond := range []int64{0, -3, s.Last + 1} {
		_, err = s.Receive(wren, beyond)
		require.ErrorIs(t, err, chat.ErrBeyondLog)
	}
	_, err = s.Receive(idris, 2)
	require.ErrorIs(t, err, chat.ErrNotYours, "a colleague looking on must not tell the visitor that they were seen")
}

// Marks only rise, in whatever order and however often they are told, and seen
// is never beyond delivered.
func TestMarksOnlyRise(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var m, other chat.Marks
		for range rapid.IntRange(1, 30).Draw(t, "receipts") {
			side := rapid.SampledFrom([]chat.Side{chat.VisitorSide, chat.TeamSide}).Draw(t, "side")
			kind := rapid.SampledFrom([]chat.Kind{chat.Delivered, chat.Seen}).Draw(t, "kind")
			before := m.Of(side)
			after, news := m.Moved(side, kind, rapid.Int64Range(0, 50).Draw(t, "upTo"))
			require.Equal(t, after != m, news)
			require.GreaterOrEqual(t, after.Of(side).Delivered, before.Delivered)
			require.GreaterOrEqual(t, after.Of(side).Seen, before.Seen)
			require.LessOrEqual(t, after.Of(side).Seen, after.Of(side).Delivered)
			require.Equal(t, m.Of(side.Other()), after.Of(side.Other()))
			if rapid.Bool().Draw(t, "heard") {
				other = other.With(after)
			}
			m = after
		}
		require.Equal(t, m.With(other), other.With(m), "two servers agree, whoever asks whom")
		require.Equal(t, m, m.With(other))
	})
}

// A flood is counted up to a hundred, and stays short in the chat's row; so do
// words that come between each other's.
func TestUnseenAfterAFlood(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5))
	grow := func(by chat.Party, times int) {
		for range times {
			e, err := s.Say(by, "", "words", 100, at(10))
			require.NoError(t, err)
			s, err = s.Apply(e)
			require.NoError(t, err)
		}
	}
	grow(wren, 300)
	require.Equal(t, 100, s.UnseenBy(chat.TeamSide, chat.Marks{}))
	m, _ := chat.Marks{}.Moved(chat.TeamSide, chat.Seen, s.Last-3)
	require.Equal(t, 3, s.UnseenBy(chat.TeamSide, m))
	for range 300 {
		grow(wren, 1)
		grow(maren, 1)
	}
	data, err := json.Marshal(s.Recent)
	require.NoError(t, err)
	require.Less(t, len(data), 600)
}
