package chat_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
)

// conversation plays acts in a chat, some seconds apart.
type conversation struct {
	t   *testing.T
	s   chat.State
	now time.Time
}

func withQuestion(t *testing.T) *conversation {
	c := &conversation{t: t, now: epoch}
	events, err := chat.Start(chat.Visitor("wren"), "c0", chat.Intro{}, "May my dog come?", 100, c.now)
	c.does(events, err)
	c.does(one(c.s.Route(routing.Decision{Department: "help"}, false, c.now)))
	return c
}

func (c *conversation) does(events []chat.Event, err error) {
	c.t.Helper()
	require.NoError(c.t, err)
	for _, e := range events {
		c.s, err = c.s.Apply(e)
		require.NoError(c.t, err)
	}
	c.now = c.now.Add(10 * time.Second)
}

func (c *conversation) helped(answered bool) {
	c.does(c.s.HelperActs(chat.HelperTurn{
		Moves: c.s.Helper.Moves, Says: []chat.HelperWords{{Text: "Dogs travel free."}},
		Moved: chat.HelperDetail{Step: "more", Heard: c.s.LastSaid.Visitor, Answered: &answered},
	}, c.now))
}

// With the helper nobody waits for a person: the wait, and the place in the queue, begin
// when it leaves.
func TestTheWaitBeginsWhenTheHelperLeaves(t *testing.T) {
	c := withQuestion(t)
	require.Equal(t, "help", c.s.Seeking())
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	require.Empty(t, c.s.Seeking())
	require.Equal(t, []string{"help"}, c.s.LineOf(), "its department sees it")
	require.Equal(t, chat.NobodysTurn, c.s.Turn)
	require.True(t, c.s.HelperOwes(), "the question is not dealt with")
	c.helped(true)
	require.False(t, c.s.HelperOwes())
	require.Zero(t, c.s.RepliedAt, "its words are no reply of the team")

	c.does(one(c.s.Say(chat.Visitor("wren"), "c1", "And a horse?", 100, c.now)))
	require.True(t, c.s.HelperOwes())
	require.Equal(t, chat.NobodysTurn, c.s.Turn, "no reply clock runs")
	_, err := c.s.Offer("idris", c.now.Add(time.Minute), nil, c.now)
	require.ErrorIs(t, err, chat.ErrWithHelper)

	left := c.now
	c.does(c.s.LeaveHelper(chat.Visitor("wren"), chat.PersonAsked, c.now))
	require.Equal(t, "help", c.s.Seeking())
	require.Equal(t, left, c.s.Arrived)
	require.Equal(t, left, c.s.Since)
	require.Equal(t, chat.TeamTurn, c.s.Turn)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	require.False(t, c.s.Helping(), "by itself it does not come back")
}

// Beside the queue a visitor keeps their place, and who takes the chat makes it silent.
func TestBesideTheQueue(t *testing.T) {
	c := withQuestion(t)
	arrived := c.s.Arrived
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, true, c.now))
	require.Equal(t, "help", c.s.Seeking())
	c.helped(true)
	require.Equal(t, arrived, c.s.Arrived)
	require.Equal(t, chat.TeamTurn, c.s.Turn, "the team owes the answer all the while")
	c.does(c.s.Take(chat.Operator("idris"), c.now))
	require.False(t, c.s.Helping())
	events, err := c.s.HelperActs(chat.HelperTurn{Moves: c.s.Helper.Moves, Says: []chat.HelperWords{{Text: "Too late"}}}, c.now)
	require.NoError(t, err)
	require.Empty(t, events, "a turn that comes late says nothing")
}

// Somebody steps in, and gives the chat back; the helper goes on where it was.
func TestStepInAndGiveBack(t *testing.T) {
	c := withQuestion(t)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	c.helped(true)
	c.does(c.s.Take(chat.Operator("idris"), c.now))
	require.Equal(t, chat.TeamTurn, c.s.Turn)
	_, err := c.s.BeginHelper(chat.Operator("maren"), "f", "First answers", 1, false, c.now)
	require.ErrorIs(t, err, chat.ErrNotYours)
	c.does(one(c.s.Say(chat.Operator("idris"), "i", "I am here.", 100, c.now)))
	c.does(c.s.BeginHelper(chat.Operator("idris"), "f", "First answers", 1, false, c.now))
	require.Equal(t, chat.Waiting, c.s.Phase)
	require.Empty(t, c.s.Owner)
	require.Equal(t, "more", c.s.Helper.Step)
	require.True(t, c.s.HelperOwes(), "it says once more where it stands")
	c.helped(true)
	c.does(c.s.End(chat.Visitor("wren"), chat.WrapUp{}, c.now))
	require.Equal(t, chat.Answered, c.s.Ending, "a person answered")
	require.Equal(t, "idris", c.s.Owner, "who answered it")
}

