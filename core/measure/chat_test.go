package measure_test

import (
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/core/routing"
)

// begin is a moment of which the tests count in seconds.
var begin = time.Date(2026, time.March, 3, 10, 0, 0, 0, time.UTC)

var (
	visitor = chat.Visitor("visitor")
	idris   = chat.Operator("idris")
	maren   = chat.Operator("maren")
)

func at(seconds float64) time.Time { return begin.Add(time.Duration(seconds * float64(time.Second))) }

// story lives through a chat by the acts of core/chat.
type story struct {
	t     *testing.T
	log   []chat.Event
	state chat.State
}

func asked(t *testing.T, intro chat.Intro) *story {
	s := &story{t: t}
	log, err := chat.Start(visitor, "1", intro, "Is the 14:10 sailing?", 1000, at(0))
	s.add(log, err)
	e, err := s.state.Route(routing.Decision{Department: "help", Target: 60, Rule: "r1", Reasons: []routing.Reason{routing.Because(routing.ByRule, "rule", "Sailings")}}, false, at(0))
	return s.one(e, err)
}

func (s *story) add(events []chat.Event, err error) *story {
	s.t.Helper()
	require.NoError(s.t, err)
	for _, e := range events {
		s.log = append(s.log, e)
		s.state, err = s.state.Apply(e)
		require.NoError(s.t, err)
	}
	return s
}

func (s *story) one(e chat.Event, err error) *story {
	s.t.Helper()
	return s.add([]chat.Event{e}, err)
}

func (s *story) say(by chat.Party, seconds float64) *story {
	s.t.Helper()
	e, err := s.state.Say(by, strconv.Itoa(len(s.log)), "words", 1000, at(seconds))
	return s.one(e, err)
}

func (s *story) take(by chat.Party, seconds float64) *story {
	s.t.Helper()
	events, err := s.state.Take(by, at(seconds))
	return s.add(events, err)
}

func (s *story) end(by chat.Party, seconds float64) *story {
	s.t.Helper()
	events, err := s.state.End(by, chat.WrapUp{Time: time.Minute, Survey: true}, at(seconds))
	return s.add(events, err)
}

func (s *story) measured() measure.Chat {
	s.t.Helper()
	c, err := measure.Of(s.log, measure.Rules{})
	require.NoError(s.t, err)
	return c
}

func is(n int) *int { return &n }

func TestOneOperatorOneChat(t *testing.T) {
	s := asked(t, chat.Intro{PageURL: "https://kelpwick.example/timetable", Country: "DK", Invitation: &chat.Invitation{ID: "i", Rule: "late", Text: "Help?"}})
	s.take(idris, 24).say(idris, 31).say(visitor, 60).say(visitor, 65).say(idris, 100.4).say(visitor, 120).say(idris, 200)
	s.end(visitor, 240)
	wrapped, err := s.state.WrapUp(idris, at(270))
	s.add(wrapped, err)
	c := s.measured()
	require.Equal(t, is(24), c.Wait)
	require.Equal(t, is(31), c.First)
	require.Equal(t, is(60), c.Later, "of 40 and 80 seconds: two lines of the visitor are one turn")
	require.Equal(t, 3, c.Replies)
	require.Equal(t, 2, c.OnTime, "the target is a minute")
	require.Equal(t, is(80), c.Slowest)
	require.Equal(t, 80, c.Silence)
	require.Equal(t, 3, c.Turns)
	require.Equal(t, 240, c.Lasted)
	require.Equal(t, 216, c.Active)
	require.Equal(t, 30, c.WrapUp)
	require.True(t, *c.InTarget)
	require.Equal(t, chat.Answered, c.Ending)
	require.Equal(t, []string{"r1", "Sailings", "late", "DK", "help"}, []string{c.Rule, c.RuleName, c.Invited, c.Country, c.FirstDepartment})
	require.Equal(t, 4, c.VisitorLines)
	require.Equal(t, 3, c.TeamLines)
	require.Equal(t, []measure.Operator{{
		ID: "idris", Department: "help", Held: []measure.Span{{From: at(24), To: at(270)}}, Active: 216, WrapUp: 30, Lines: 3, Replies: 3, ReplySum: 7 + 40 + 80, OnTime: 2,
		First: is(7), Got: measure.Took, Ended: true,
	}}, c.Operators, "their first reply counts from when they took it")
}

func TestAHandedOnChatCountsForEachWhoHeldIt(t *testing.T) {
	s := asked(t, chat.Intro{}).take(idris, 10).say(idris, 20).say(visitor, 30)
	e, err := s.state.HandOn(idris, "maren", "", "a group", at(200), at(50))
	s.one(e, err).take(maren, 90).say(maren, 100).end(maren, 130)
	c := s.measured()
	require.Equal(t, is(10), c.Wait, "only the first wait")
	require.Equal(t, is(70), c.Later, "the visitor asked at 30")
	require.Equal(t, 1, c.HandOns)
	require.Equal(t, 120, c.Active)
	require.Len(t, c.Operators, 2)
	require.Equal(t, measure.HandedAway, c.Operators[0].Gave)
	require.Equal(t, []measure.Span{{From: at(10), To: at(90)}}, c.Operators[0].Held)
	m := c.Operators[1]
	require.Equal(t, measure.ByHandOn, m.Got)
	require.Equal(t, 10, m.ReplySum, "Maren could not answer before it was hers")
	require.True(t, m.Ended)
	require.Equal(t, "maren", c.Owner)
}

