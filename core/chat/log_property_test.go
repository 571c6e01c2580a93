package chat_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/chat"
)

var epoch = time.Date(2026, 9, 17, 13, 33, 0, 0, time.UTC)

// act draws one thing that somebody tries, allowed or not, and returns the
// events it leads to.
func act(t *rapid.T, s chat.State, now time.Time) []chat.Event {
	by := rapid.SampledFrom([]chat.Party{
		chat.Visitor("wren"), chat.Visitor("stranger"), chat.Operator("maren"), chat.Operator("idris"),
	}).Draw(t, "by")
	switch rapid.SampledFrom([]string{"start", "say", "take", "deliver", "see", "end"}).Draw(t, "act") {
	case "start":
		if s.Phase != "" {
			return nil
		}
		events, err := chat.Start(by, "c0", chat.Intro{Name: "Wren"}, "Hello", 100, now)
		if err != nil {
			return nil
		}
		return events
	case "say":
		e, err := s.Say(by, "c", rapid.StringN(0, 20, 80).Draw(t, "words"), 15, now)
		if err != nil {
			return nil
		}
		return []chat.Event{e}
	case "take":
		events, _ := s.Take(by, now)
		return events
	case "deliver":
		events, _ := s.Receive(by, chat.Delivered, rapid.Int64Range(-1, s.Last+2).Draw(t, "upTo"), now)
		return events
	case "see":
		events, _ := s.Receive(by, chat.Seen, rapid.Int64Range(-1, s.Last+2).Draw(t, "upTo"), now)
		return events
	default:
		events, _ := s.End(by, 0, now)
		return events
	}
}

// Whatever people try, in whatever order and with clocks that jump back, the
// log keeps the promises on which everything else is built.
func TestAnySequenceOfActsKeepsTheInvariants(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var s chat.State
		var log []chat.Event
		var steps []chat.State
		owner := ""
		for range rapid.IntRange(1, 60).Draw(t, "acts") {
			now := epoch.Add(time.Duration(rapid.Int64Range(-5, 600).Draw(t, "second")) * time.Second)
			for _, e := range act(t, s, now) {
				next, err := s.Apply(e)
				require.NoError(t, err, "an act produced an event that its own log refuses")
				s, log, steps = next, append(log, e), append(steps, next)
			}
			if owner != "" {
				require.Equal(t, owner, s.Owner, "a chat changed its owner without an event that says so")
			}
			owner = s.Owner
		}
		for i, e := range log {
			require.EqualValues(t, i+1, e.Number, "numbers have a gap")
			if i > 0 {
				require.False(t, e.At.Before(log[i-1].At), "time runs backwards")
			}
			if e.Kind == chat.Said {
				require.NotEmpty(t, e.Text)
				if e.By.Side == chat.TeamSide {
					require.Equal(t, owner, e.By.ID, "somebody other than the owner spoke")
				} else {
					require.Equal(t, s.Visitor, e.By.ID, "a stranger spoke")
				}
			}
		}
		for _, side := range []chat.Side{chat.VisitorSide, chat.TeamSide} {
			m := s.ByVisitor
			if side == chat.TeamSide {
				m = s.ByTeam
			}
			require.LessOrEqual(t, m.Seen, m.Delivered, "seen before it was delivered")
			require.LessOrEqual(t, m.Delivered, s.Last)
			require.Equal(t, countUnseen(log, side, m.Seen), s.UnseenBy(side))
		}
		if s.Phase == chat.Over {
			require.Equal(t, s.Owner == "", s.Ending == chat.Missed, "missed means nobody took it")
			require.Equal(t, chat.NobodysTurn, s.Turn)
		}

		for i := range log {
			folded, err := chat.Fold(log[:i+1])
			require.NoError(t, err)
			require.Equal(t, steps[i], folded, "folding a prefix differs from having been there")
		}
	})
}

// The stored state must be as good as the log it stands for.
func TestStateSurvivesBeingStored(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var s chat.State
		for range rapid.IntRange(1, 30).Draw(t, "acts") {
			for _, e := range act(t, s, epoch) {
				var err error
				s, err = s.Apply(e)
				require.NoError(t, err)
			}
		}
		stored, err := json.Marshal(s)
		require.NoError(t, err)
		var back chat.State
		require.NoError(t, json.Unmarshal(stored, &back))
		require.Equal(t, s, back)
	})
}

// A log that was damaged outside is refused, not folded into nonsense.
func TestDamagedLogIsRefused(t *testing.T) {
	log, err := chat.Start(chat.Visitor("wren"), "c", chat.Intro{}, "Hello", 100, epoch)
	require.NoError(t, err)
	taken := chat.Event{Number: 3, Kind: chat.Taken, At: epoch, By: chat.Operator("maren")}
	ended := chat.Event{Number: 4, Kind: chat.Ended, At: epoch, By: chat.Operator("maren"), Ending: chat.Answered}
	said := func(n int64, at time.Time) chat.Event {
		return chat.Event{Number: n, Kind: chat.Said, At: at, By: chat.Operator("maren"), Text: "Hello"}
	}
	for name, damaged := range map[string][]chat.Event{
		"missing number":    {log[0], log[1], said(4, epoch)},
		"doubled number":    {log[0], log[1], log[1]},
		"without beginning": {said(1, epoch)},
		"two beginnings":    {log[0], {Number: 2, Kind: chat.Started, At: epoch}},
		"time runs back":    {log[0], log[1], said(3, epoch.Add(-time.Second))},
		"taken twice":       {log[0], log[1], taken, {Number: 4, Kind: chat.Taken, At: epoch, By: chat.Operator("idris")}},
		"words after end":   {log[0], log[1], taken, ended, said(5, epoch)},
		"unknown kind":      {log[0], {Number: 2, Kind: "sang", At: epoch}},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := chat.Fold(damaged)
			require.ErrorIs(t, err, chat.ErrBadEvent)
		})
	}
}

func countUnseen(log []chat.Event, side chat.Side, seen int64) int {
	n := 0
	for _, e := range log {
		if e.Kind == chat.Said && e.By.Side == side.Other() && e.Number > seen {
			n++
		}
	}
	return min(n, 100)
}
