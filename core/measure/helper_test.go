package measure_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/measure"
)

func (s *story) helper(beside bool, seconds float64) *story {
	s.t.Helper()
	return s.add(s.state.BeginHelper(chat.House, "f", "First answers", 1, beside, at(seconds)))
}

func (s *story) helps(answered bool, seconds float64) *story {
	s.t.Helper()
	return s.add(s.state.HelperActs(chat.HelperTurn{
		Moves: s.state.Helper.Moves, Says: []chat.HelperWords{{Text: "Yes, it sails."}}, Moved: chat.HelperDetail{Heard: s.state.LastSaid.Visitor, Answered: &answered},
	}, at(seconds)))
}

// A chat that the helper hands over counts from then: what a visitor says to the helper
// makes nobody late.
func TestAChatThatTheHelperHandsOver(t *testing.T) {
	s := asked(t, chat.Intro{}).helper(false, 0).helps(true, 1).say(visitor, 100).helps(false, 101)
	s.add(s.state.LeaveHelper(visitor, chat.PersonAsked, at(200)))
	c := s.take(idris, 230).say(idris, 245).say(visitor, 300).say(idris, 310).end(idris, 400).measured()
	require.Equal(t, measure.HelpFirst, c.Helper)
	require.Equal(t, 2, c.HelperWords)
	require.Equal(t, at(0), c.Started)
	require.Equal(t, at(200), c.Arrived)
	require.Equal(t, is(30), c.Wait)
	require.Equal(t, 30, c.WaitedAll)
	require.Equal(t, is(45), c.First)
	require.Equal(t, is(10), c.Later)
	require.Equal(t, 2, c.Turns, "what they asked the team, and one more")
	require.Equal(t, 45, c.Silence)
	require.True(t, *c.InTarget)
	require.Equal(t, chat.Answered, c.Ending)
}

// A chat that the helper answers alone has no wait and no reply; who leaves it unanswered
// is missed, and makes no department late.
func TestAChatWithTheHelperAlone(t *testing.T) {
	helped := asked(t, chat.Intro{}).helper(false, 0).helps(true, 1).end(visitor, 500).measured()
	require.Equal(t, chat.Helped, helped.Ending)
	require.Equal(t, measure.HelpAlone, helped.Helper)
	require.Equal(t, at(0), helped.Arrived)
	require.Nil(t, helped.Wait)
	require.Nil(t, helped.InTarget)
	require.Nil(t, helped.First)
	require.Zero(t, helped.Silence)

	left := asked(t, chat.Intro{}).helper(false, 0).helps(false, 1).end(visitor, 500).measured()
	require.Equal(t, chat.Missed, left.Ending)
	require.Equal(t, measure.LeftHelper, left.Missed)
	require.Nil(t, left.InTarget)
	require.Nil(t, left.Wait)
}

// Beside the queue the clock of the wait runs on: a person was asked for.
func TestBesideTheQueueTheWaitRunsOn(t *testing.T) {
	c := asked(t, chat.Intro{}).helper(true, 45).helps(true, 46).take(idris, 90).say(idris, 100).end(idris, 200).measured()
	require.Equal(t, measure.HelpAside, c.Helper)
	require.Equal(t, is(90), c.Wait)
	require.Equal(t, is(100), c.First)
	require.False(t, *c.InTarget)

	helped := asked(t, chat.Intro{}).helper(true, 45).helps(true, 46).end(visitor, 80).measured()
	require.Equal(t, chat.Helped, helped.Ending)
}

// Who steps in has the chat at once; given back, nobody is owed a word.
func TestStepInAndGiveBack(t *testing.T) {
	s := asked(t, chat.Intro{}).helper(false, 0).helps(true, 1).take(idris, 50).say(idris, 60)
	s.add(s.state.BeginHelper(idris, "f", "First answers", 1, false, at(100)))
	c := s.say(visitor, 200).helps(true, 201).end(visitor, 300).measured()
	require.Equal(t, chat.Answered, c.Ending)
	require.Equal(t, is(0), c.Wait)
	require.Equal(t, 50, c.Active)
	require.Equal(t, 50, c.Operators[0].Active)
	require.Equal(t, measure.PutBack, c.Operators[0].Gave)
	require.Equal(t, 10, c.Silence)
}
