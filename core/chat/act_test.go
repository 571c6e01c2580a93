package chat_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

var (
	wren  = chat.Visitor("wren")
	maren = chat.Operator("maren")
	idris = chat.Operator("idris")
)

func at(seconds int) time.Time { return epoch.Add(time.Duration(seconds) * time.Second) }

// story folds acts one after the other; each gets the state that the one
// before it left.
func story(t *testing.T, acts ...func(chat.State) ([]chat.Event, error)) chat.State {
	t.Helper()
	var s chat.State
	for _, do := range acts {
		events, err := do(s)
		require.NoError(t, err)
		for _, e := range events {
			s, err = s.Apply(e)
			require.NoError(t, err)
		}
	}
	return s
}

func asks(second int) func(chat.State) ([]chat.Event, error) {
	return func(chat.State) ([]chat.Event, error) {
		return chat.Start(wren, "c1", chat.Intro{Name: "Wren"}, "Is there room for a minibus?", 2000, at(second))
	}
}

func says(by chat.Party, second int) func(chat.State) ([]chat.Event, error) {
	return func(s chat.State) ([]chat.Event, error) {
		e, err := s.Say(by, "", "words", 2000, at(second))
		return []chat.Event{e}, err
	}
}

func takes(by chat.Party, second int) func(chat.State) ([]chat.Event, error) {
	return func(s chat.State) ([]chat.Event, error) { return s.Take(by, at(second)) }
}

func ends(by chat.Party, second int) func(chat.State) ([]chat.Event, error) {
	return func(s chat.State) ([]chat.Event, error) { return s.End(by, chat.WrapUp{}, at(second)) }
}

func TestSecondTakerIsToldWhoWon(t *testing.T) {
	s := story(t, asks(0), takes(maren, 10))
	_, err := s.Take(idris, at(11))
	var taken *chat.TakenError
	require.ErrorAs(t, err, &taken)
	require.Equal(t, "maren", taken.By)

	again, err := s.Take(maren, at(12))
	require.NoError(t, err)
	require.Empty(t, again, "pressing Take twice must not fill the transcript")
}

func TestWhoMaySpeak(t *testing.T) {
	waiting := story(t, asks(0))
	active := story(t, asks(0), takes(maren, 5))
	over := story(t, asks(0), takes(maren, 5), ends(wren, 9))
	for name, c := range map[string]struct {
		in   chat.State
		by   chat.Party
		want error
	}{
		"visitor while waiting":       {waiting, wren, nil},
		"visitor while active":        {active, wren, nil},
		"owner":                       {active, maren, nil},
		"operator before taking":      {waiting, maren, chat.ErrNotTaken},
		"colleague of the owner":      {active, idris, chat.ErrNotYours},
		"another visitor":             {active, chat.Visitor("oskar"), chat.ErrNotYours},
		"visitor after the end":       {over, wren, chat.ErrEnded},
		"owner after the end":         {over, maren, chat.ErrEnded},
		"another visitor after it":    {over, chat.Visitor("oskar"), chat.ErrNotYours},
		"visitor in a chat unstarted": {chat.State{}, wren, chat.ErrNotStarted},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := c.in.Say(c.by, "", "Hello", 2000, at(20))
			require.ErrorIs(t, err, c.want)
		})
	}
}

func TestAnsweredMeansThatSomebodyAnswered(t *testing.T) {
	require.Equal(t, chat.Missed, story(t, asks(0), ends(wren, 30)).Ending)
	require.Equal(t, chat.Answered, story(t, asks(0), takes(maren, 5), says(maren, 9), ends(wren, 30)).Ending)
	require.Equal(t, chat.Missed, story(t, asks(0), takes(maren, 5), ends(maren, 30)).Ending, "taken, and never answered")

	putsBack := func(s chat.State) ([]chat.Event, error) { return one(s.PutBack(maren, "", at(20))) }
	leaves := func(s chat.State) ([]chat.Event, error) { return s.Miss(at(60)) }
	abandoned := story(t, asks(0), takes(maren, 5), says(maren, 9), putsBack, leaves)
	require.Equal(t, chat.Answered, abandoned.Ending, "it had been answered before it waited again")
	require.Equal(t, "maren", abandoned.Owner, "and that by somebody")
	require.Nil(t, abandoned.WrapUntil)
	require.Equal(t, chat.Missed, story(t, asks(0), takes(maren, 5), putsBack, leaves).Ending)
	withdrawn := func(s chat.State) ([]chat.Event, error) { return s.Withdraw(maren, saidAt(maren, 4, 9), at(12)) }
	require.Equal(t, chat.Missed, story(t, asks(0), takes(maren, 5), says(maren, 9), withdrawn, ends(wren, 30)).Ending, "an answer taken back is none")

	_, err := story(t, asks(0)).End(maren, chat.WrapUp{}, at(3))
	require.ErrorIs(t, err, chat.ErrNotTaken, "a waiting chat must not be closed unanswered")
	events, err := story(t, asks(0), ends(wren, 30)).End(wren, chat.WrapUp{}, at(31))
	require.NoError(t, err)
	require.Empty(t, events, "both sides may press End at once")
}

