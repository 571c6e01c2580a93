package chat_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
)

type step = func(chat.State) ([]chat.Event, error)

func one(e chat.Event, err error) ([]chat.Event, error) { return []chat.Event{e}, err }

func routes(department string) step {
	return func(s chat.State) ([]chat.Event, error) {
		return one(s.Route(routing.Decision{Department: department}, false, at(0)))
	}
}

func offers(operator string, second int) step {
	return func(s chat.State) ([]chat.Event, error) {
		return one(s.Offer(operator, at(second+20), nil, at(second)))
	}
}

func hands(operator, department string, second int) step {
	return func(s chat.State) ([]chat.Event, error) {
		return one(s.HandOn(maren, operator, department, "group of 12", at(second+60), at(second)))
	}
}

func passes(by chat.Party, second int) step {
	return func(s chat.State) ([]chat.Event, error) { return one(s.Pass(by, at(second))) }
}

func lapses(number int64, second int) step {
	return func(s chat.State) ([]chat.Event, error) { return s.Lapse(number, at(second)) }
}

// While one operator has some seconds, nobody else can take the chat; when they
// pass or do not answer, it goes on, and it is remembered who let it by.
func TestAnOfferIsForOneOperator(t *testing.T) {
	s := story(t, asks(0), routes("d"), offers("maren", 1))
	_, err := s.Take(idris, at(2))
	var offered *chat.OfferedError
	require.ErrorAs(t, err, &offered)
	require.Equal(t, "maren", offered.To)
	_, err = s.Offer("idris", at(30), nil, at(2))
	require.ErrorAs(t, err, &offered)
	_, err = s.Pass(idris, at(2))
	require.ErrorIs(t, err, chat.ErrNoOffer)

	passed := story(t, asks(0), routes("d"), offers("maren", 1), passes(maren, 3), offers("idris", 4))
	require.Equal(t, []string{"maren"}, passed.PassedBy)
	require.Equal(t, "idris", passed.Offered.To)
	late, err := passed.Lapse(4, at(25))
	require.NoError(t, err)
	require.Empty(t, late, "a late time-out must not end another offer")
	lapsed := story(t, asks(0), routes("d"), offers("maren", 1), lapses(4, 21))
	require.Nil(t, lapsed.Offered)
	require.Equal(t, chat.Waiting, lapsed.Phase)

	taken := story(t, asks(0), routes("d"), offers("maren", 1), takes(maren, 5))
	require.Nil(t, taken.Offered)
	require.Equal(t, "maren", taken.Owner)
}

// A chat that is handed on stays with its owner until somebody takes it, and
// the visitor goes on speaking to them.
func TestHandingOnNeverDropsAChat(t *testing.T) {
	s := story(t, asks(0), routes("d"), takes(maren, 5), hands("idris", "", 10))
	require.Equal(t, "maren", s.Owner)
	_, err := s.Say(maren, "", "One moment", 100, at(11))
	require.NoError(t, err)
	_, err = s.HandOn(maren, "tove", "", "", at(80), at(12))
	require.ErrorIs(t, err, chat.ErrHandingOn)
	var taken *chat.TakenError
	_, err = s.Take(chat.Operator("tove"), at(12))
	require.ErrorAs(t, err, &taken, "it was offered to Idris alone")

	got := story(t, asks(0), routes("d"), takes(maren, 5), hands("idris", "", 10), takes(idris, 15))
	require.Equal(t, "idris", got.Owner)
	require.Equal(t, 1, got.HandOns)
	require.Equal(t, at(5), got.TakenAt, "the wait that is measured is the first one")
	_, err = got.Say(maren, "", "Hello", 100, at(16))
	require.ErrorIs(t, err, chat.ErrNotYours)

	for name, end := range map[string]step{
		"declined":   passes(idris, 15),
		"unanswered": lapses(5, 70),
		"taken-back": func(s chat.State) ([]chat.Event, error) { return s.TakeBack(maren, at(15)) },
	} {
		back := story(t, asks(0), routes("d"), takes(maren, 5), hands("idris", "", 10), end)
		require.Nil(t, back.HandingOn, name)
		require.Equal(t, "maren", back.Owner, name)
		require.Zero(t, back.HandOns, name)
	}

	toTeam := story(t, asks(0), routes("d"), takes(maren, 5), hands("", "freight", 10))
	require.Equal(t, "freight", toTeam.Seeking())
	inTeam := story(t, asks(0), routes("d"), takes(maren, 5), hands("", "freight", 10), takes(idris, 20))
	require.Equal(t, "freight", inTeam.Department)
	for _, nobody := range [][2]string{{"", ""}, {"maren", ""}, {"idris", "freight"}} {
		_, err = story(t, asks(0), takes(maren, 5)).HandOn(maren, nobody[0], nobody[1], "", at(60), at(9))
		require.ErrorIs(t, err, chat.ErrNobodyElse)
	}
}

