package chat_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

// plan is what a widget says by itself in these tests.
var plan = []chat.Planned{
	{Rule: "welcome-maren", On: chat.AtTake, Operator: maren.ID, Text: "Maren here, good morning."},
	{Rule: "hello", On: chat.AtStart, Text: "We have your question."},
	{Rule: "left", On: chat.AtMessage, Text: "We answer tomorrow."},
	{Rule: "busy", On: chat.AtWait, After: 60 * time.Second, Text: "We are still busy."},
	{Rule: "later", On: chat.AtWait, After: 180 * time.Second, Text: "It takes longer today."},
	{Rule: "there", On: chat.AtSilence, After: 120 * time.Second, Text: "Are you still there?"},
}

// automatically says what is due at a second, and returns the state with the words.
func automatically(t *testing.T, s chat.State, second int) (chat.State, string) {
	t.Helper()
	events := s.Automatic(plan, at(second))
	if len(events) == 0 {
		return s, ""
	}
	require.Len(t, events, 1, "never two at once")
	require.Equal(t, chat.House, events[0].By)
	next, err := s.Apply(events[0])
	require.NoError(t, err)
	require.Equal(t, s.Turn, next.Turn, "a machine's words are nobody's answer")
	require.Equal(t, s.TurnSince, next.TurnSince)
	require.Equal(t, s.RepliedAt, next.RepliedAt)
	return next, events[0].Text
}

// Each is said once when it is due, never two at once and none right after another.
func TestAutomaticWordsAreSaidInTheirTime(t *testing.T) {
	s := story(t, asks(0))
	said := map[int]string{}
	for second := range 400 {
		var words string
		if s, words = automatically(t, s, second); words != "" {
			said[second] = words
		}
	}
	require.Equal(t, map[int]string{0: "We have your question.", 60: "We are still busy.", 180: "It takes longer today."}, said)

	// Two that are due together stand apart.
	s = story(t, asks(0))
	said = map[int]string{}
	for second := 300; second < 400; second++ {
		var words string
		if s, words = automatically(t, s, second); words != "" {
			said[second] = words
		}
	}
	require.Equal(t, map[int]string{300: "We are still busy.", 320: "It takes longer today."}, said, "who has waited long is not greeted")
}

// A silence that is broken and begins again is a new one, and so is a new wait.
func TestAnOccasionThatComesAgain(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5), says(maren, 10))
	s, words := automatically(t, s, 129)
	require.Empty(t, words)
	s, words = automatically(t, s, 130)
	require.Equal(t, "Are you still there?", words)
	s, words = automatically(t, s, 600)
	require.Empty(t, words, "once a silence")
	word, err := s.Say(wren, "yes", "Yes", 100, at(610))
	require.NoError(t, err)
	s, err = s.Apply(word)
	require.NoError(t, err)
	s, words = automatically(t, s, 900)
	require.Empty(t, words, "it is the team's turn")
	s = apply(t, s, says(maren, 910))
	s, words = automatically(t, s, 1030)
	require.Equal(t, "Are you still there?", words)
	s = apply(t, s, func(s chat.State) ([]chat.Event, error) { return one(s.PutBack(maren, "Ask Idris.", at(1100))) })
	_, words = automatically(t, s, 1160)
	require.Equal(t, "We are still busy.", words)
}

// Who takes a chat welcomes its visitor, unless they were faster themselves.
func TestAWelcome(t *testing.T) {
	s := story(t, asks(0), takes(maren, 40))
	s, words := automatically(t, s, 41)
	require.Equal(t, "Maren here, good morning.", words)
	_, words = automatically(t, s, 70)
	require.Empty(t, words)
	for what, s := range map[string]chat.State{
		"she has spoken":        story(t, asks(0), takes(maren, 40), says(maren, 40)),
		"it is somebody else's": story(t, asks(0), takes(idris, 70)),
		"long ago":              story(t, asks(-200), takes(maren, -100)),
	} {
		_, words := automatically(t, s, 75)
		require.Empty(t, words, what)
	}
}

// A message left is confirmed; who was written to is told nothing, and nothing is said
// after the end.
func TestWhereNothingIsSaid(t *testing.T) {
	log, err := chat.Start(wren, "1", chat.Intro{Message: true}, "Is the ramp open?", 100, at(0))
	require.NoError(t, err)
	left, err := chat.Fold(log)
	require.NoError(t, err)
	left, words := automatically(t, left, 1)
	require.Equal(t, "We answer tomorrow.", words)
	_, words = automatically(t, left, 500)
	require.Empty(t, words, "a message does not wait")

	log, err = chat.StartWriting(wren, maren, chat.Intro{}, at(0))
	require.NoError(t, err)
	written, err := chat.Fold(log)
	require.NoError(t, err)
	_, words = automatically(t, written, 1)
	require.Empty(t, words)

	over := story(t, asks(0), takes(maren, 5), says(maren, 6), func(s chat.State) ([]chat.Event, error) { return s.End(wren, chat.WrapUp{}, at(9)) })
	_, words = automatically(t, over, 10)
	require.Empty(t, words)
}

// A reminder that the chat is about to end, and what is said by itself, keep out of each
// other's way.
func TestAReminderAndAutomaticWords(t *testing.T) {
	patience := chat.Patience{Remind: 125 * time.Second, End: time.Minute}
	s := story(t, asks(0), takes(maren, 5), says(maren, 10))
	s, words := automatically(t, s, 130)
	require.NotEmpty(t, words)
	require.Empty(t, s.Silence(patience, chat.WrapUp{}, at(149)))
	reminded := s.Silence(patience, chat.WrapUp{}, at(150))
	require.Len(t, reminded, 1)

	s = story(t, asks(0), takes(maren, 5), says(maren, 10))
	s = apply(t, s, func(s chat.State) ([]chat.Event, error) {
		return s.Silence(chat.Patience{Remind: time.Minute, End: time.Hour}, chat.WrapUp{}, at(80)), nil
	})
	_, words = automatically(t, s, 300)
	require.Empty(t, words, "they are told already that it is about to end")
}

func apply(t *testing.T, s chat.State, act func(chat.State) ([]chat.Event, error)) chat.State {
	t.Helper()
	events, err := act(s)
	require.NoError(t, err)
	for _, e := range events {
		s, err = s.Apply(e)
		require.NoError(t, err)
	}
	return s
}

// A rule's words are said where somebody has spoken since something was last said by itself, and
// what the widget says waits for that as well.
func TestNeverTwoAutomaticWordsInARow(t *testing.T) {
	s := story(t, asks(0))
	saysByRule := func(second int) bool {
		events := s.SayByRule("r1", "", "We look into it.", at(second))
		for _, e := range events {
			var err error
			s, err = s.Apply(e)
			require.NoError(t, err)
		}
		return len(events) > 0
	}
	turn := s.TurnSince
	require.True(t, saysByRule(30))
	require.Equal(t, chat.TeamTurn, s.Turn)
	require.Equal(t, turn, s.TurnSince, "it is nobody's answer")
	require.False(t, saysByRule(90))
	s, words := automatically(t, s, 120)
	require.Empty(t, words, "nor does the widget speak right after it")
	word, err := s.Say(wren, "and", "And tomorrow?", 100, at(130))
	require.NoError(t, err)
	s, err = s.Apply(word)
	require.NoError(t, err)
	s, words = automatically(t, s, 200)
	require.Equal(t, "We are still busy.", words)
	require.False(t, saysByRule(300), "the widget has spoken")
	s = apply(t, apply(t, s, takes(maren, 301)), says(maren, 302))
	require.True(t, saysByRule(400))
}
