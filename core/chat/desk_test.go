package chat_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

func tries(do func(chat.State) ([]chat.Event, error)) step { return do }

func saidAt(by chat.Party, number int64, second int) chat.Event {
	return chat.Event{Number: number, Kind: chat.Said, By: by, At: at(second)}
}

// For a minute one can mend one's own words, and nobody else's; then they stand.
func TestCorrectingAndWithdrawing(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5), says(maren, 10))
	own := saidAt(maren, 4, 10)

	events, err := s.Correct(maren, own, "The 14:40 sails", 100, at(69))
	require.NoError(t, err)
	require.Equal(t, chat.Corrected, events[0].Kind)
	require.EqualValues(t, 4, events[0].UpTo)
	_, err = s.Correct(maren, own, "The 14:40 sails", 100, at(71))
	require.ErrorIs(t, err, chat.ErrTooLate)
	_, err = s.Withdraw(maren, own, at(71))
	require.ErrorIs(t, err, chat.ErrTooLate)
	_, err = s.Correct(idris, own, "No", 100, at(20))
	require.ErrorIs(t, err, chat.ErrNotYours)
	_, err = s.Correct(wren, own, "No", 100, at(20))
	require.ErrorIs(t, err, chat.ErrNotYours)
	_, err = s.Correct(maren, own, "   ", 100, at(20))
	require.ErrorIs(t, err, chat.ErrEmpty)

	gone := story(t, asks(0), takes(maren, 5), says(maren, 10),
		tries(func(s chat.State) ([]chat.Event, error) { return s.Withdraw(maren, own, at(30)) }))
	require.Equal(t, chat.TeamTurn, gone.Turn, "with the answer gone the visitor waits again")
	require.Equal(t, at(0), gone.TurnSince, "since they asked")
	require.Equal(t, 0, gone.UnseenBy(chat.VisitorSide, chat.Marks{}), "nothing unseen is left to read")
	again, err := gone.Withdraw(maren, own, at(31))
	require.NoError(t, err)
	require.Empty(t, again)
	_, err = gone.Correct(maren, own, "back", 100, at(31))
	require.ErrorIs(t, err, chat.ErrNotThat, "what was withdrawn cannot come back changed")
}

// After a withdrawal the turn is as if the words had never been said.
func TestTheReplyClockAfterAWithdrawal(t *testing.T) {
	withdraws := func(by chat.Party, number int64, said, second int) step {
		return tries(func(s chat.State) ([]chat.Event, error) {
			return s.Withdraw(by, saidAt(by, number, said), at(second))
		})
	}
	for name, c := range map[string]struct {
		steps []step
		turn  chat.Turn
		since int
	}{
		"the clock goes on from the question": {[]step{asks(0), takes(maren, 5), says(maren, 600), withdraws(maren, 4, 600, 610)}, chat.TeamTurn, 0},
		"the answer before it stands":         {[]step{asks(0), takes(maren, 5), says(maren, 100), says(maren, 120), withdraws(maren, 5, 120, 130)}, chat.VisitorTurn, 100},
		"the answer after it stands":          {[]step{asks(0), takes(maren, 5), says(maren, 100), says(maren, 120), withdraws(maren, 4, 100, 130)}, chat.VisitorTurn, 120},
		"a question asked by mistake":         {[]step{asks(0), takes(maren, 5), says(maren, 100), says(wren, 300), withdraws(wren, 5, 300, 310)}, chat.VisitorTurn, 100},
		"the first of two questions":          {[]step{asks(0), takes(maren, 5), says(maren, 100), says(wren, 300), says(wren, 320), withdraws(wren, 5, 300, 330)}, chat.TeamTurn, 320},
		"all that was asked":                  {[]step{asks(0), takes(maren, 5), withdraws(wren, 2, 0, 30)}, chat.VisitorTurn, 30},
		"all that was asked, while it waits":  {[]step{asks(0), withdraws(wren, 2, 0, 30)}, chat.TeamTurn, 0},
		"one of the unanswered words":         {[]step{asks(0), says(wren, 20), takes(maren, 25), withdraws(wren, 3, 20, 30)}, chat.TeamTurn, 0},
	} {
		t.Run(name, func(t *testing.T) {
			s := story(t, c.steps...)
			require.Equal(t, c.turn, s.Turn)
			require.Equal(t, at(c.since), s.TurnSince)
		})
	}
	// With nothing asked, the silence of the visitor ends the chat like any other.
	s := story(t, asks(0), takes(maren, 5), withdraws(wren, 2, 0, 30))
	require.NotEmpty(t, s.Silence(chat.Patience{Remind: time.Minute, End: time.Minute}, chat.WrapUp{}, at(91)))
}