func TestPutBackAndTakenAgainBySomebodyWhoHadItBefore(t *testing.T) {
	s := asked(t, chat.Intro{}).take(idris, 10).say(idris, 20)
	e, err := s.state.PutBack(idris, "", at(40))
	s.one(e, err).take(maren, 100)
	took, err := s.state.TakeOver(idris, at(120))
	s.add(took, err).end(idris, 150)
	c := s.measured()
	require.Equal(t, is(10), c.Wait)
	require.Equal(t, 70, c.WaitedAll, "10 and 60")
	require.Equal(t, []measure.Span{{From: at(10), To: at(40)}, {From: at(120), To: at(150)}}, c.Operators[0].Held)
	require.Equal(t, measure.Took, c.Operators[0].Got, "as they got it first")
	require.Equal(t, measure.Lost, c.Operators[1].Gave)
	require.Equal(t, 30+20+30, c.Active)
	require.Equal(t, chat.Answered, c.Ending)
}

func TestMissedChats(t *testing.T) {
	gone := func(after float64) measure.Chat {
		s := asked(t, chat.Intro{})
		events, err := s.state.Miss(at(after))
		return s.add(events, err).measured()
	}
	patient := gone(61)
	require.Equal(t, measure.LeftSite, patient.Missed)
	require.Equal(t, is(61), patient.Wait)
	require.False(t, *patient.InTarget)
	require.Nil(t, patient.First)
	require.Equal(t, 61, patient.Silence, "nobody ever answered")
	require.Nil(t, gone(59).InTarget, "who leaves before the target has passed counts neither way")

	require.Equal(t, measure.EndedByThem, asked(t, chat.Intro{}).end(visitor, 5).measured().Missed)

	silent := asked(t, chat.Intro{}).take(idris, 10).end(idris, 40).measured()
	require.Equal(t, chat.Missed, silent.Ending)
	require.Equal(t, measure.NeverReplied, silent.Missed)
	require.True(t, *silent.InTarget, "it was taken in time")
	require.Nil(t, silent.First)
}

func TestWithdrawnWordsAnswerNothing(t *testing.T) {
	s := asked(t, chat.Intro{}).take(idris, 10).say(idris, 20)
	events, err := s.state.Withdraw(idris, s.log[len(s.log)-1], at(25))
	s.add(events, err).say(idris, 50).end(visitor, 60)
	c := s.measured()
	require.Equal(t, is(50), c.First)
	require.Equal(t, 1, c.TeamLines)
}

func TestMessagesHaveNoWaitAndCountOpenHours(t *testing.T) {
	s := asked(t, chat.Intro{Message: true}).take(idris, 7200).say(idris, 7300).end(idris, 7400)
	c, err := measure.Of(s.log, measure.Rules{Open: func(_ string, from, to time.Time) time.Duration { return to.Sub(from) - 2*time.Hour }})
	require.NoError(t, err)
	require.Equal(t, chat.LeftMessage, c.Ending)
	require.Nil(t, c.Wait)
	require.Nil(t, c.First)
	require.Nil(t, c.InTarget)
	require.Equal(t, is(100), c.OpenReply)
	require.Equal(t, 200, c.Active)

	kept := asked(t, chat.Intro{})
	events, err := kept.state.KeepAsMessage(visitor, &chat.Intro{Email: "wren@example.org"}, at(90))
	kept.add(events, err).take(idris, 7200).say(idris, 7300).end(idris, 7400)
	c = kept.measured()
	require.Equal(t, is(90), c.Kept)
	require.Nil(t, c.Wait)
	require.Equal(t, 90, c.WaitedAll)
	require.Zero(t, c.Replies)

	live := asked(t, chat.Intro{Message: true})
	e, err := live.state.Route(routing.Decision{Department: "help", Target: 30}, true, at(3600))
	live.one(e, err).take(idris, 3640).say(idris, 3650).end(visitor, 3700)
	c = live.measured()
	require.Equal(t, at(3600), c.Arrived, "it is a live chat from when the visitor came back")
	require.Equal(t, is(40), c.Wait)
	require.False(t, *c.InTarget, "the target is the one of that decision")
	require.Equal(t, is(50), c.First)
}

func TestColleaguesWhoSpeakBesideDoNotHoldIt(t *testing.T) {
	s := asked(t, chat.Intro{}).take(idris, 10)
	events, err := s.state.Join(maren, true, at(20))
	s.add(events, err).say(maren, 30).end(visitor, 60)
	c := s.measured()
	require.Len(t, c.Operators, 2)
	require.True(t, c.Operators[1].Guest)
	require.Empty(t, c.Operators[1].Held)
	require.Equal(t, 1, c.Operators[1].Replies)
	require.Equal(t, 50, c.Active)
}

func TestAnOpenChatIsNotMeasured(t *testing.T) {
	_, err := measure.Of(asked(t, chat.Intro{}).log, measure.Rules{})
	require.ErrorContains(t, err, "not over")
}