// The clock runs from the first unanswered words. Common practice in the
// trade: a follow-up line does not restart the customer's wait.
func TestReplyClock(t *testing.T) {
	minute := time.Minute
	s := story(t, asks(0), says(wren, 20), takes(maren, 25))
	c := s.Clock(at(39), minute)
	require.Equal(t, chat.Clock{Turn: chat.TeamTurn, Running: 39 * time.Second, Left: 21 * time.Second, Urgency: chat.Calm}, c)
	require.Equal(t, chat.Soon, s.Clock(at(40), minute).Urgency, "40 s is two thirds of a minute")
	require.Equal(t, chat.Soon, s.Clock(at(60), minute).Urgency, "exactly on target is not late")
	late := s.Clock(at(82), minute)
	require.Equal(t, chat.Late, late.Urgency)
	require.Equal(t, -22*time.Second, late.Left)

	answered := story(t, asks(0), takes(maren, 25), says(maren, 50))
	require.Equal(t, chat.Clock{Turn: chat.VisitorTurn, Running: 100 * time.Second, Urgency: chat.Calm}, answered.Clock(at(150), minute))

	again := story(t, asks(0), takes(maren, 25), says(maren, 50), says(wren, 70), says(wren, 90))
	require.Equal(t, 30*time.Second, again.Clock(at(100), minute).Running)

	over := story(t, asks(0), takes(maren, 25), ends(maren, 50))
	require.Equal(t, chat.NobodysTurn, over.Clock(at(5000), minute).Turn)
	require.Equal(t, chat.Calm, over.Clock(at(5000), minute).Urgency)
}

func TestWords(t *testing.T) {
	for name, c := range map[string]struct{ in, want string }{
		"white space at the ends":  {"  hello \n", "hello"},
		"windows line ends":        {"one\r\ntwo\rthree", "one\ntwo\nthree"},
		"control characters":       {"be\x00ll\x07 \x1b[31mred", "bell [31mred"},
		"broken encoding":          {"caf\xe9", "caf\uFFFD"},
		"right to left":            {"\u200fשלום world", "\u200fשלום world"},
		"emoji of several parts":   {"👩‍👩‍👧‍👦 🏳️‍🌈", "👩‍👩‍👧‍👦 🏳️‍🌈"},
		"markup is only text":      {"<script>alert(1)</script>", "<script>alert(1)</script>"},
		"tabs and blank lines":     {"a\n\n\tb", "a\n\n\tb"},
		"line separators of text":  {"a\u2028b", "a\nb"},
		"combining mark on letter": {"e\u0301", "e\u0301"},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := chat.CleanWords(c.in, 100)
			require.NoError(t, err)
			require.Equal(t, c.want, got)
		})
	}
	for _, nothing := range []string{"", "   ", "\n\t", "\x00\x01", "\u200b\u200d", "\u2060\u200f"} {
		_, err := chat.CleanWords(nothing, 100)
		require.ErrorIs(t, err, chat.ErrEmpty, "%q", nothing)
	}
}

func TestWordLimitCountsCharactersNotBytes(t *testing.T) {
	_, err := chat.CleanWords(strings.Repeat("é", 2000), 2000)
	require.NoError(t, err)
	_, err = chat.CleanWords(strings.Repeat("é", 2001), 2000)
	var long *chat.TooLongError
	require.ErrorAs(t, err, &long)
	require.Equal(t, chat.TooLongError{Length: 2001, Limit: 2000}, *long)
	_, err = chat.CleanWords(strings.Repeat("x", 100_000), 2000)
	require.ErrorAs(t, err, &long)
}

func TestLineIsOneHarmlessLine(t *testing.T) {
	require.Equal(t, "Wren Castellane", chat.CleanLine(" Wren \n\t Castellane\x00 ", 100))
	require.Equal(t, "gpj.exe", chat.CleanLine("\u202egpj.exe", 100), "a name must not turn the line around")
	require.Equal(t, "ééé", chat.CleanLine("ééééé", 3))
}