// Who has left a chat changes nothing in it any more.
func TestWhoHasLeftCannotChangeTheirWords(t *testing.T) {
	own := saidAt(maren, 4, 10)
	back := story(t, asks(0), takes(maren, 5), says(maren, 10), func(s chat.State) ([]chat.Event, error) { return one(s.PutBack(maren, "", at(12))) })
	_, err := back.Correct(maren, own, "Never mind", 100, at(15))
	require.ErrorIs(t, err, chat.ErrNotTaken)
	_, err = back.Withdraw(maren, own, at(15))
	require.ErrorIs(t, err, chat.ErrNotTaken)

	adds := func(s chat.State) ([]chat.Event, error) { return s.Add(maren, "idris", at(10)) }
	leaves := func(s chat.State) ([]chat.Event, error) { return s.Leave(maren, "idris", at(14)) }
	sent := story(t, asks(0), takes(maren, 5), adds, says(idris, 12), leaves)
	_, err = sent.Withdraw(idris, saidAt(idris, 5, 12), at(15))
	require.ErrorIs(t, err, chat.ErrNotYours)
}

func TestTwentyTagsAreEnough(t *testing.T) {
	s := story(t, asks(0))
	for i := range 20 {
		events, err := s.Tag(maren, "tag "+string(rune('a'+i)), at(1))
		require.NoError(t, err)
		s, err = s.Apply(events[0])
		require.NoError(t, err)
	}
	_, err := s.Tag(maren, "one more", at(1))
	require.ErrorIs(t, err, chat.ErrManyTags)
}

// A visitor may refuse what they are offered, at any time, but not their own.
func TestTheVisitorRefusesAFile(t *testing.T) {
	shares := tries(func(s chat.State) ([]chat.Event, error) {
		return one(s.Share(maren, "f", chat.File{ID: "f", Name: "quote.pdf", Type: "application/pdf", Size: 9}, at(10)))
	})
	s := story(t, asks(0), takes(maren, 5), shares)
	file := chat.Event{Number: 4, Kind: chat.Shared, By: maren, At: at(10)}
	require.Equal(t, chat.VisitorTurn, s.Turn, "a file is an answer")
	events, err := s.Refuse(wren, file, at(4000))
	require.NoError(t, err)
	after, err := s.Apply(events[0])
	require.NoError(t, err)
	require.Equal(t, []int64{4}, after.TakenBack)
	_, err = s.Refuse(maren, file, at(11))
	require.ErrorIs(t, err, chat.ErrNotYours)
	_, err = s.Refuse(wren, chat.Event{Number: 2, Kind: chat.Said, By: wren}, at(11))
	require.ErrorIs(t, err, chat.ErrNotThat)
}

// What the team puts down beside a chat is no word to the visitor: the clocks
// run on, and it can be done after the end, when the wrap-up is written.
func TestAsidesChangeNoClock(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5))
	for name, do := range map[string]step{
		"note":      func(s chat.State) ([]chat.Event, error) { return one(s.Note(maren, "1", "Deck B is full", at(20))) },
		"tag":       func(s chat.State) ([]chat.Event, error) { return s.Tag(maren, " Group  Fare ", at(20)) },
		"summary":   func(s chat.State) ([]chat.Event, error) { return s.Summarise(maren, "12 adults, minibus", at(20)) },
		"conclude":  func(s chat.State) ([]chat.Event, error) { return s.Conclude(maren, "Booked", nil, at(20)) },
		"set aside": func(s chat.State) ([]chat.Event, error) { return s.SetAside(maren, true, at(20)) },
		"watch":     func(s chat.State) ([]chat.Event, error) { return s.Watch(idris, true, at(20)) },
		"whisper": func(s chat.State) ([]chat.Event, error) {
			return one(s.Whisper(idris, "1", "ask for the weight", at(20)))
		},
	} {
		t.Run(name, func(t *testing.T) {
			after := story(t, asks(0), takes(maren, 5), do)
			require.Equal(t, s.Turn, after.Turn)
			require.Equal(t, s.TurnSince, after.TurnSince)
			require.Equal(t, s.Recent, after.Recent)
			_, err := do(chat.State{})
			require.Error(t, err, "nothing can be put down beside a chat that has not begun")
		})
	}
	tagged := story(t, asks(0), func(s chat.State) ([]chat.Event, error) { return s.Tag(maren, " Group  Fare ", at(20)) })
	require.Equal(t, []string{"group fare"}, tagged.Tags)
	_, err := s.Note(wren, "1", "I am not of the team", at(20))
	require.ErrorIs(t, err, chat.ErrNotYours)
}