func TestPuttingBackKeepsThePlace(t *testing.T) {
	putsBack := func(s chat.State) ([]chat.Event, error) { return one(s.PutBack(maren, "needs Danish", at(50))) }
	s := story(t, asks(0), routes("d"), takes(maren, 5), says(maren, 9), putsBack)
	require.Equal(t, chat.Waiting, s.Phase)
	require.Equal(t, at(0), s.Arrived)
	require.Equal(t, at(50), s.Since)
	require.Equal(t, []string{"maren"}, s.PassedBy, "who put it back is not asked first")
	require.Equal(t, chat.TeamTurn, s.Turn, "the visitor waits for somebody again")
	require.Equal(t, at(50), s.TurnSince)
	require.Equal(t, 1, s.HandOns)
	_, err := story(t, asks(0), takes(maren, 5)).PutBack(idris, "", at(9))
	require.ErrorIs(t, err, chat.ErrNotYours)

	gone, err := story(t, asks(0), takes(maren, 5)).Release("maren", at(60))
	require.NoError(t, err)
	require.Equal(t, chat.OwnerGone, gone[0].Detail.Why)
	nothing, err := story(t, asks(0), takes(idris, 5)).Release("maren", at(60))
	require.NoError(t, err)
	require.Empty(t, nothing, "another one's chat stays where it is")
}

func TestMessages(t *testing.T) {
	keeps := func(by chat.Party) step {
		return func(s chat.State) ([]chat.Event, error) {
			return s.KeepAsMessage(by, &chat.Intro{Email: "wren@example.com"}, at(20))
		}
	}
	s := story(t, asks(0), routes("d"), offers("maren", 1), keeps(wren))
	require.True(t, s.Message)
	require.Empty(t, s.Seeking(), "a message is not handed out")
	require.Nil(t, s.Offered)
	missed, err := s.Miss(at(99))
	require.NoError(t, err)
	require.Empty(t, missed, "who left a message may go")
	_, err = s.End(wren, chat.WrapUp{}, at(30))
	require.ErrorIs(t, err, chat.ErrIsMessage, "it must be answered yet")
	_, err = s.Offer("maren", at(60), nil, at(30))
	require.ErrorIs(t, err, chat.ErrIsMessage)

	answered := story(t, asks(0), routes("d"), keeps(chat.House), takes(maren, 3600), says(maren, 3610), ends(maren, 3620))
	require.Equal(t, chat.LeftMessage, answered.Ending)
	live := story(t, asks(0), routes("d"), keeps(wren), func(s chat.State) ([]chat.Event, error) {
		return one(s.Route(routing.Decision{Department: "d"}, true, at(500)))
	})
	require.False(t, live.Message)
	require.Equal(t, at(500), live.Arrived, "it waits from now on")
	_, err = story(t, asks(0)).KeepAsMessage(maren, nil, at(3))
	require.ErrorIs(t, err, chat.ErrNotYours)
	_, err = story(t, asks(0), takes(maren, 2)).KeepAsMessage(wren, nil, at(3))
	var taken *chat.TakenError
	require.ErrorAs(t, err, &taken)
}

func TestAVisitorWhoGoesIsMissedOnlyWhileWaiting(t *testing.T) {
	events, err := story(t, asks(0)).Miss(at(60))
	require.NoError(t, err)
	require.Equal(t, chat.Missed, events[0].Ending)
	events, err = story(t, asks(0), takes(maren, 5)).Miss(at(60))
	require.NoError(t, err)
	require.Empty(t, events)
}

func TestWrapUpCountsUntilItIsDone(t *testing.T) {
	wraps := func(s chat.State) ([]chat.Event, error) {
		return s.End(maren, chat.WrapUp{Time: 30 * time.Second}, at(40))
	}
	s := story(t, asks(0), takes(maren, 5), wraps)
	require.Equal(t, at(70), *s.WrapUntil)
	_, err := s.WrapUp(idris, at(50))
	require.ErrorIs(t, err, chat.ErrNotYours)
	done, err := s.WrapUp(maren, at(50))
	require.NoError(t, err)
	s, err = s.Apply(done[0])
	require.NoError(t, err)
	require.Nil(t, s.WrapUntil)
	late, err := s.WrapUp(chat.House, at(70))
	require.NoError(t, err)
	require.Empty(t, late)
	require.Nil(t, story(t, asks(0), ends(wren, 9)).WrapUntil, "nobody wraps up what nobody took")
}

func TestColleaguesSpeakBesideTheOwner(t *testing.T) {
	adds := func(s chat.State) ([]chat.Event, error) { return s.Add(maren, "idris", at(10)) }
	s := story(t, asks(0), takes(maren, 5), adds, says(idris, 12))
	require.Equal(t, "maren", s.Owner)
	_, err := s.End(idris, chat.WrapUp{}, at(15))
	require.ErrorIs(t, err, chat.ErrNotYours, "a colleague may speak, not end")
	_, err = s.Leave(chat.Operator("tove"), "idris", at(16))
	require.ErrorIs(t, err, chat.ErrNotYours)
	left, err := s.Leave(idris, "idris", at(16))
	require.NoError(t, err)
	s, err = s.Apply(left[0])
	require.NoError(t, err)
	_, err = s.Say(idris, "", "still here?", 100, at(17))
	require.ErrorIs(t, err, chat.ErrNotYours)
}