// Two servers that take the same turn: the second finds that it was taken.
func TestATurnIsTakenOnce(t *testing.T) {
	c := withQuestion(t)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	turn := chat.HelperTurn{Says: []chat.HelperWords{{Text: "Hello"}}, Moved: chat.HelperDetail{Step: "a", Heard: c.s.LastSaid.Visitor}}
	c.does(c.s.HelperActs(turn, c.now))
	again, err := c.s.HelperActs(turn, c.now)
	require.NoError(t, err)
	require.Empty(t, again)
}

// How a chat counts that was with the helper: helped, if it answered and was not told that
// this was no help; missed otherwise.
func TestHowItCounts(t *testing.T) {
	for name, ends := range map[string]func(c *conversation){
		"by the visitor": func(c *conversation) { c.does(c.s.End(chat.Visitor("wren"), chat.WrapUp{}, c.now)) },
		"gone":           func(c *conversation) { c.does(c.s.Miss(c.now)) },
		"by the flow": func(c *conversation) {
			c.does(c.s.HelperActs(chat.HelperTurn{Moves: c.s.Helper.Moves, Ends: true, Moved: chat.HelperDetail{Heard: c.s.LastSaid.Visitor}}, c.now))
		},
		"quiet": func(c *conversation) {
			events, err := c.s.EndQuiet(time.Hour, c.now)
			require.NoError(t, err)
			require.Empty(t, events, "not yet")
			c.does(c.s.EndQuiet(time.Hour, c.now.Add(2*time.Hour)))
		},
	} {
		for answered, want := range map[bool]chat.Ending{true: chat.Helped, false: chat.Missed} {
			c := withQuestion(t)
			c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
			c.helped(answered)
			ends(c)
			require.Equal(t, chat.Over, c.s.Phase, name)
			require.Equal(t, want, c.s.Ending, "%s, answered: %v", name, answered)
			require.Equal(t, epoch, c.s.Arrived, "it arrived when it was asked")
		}
	}
	c := withQuestion(t)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	c.helped(true)
	c.does(c.s.LeaveHelper(chat.Visitor("wren"), chat.PersonAsked, c.now))
	c.does(c.s.Miss(c.now))
	require.Equal(t, chat.Missed, c.s.Ending, "they asked for a person, and nobody came")
}

// A flow that talks on and on leaves the chat to people.
func TestAFlowThatTalksOnAndOn(t *testing.T) {
	c := withQuestion(t)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	for n := 0; c.s.Helping(); n++ {
		require.Less(t, n, 300)
		c.helped(true)
		c.does(one(c.s.Say(chat.Visitor("wren"), "", "again", 100, c.now)))
	}
	require.Equal(t, "help", c.s.Seeking())
}

// What a flow learns is kept by its name, and nothing of the visitor's is lost when the
// chat becomes a message.
func TestWhatItLearnedIsKept(t *testing.T) {
	c := withQuestion(t)
	c.does(c.s.BeginHelper(chat.House, "f", "First answers", 1, false, c.now))
	for _, value := range []string{"9", "9.5"} {
		c.does(c.s.HelperActs(chat.HelperTurn{Moves: c.s.Helper.Moves, Tags: []string{"Lorry"}, Moved: chat.HelperDetail{
			Heard: c.s.LastSaid.Visitor, Learned: []chat.HelperAnswer{{Name: "length", Label: "Length", Value: value}},
		}}, c.now))
	}
	require.Equal(t, []chat.HelperAnswer{{Name: "length", Label: "Length", Value: "9.5"}}, c.s.Helper.Answers)
	require.Equal(t, []string{"lorry"}, c.s.Tags)
	c.does(c.s.HelperActs(chat.HelperTurn{Moves: c.s.Helper.Moves, Keeps: &chat.Intro{Email: "wren@example.com"}, Moved: chat.HelperDetail{Heard: c.s.LastSaid.Visitor}}, c.now))
	require.True(t, c.s.Message)
	require.False(t, c.s.Helping())
	require.Equal(t, chat.TeamTurn, c.s.Turn)
	require.Len(t, c.s.Helper.Answers, 1)
}