// A department that wants an outcome gets one before the chat is put away.
func TestAWrapUpThatNeedsAnOutcome(t *testing.T) {
	ends := func(s chat.State) ([]chat.Event, error) {
		return s.End(maren, chat.WrapUp{Time: time.Minute, NeedsOutcome: true}, at(40))
	}
	unanswered := story(t, asks(0), takes(maren, 5), ends)
	require.False(t, unanswered.NeedsOutcome, "who was never answered had no outcome")
	s := story(t, asks(0), takes(maren, 5), says(maren, 10), ends)
	require.True(t, s.NeedsOutcome)
	_, err := s.WrapUp(maren, at(50))
	require.ErrorIs(t, err, chat.ErrNeedsOutcome)
	sale := &chat.Money{Cents: 41280, Currency: "EUR"}
	concluded, err := s.Conclude(maren, "Booked", sale, at(50))
	require.NoError(t, err)
	s, err = s.Apply(concluded[0])
	require.NoError(t, err)
	require.False(t, s.NeedsOutcome)
	require.Equal(t, sale, s.Sale)
	events, err := s.WrapUp(maren, at(51))
	require.NoError(t, err)
	require.Len(t, events, 1)

	cleared, err := s.Conclude(maren, "", nil, at(51))
	require.NoError(t, err)
	s, err = s.Apply(cleared[0])
	require.NoError(t, err)
	require.True(t, s.NeedsOutcome, "an outcome that was taken away again is none")

	late := story(t, asks(0), takes(maren, 5), says(maren, 10), ends, func(s chat.State) ([]chat.Event, error) { return s.WrapUp(chat.House, at(100)) })
	require.Nil(t, late.WrapUntil, "the time is over, there is room for the next chat")
	require.True(t, late.NeedsOutcome, "the outcome is still owed")
	missed := story(t, asks(0), func(s chat.State) ([]chat.Event, error) { return s.End(wren, chat.WrapUp{NeedsOutcome: true}, at(9)) })
	require.False(t, missed.NeedsOutcome, "nobody held it, nobody owes an outcome")
}

// A visitor who falls silent is reminded first; any word begins it anew.
func TestSilence(t *testing.T) {
	patience := chat.Patience{Remind: 5 * time.Minute, End: 2 * time.Minute}
	s := story(t, asks(0), takes(maren, 5), says(maren, 10))
	require.Empty(t, s.Silence(patience, chat.WrapUp{}, at(309)))
	reminded := s.Silence(patience, chat.WrapUp{}, at(310))
	require.Equal(t, chat.Reminded, reminded[0].Kind)
	s, err := s.Apply(reminded[0])
	require.NoError(t, err)
	require.Empty(t, s.Silence(patience, chat.WrapUp{}, at(429)))
	ended := s.Silence(patience, chat.WrapUp{NeedsOutcome: true}, at(430))
	require.Equal(t, chat.Ended, ended[0].Kind)
	require.Equal(t, chat.Silent, ended[0].Detail.Why)
	require.True(t, ended[0].Detail.Required)

	word, err := s.Say(wren, "still here", "still here", 100, at(400))
	require.NoError(t, err)
	back, err := s.Apply(word)
	require.NoError(t, err)
	require.Empty(t, back.Silence(patience, chat.WrapUp{}, at(5000)), "it is the team's turn: no visitor is put out for that")
	require.Empty(t, s.Silence(chat.Patience{}, chat.WrapUp{}, at(5000)), "a department without time-out waits for ever")
}

// Help is asked for and comes; a lead may come unasked, and become the owner.
func TestHelpAndLeads(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5))
	_, err := s.Join(idris, false, at(10))
	require.ErrorIs(t, err, chat.ErrNotYours, "nobody asked")
	calls := func(s chat.State) ([]chat.Event, error) {
		return one(s.CallTeam(maren, "freight", "Who knows the ramp?", at(10)))
	}
	joins := func(s chat.State) ([]chat.Event, error) { return s.Join(idris, false, at(12)) }
	called := story(t, asks(0), takes(maren, 5), calls)
	_, err = called.CallTeam(maren, "freight", "again", at(11))
	require.ErrorIs(t, err, chat.ErrCalling)
	helped := story(t, asks(0), takes(maren, 5), calls, joins, says(idris, 15))
	require.Nil(t, helped.Call, "the call is over when somebody came")
	require.Equal(t, []string{"idris"}, helped.Guests)

	over := story(t, asks(0), takes(maren, 5), func(s chat.State) ([]chat.Event, error) { return s.TakeOver(idris, at(20)) })
	require.Equal(t, "idris", over.Owner)
	require.Equal(t, []string{"maren"}, over.Guests, "who had it may speak on")
	require.Equal(t, 1, over.HandOns)
	_, err = over.TakeBack(maren, at(21))
	require.ErrorIs(t, err, chat.ErrNotYours)

	watched := story(t, asks(0), takes(maren, 5), func(s chat.State) ([]chat.Event, error) { return s.Watch(idris, true, at(20)) })
	_, err = watched.Say(idris, "c", "Hello", 100, at(21))
	require.ErrorIs(t, err, chat.ErrNotYours, "who watches does not speak")
}

// A banned visitor's chat ends at once, whoever holds it.
func TestShuttingOut(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5))
	events, err := s.ShutOut(idris, chat.WrapUp{}, at(9))
	require.NoError(t, err)
	require.Equal(t, chat.Banned, events[0].Detail.Why)
	_, err = s.ShutOut(wren, chat.WrapUp{}, at(9))
	require.ErrorIs(t, err, chat.ErrNotYours)
}
