package chat_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/routing"
)

var ways = []channel.Kind{channel.Site, channel.Text, channel.Email, "pigeon"}

var epoch = time.Date(2026, 9, 17, 13, 33, 0, 0, time.UTC)

// act draws one thing that somebody tries, allowed or not, and returns the
// events it leads to.
func act(t *rapid.T, s chat.State, now time.Time) []chat.Event {
	by := rapid.SampledFrom([]chat.Party{
		chat.Visitor("wren"), chat.Visitor("stranger"), chat.Operator("maren"), chat.Operator("idris"),
	}).Draw(t, "by")
	one := func(e chat.Event, err error) []chat.Event {
		if err != nil {
			return nil
		}
		return []chat.Event{e}
	}
	some := func(events []chat.Event, _ error) []chat.Event { return events }
	operator := rapid.SampledFrom([]string{"maren", "idris", "tove"}).Draw(t, "operator")
	soon := now.Add(20 * time.Second)
	switch rapid.SampledFrom([]string{
		"start", "start", "say", "say", "take", "take", "end",
		"route", "overflow", "offer", "assign", "pass", "lapse", "hand on", "hand to department", "take back", "put back", "release", "keep", "miss", "wrap up", "add", "leave",
		"share", "card", "use card", "correct", "withdraw", "refuse", "note", "whisper", "tag", "untag", "summarise", "conclude", "name", "set aside",
		"join", "take over", "call", "end call", "watch", "silence", "shut out", "help", "help beside", "give to the helper", "helper acts", "helper leaves", "quiet", "rate", "read feedback",
		"ask along", "answer along", "end along",
		"offer page", "answer page", "page at", "end page",
		"translate", "end translation", "say translated", "translated",
		"text", "mail a file", "ask over", "answer over", "stop over", "not delivered", "quiet over",
		"rule says", "rule tags", "rule prioritises", "rule moves", "rule hands on", "rule calls",
	}).Draw(t, "act") {
	case "text":
		over := &chat.Way{Kind: channel.Text, Line: "line", Address: "+4532123456", Stopped: rapid.Bool().Draw(t, "stopped")}
		return one(s.SayOver(by, "x", "By text", over, 15, now))
	case "mail a file":
		return one(s.ShareOver(by, "y", chat.File{ID: "f2", Name: "ticket.pdf", Type: "application/pdf", Size: 10}, &chat.Way{Kind: channel.Email, Address: "wren@example.com"}, now))
	case "ask over":
		return some(s.AskOver(by, rapid.SampledFrom(ways).Draw(t, "way"), now))
	case "answer over":
		return some(s.AnswerOver(by, chat.Way{Kind: rapid.SampledFrom(ways).Draw(t, "way"), Address: "+4532123457"}, rapid.Bool().Draw(t, "yes"), now))
	case "stop over":
		return s.StopOver(by, rapid.Bool().Draw(t, "stopped"), now)
	case "not delivered":
		said := earlier(t, s, now)
		said.Detail = &chat.Detail{Over: &chat.Way{Kind: channel.Text}}
		return s.NotDelivered(said, "no such number", now)
	case "quiet over":
		return s.QuietOver(time.Second, chat.WrapUp{}, now)
	case "rule says":
		return s.SayByRule("rule", "", "By itself", now)
	case "rule tags":
		return s.TagByRule("", "late", now)
	case "rule prioritises":
		return s.PrioritiseByRule("", 3, "Late", 60, now)
	case "rule moves":
		return s.MoveByRule("", "freight", "Late", 60, now)
	case "rule hands on":
		return s.HandOnByRule("", "freight", "Late", soon, now)
	case "rule calls":
		return s.CallByRule("", "freight", "Late", now)
	case "route":
		return one(s.Route(routing.Decision{Department: "bookings", Priority: 1, Prefer: operator}, rapid.Bool().Draw(t, "live"), now))
	case "overflow":
		return some(s.Overflow("help", nil, now))
	case "offer":
		return one(s.Offer(operator, soon, nil, now))
	case "assign":
		return one(s.Assign(operator, nil, now))
	case "pass":
		return one(s.Pass(by, now))
	case "lapse":
		return some(s.Lapse(rapid.Int64Range(1, max(1, s.Last)).Draw(t, "offer"), now))
	case "hand on":
		return one(s.HandOn(by, operator, "", "a note", soon, now))
	case "hand to department":
		return one(s.HandOn(by, "", "freight", "a note", soon, now))
	case "take back":
		return some(s.TakeBack(by, now))
	case "put back":
		return one(s.PutBack(by, "", now))
	case "release":
		return some(s.Release(operator, now))
	case "keep":
		return some(s.KeepAsMessage(rapid.SampledFrom([]chat.Party{chat.House, by}).Draw(t, "keeper"), nil, now))
	case "miss":
		return some(s.Miss(now))
	case "wrap up":
		return some(s.WrapUp(by, now))
	case "add":
		return some(s.Add(by, operator, now))
	case "leave":
		return some(s.Leave(by, operator, now))
	case "share":
		return one(s.Share(by, "f", chat.File{ID: "f1", Name: "deck.png", Type: "image/png", Size: 10}, now))
	case "card":
		return one(s.SayCard(by, "k", chat.Card{Kind: "sailing", ID: "s1", Title: "Night boat", Basket: rapid.Bool().Draw(t, "basket")}, 15, now))
	case "use card":
		card := earlier(t, s, now)
		card.Detail = &chat.Detail{Card: &chat.Card{Title: "Night boat", Basket: rapid.Bool().Draw(t, "basket")}}
		return one(s.UseCard(by, card, rapid.SampledFrom([]string{chat.CardOpened, chat.CardInBasket, "eaten"}).Draw(t, "how"), now))
	case "help", "help beside":
		return some(s.BeginHelper(chat.House, "first-answers", "First answers", 1, rapid.Bool().Draw(t, "beside"), now))
	case "give to the helper":
		return some(s.BeginHelper(by, "first-answers", "First answers", 1, false, now))
	case "helper acts":
		turn := chat.HelperTurn{
			Says: []chat.HelperWords{{Text: "Which sailing?", Choices: []string{"Morning", "Evening"}}, {}}, Tags: []string{"Group", ""},
			Moved: chat.HelperDetail{Step: "ask", Heard: s.LastSaid.Visitor, Learned: []chat.HelperAnswer{{Name: "sailing", Label: "Sailing", Value: "Evening"}}},
		}
		if s.Helper != nil {
			turn.Moves = s.Helper.Moves - rapid.SampledFrom([]int64{0, 0, 0, 1}).Draw(t, "late by")
		}
		answered := rapid.Bool().Draw(t, "answered")
		turn.Moved.Answered = &answered
		switch rapid.SampledFrom([]string{"", "", "leaves", "keeps", "ends"}).Draw(t, "then") {
		case "leaves":
			turn.Leaves = chat.HelperHandsOver
		case "keeps":
			turn.Keeps = &chat.Intro{Email: "wren@example.com"}
		case "ends":
			turn.Ends = true
		}
		return some(s.HelperActs(turn, now))
	case "helper leaves":
		return some(s.LeaveHelper(by, chat.PersonAsked, now))
	case "quiet":
		return some(s.EndQuiet(time.Second, now))
	case "ask along":
		return some(s.AskAlong(by, rapid.Bool().Draw(t, "kept"), now))
	case "answer along":
		return some(s.AnswerAlong(by, wished(t, s), rapid.Bool().Draw(t, "yes"), rapid.Bool().Draw(t, "scroll"), now))
	case "end along":
		return some(s.EndAlong(by, wished(t, s), now))
	case "offer page":
		return one(s.OfferPage(by, "p", chat.Page{URL: rapid.SampledFrom([]string{"https://kelpwick.example/fares", "https://kelpwick.example/book", "javascript:alert(1)"}).Draw(t, "page")}, now))
	case "answer page":
		return some(s.AnswerPage(by, offered(t, s), rapid.Bool().Draw(t, "yes"), "https://kelpwick.example/", now))
	case "page at":
		return s.PageAt(by, offered(t, s), rapid.SampledFrom([]string{"https://kelpwick.example/fares", "https://kelpwick.example/"}).Draw(t, "at"), now)
	case "end page":
		return some(s.EndPage(by, offered(t, s), now))
	case "translate":
		return some(s.Translate(by, rapid.SampledFrom([]string{"de", "fr"}).Draw(t, "theirs"), rapid.SampledFrom([]string{"en", "de"}).Draw(t, "ours"), true, now))
	case "end translation":
		return some(s.EndTranslation(by, now))
	case "say translated":
		return one(s.SayTranslated(by, "t", "Hello", chat.Translation{Language: "de", Text: "Hallo"}, 15, now))
	case "translated":
		owed := chat.Owed{Number: rapid.Int64Range(1, max(1, s.Last)).Draw(t, "owed")}
		if tr := s.Translating; tr != nil && len(tr.Owed) > 0 && rapid.Bool().Draw(t, "really owed") {
			owed = tr.Owed[0]
		}
		return s.Translated(owed, "de", chat.Translation{Language: "en", Text: "Hello"}, now)
	case "rate":
		return some(s.Rate(by, rapid.IntRange(0, 6).Draw(t, "rating"), rapid.StringN(0, 20, 80).Draw(t, "words"), now))
	case "read feedback":
		return some(s.ReadFeedback(by, rapid.Int64Range(0, s.Last).Draw(t, "number"), "", now))
	case "correct":
		return some(s.Correct(by, earlier(t, s, now), rapid.StringN(0, 20, 80).Draw(t, "words"), 15, now))
	case "withdraw":
		return some(s.Withdraw(by, earlier(t, s, now), now))
	case "refuse":
		return some(s.Refuse(by, earlier(t, s, now), now))
	case "note":
		return one(s.Note(by, "n", "ring the port", now))
	case "whisper":
		return one(s.Whisper(by, "w", "offer the cabin", now))
	case "tag":
		return some(s.Tag(by, rapid.SampledFrom([]string{"Group", "group", "refund", ""}).Draw(t, "tag"), now))
	case "untag":
		return some(s.Untag(by, "group", now))
	case "summarise":
		return some(s.Summarise(by, rapid.SampledFrom([]string{"", "wants a cabin"}).Draw(t, "line"), now))
	case "conclude":
		return some(s.Conclude(by, rapid.SampledFrom([]string{"", "booked"}).Draw(t, "outcome"), nil, now))
	case "name":
		return one(s.Name(by, chat.Intro{Name: "Wren Castellane"}, now))
	case "set aside":
		return some(s.SetAside(by, rapid.Bool().Draw(t, "aside"), now))
	case "join":
		return some(s.Join(by, rapid.Bool().Draw(t, "lead"), now))
	case "take over":
		return some(s.TakeOver(by, now))
	case "call":
		return one(s.CallTeam(by, "freight", "who knows the ramp?", now))
	case "end call":
		return some(s.EndCall(by, now))
	case "watch":
		return some(s.Watch(by, rapid.Bool().Draw(t, "begins"), now))
	case "silence":
		return s.Silence(chat.Patience{Remind: 5 * time.Second, End: 5 * time.Second}, chat.WrapUp{NeedsOutcome: true}, now)
	case "shut out":
		return some(s.ShutOut(by, chat.WrapUp{}, now))
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
	default:
		events, _ := s.End(by, rapid.SampledFrom([]chat.WrapUp{{}, {Time: time.Minute}, {NeedsOutcome: true}}).Draw(t, "wrapUp"), now)
		return events
	}
}

// wished draws the number of the wish to look along, or another one.
func wished(t *rapid.T, s chat.State) int64 {
	if s.Along != nil && rapid.IntRange(0, 3).Draw(t, "really") > 0 {
		return s.Along.Number
	}
	return rapid.Int64Range(0, s.Last).Draw(t, "wish number")
}

// offered draws the number of the page that is shown, or another one.
func offered(t *rapid.T, s chat.State) int64 {
	if s.Showing != nil && rapid.IntRange(0, 3).Draw(t, "really") > 0 {
		return s.Showing.Number
	}
	return rapid.Int64Range(0, s.Last).Draw(t, "page number")
}

// earlier draws an event of the log that somebody wants to change: real ones,
// those of others, and those that cannot be changed.
func earlier(t *rapid.T, s chat.State, now time.Time) chat.Event {
	return chat.Event{
		Number: rapid.Int64Range(1, max(1, s.Last)).Draw(t, "number"), At: now.Add(-time.Second),
		Kind: rapid.SampledFrom([]chat.Kind{chat.Said, chat.Shared, chat.Noted}).Draw(t, "kind"),
		By:   rapid.SampledFrom([]chat.Party{chat.Visitor("wren"), chat.Operator("maren")}).Draw(t, "speaker"),
	}
}

// Whatever people try, in whatever order and with clocks that jump back, the
// log keeps the promises on which everything else is built.
func TestAnySequenceOfActsKeepsTheInvariants(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var s chat.State
		var log []chat.Event
		var steps []chat.State
		for range rapid.IntRange(1, 60).Draw(t, "acts") {
			now := epoch.Add(time.Duration(rapid.Int64Range(-5, 600).Draw(t, "second")) * time.Second)
			for _, e := range act(t, s, now) {
				if (e.Kind == chat.Said || e.Kind == chat.Shared) && e.By.Side == chat.TeamSide {
					require.True(t, e.By.ID == s.Owner || slices.Contains(s.Guests, e.By.ID), "somebody spoke who does not belong here")
				}
				next, err := s.Apply(e)
				require.NoError(t, err, "an act produced an event that its own log refuses")
				if next.Owner != s.Owner {
					require.True(t, e.Kind == chat.Taken || e.Kind == chat.WasPutBack || e.Kind == chat.HelperBegan || e.Kind == chat.Ended && s.Owner == "", "a chat changed its owner without an event that says so")
				}
				if s.Phase != "" {
					require.False(t, next.Arrived.Before(s.Arrived), "a chat arrived earlier than it did")
					require.True(t, next.Arrived.Equal(s.Arrived) || e.Detail != nil && e.Detail.Live || s.Helping() && !s.Helper.Beside && !next.Helping(), "a chat lost the place of its first arrival")
				}
				s, log, steps = next, append(log, e), append(steps, next)
			}
			require.True(t, s.Phase == chat.Over || (s.Owner != "") == (s.Phase == chat.Active), "an active chat has one owner, a waiting one none")
			require.True(t, s.Offered == nil || s.Phase == chat.Waiting && !s.Message || s.HandingOn != nil && s.HandingOn.Department != "", "an offer of a chat that seeks nobody")
			require.True(t, s.HandingOn == nil || s.Phase == chat.Active, "handed on without an owner")
			require.True(t, s.Call == nil || s.Phase == chat.Active, "help is asked for in a chat that nobody holds")
			require.NotContains(t, s.Guests, s.Owner, "the owner is a guest in their own chat")
			if s.Helping() {
				require.True(t, s.Phase == chat.Waiting && !s.Message, "the helper answers where somebody else does")
				require.True(t, s.Helper.Beside || s.Seeking() == "" && s.Turn == chat.NobodysTurn, "who is with the helper alone waits for nobody")
				require.Equal(t, []string{s.Department}, s.LineOf()[:1], "and their department sees them")
			}
			if s.Phase == chat.Over {
				require.Nil(t, s.Offered)
				require.Nil(t, s.HandingOn)
				require.Empty(t, s.Seeking())
			}
		}
		for i, e := range log {
			require.EqualValues(t, i+1, e.Number, "numbers have a gap")
			if i > 0 {
				require.False(t, e.At.Before(log[i-1].At), "time runs backwards")
			}
			if e.Kind == chat.Said {
				require.NotEmpty(t, e.Text)
				if e.By.Side != chat.TeamSide {
					require.Equal(t, s.Visitor, e.By.ID, "a stranger spoke")
				}
			}
		}
		for _, side := range []chat.Side{chat.VisitorSide, chat.TeamSide} {
			m, _ := chat.Marks{}.Moved(side, chat.Seen, rapid.Int64Range(0, s.Last).Draw(t, "seen"))
			require.LessOrEqual(t, s.UnseenBy(side, m), countUnseen(log, side, m.Of(side).Seen))
			if len(s.TakenBack) == 0 {
				require.Equal(t, countUnseen(log, side, m.Of(side).Seen), s.UnseenBy(side, m))
			}
		}
		if s.Phase == chat.Over {
			require.True(t, s.Ending == chat.LeftMessage || s.RepliedAt.IsZero() == (s.Ending == chat.Missed || s.Ending == chat.Helped), "missed means that nobody answered")
			require.True(t, s.Ending != chat.Helped || s.Helper.Answered, "helped means that the helper did")
			require.True(t, s.Ending != chat.Answered || s.Owner != "", "somebody answered")
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
		"missing number":                {log[0], log[1], said(4, epoch)},
		"doubled number":                {log[0], log[1], log[1]},
		"without beginning":             {said(1, epoch)},
		"two beginnings":                {log[0], {Number: 2, Kind: chat.Started, At: epoch}},
		"time runs back":                {log[0], log[1], said(3, epoch.Add(-time.Second))},
		"taken twice":                   {log[0], log[1], taken, {Number: 4, Kind: chat.Taken, At: epoch, By: chat.Operator("idris")}},
		"words after end":               {log[0], log[1], taken, ended, said(5, epoch)},
		"unknown kind":                  {log[0], {Number: 2, Kind: "sang", At: epoch}},
		"a visitor who takes":           {log[0], log[1], {Number: 3, Kind: chat.Taken, At: epoch, By: chat.Visitor("wren")}},
		"a stranger's words":            {log[0], log[1], {Number: 3, Kind: chat.Said, At: epoch, By: chat.Visitor("stranger"), Text: "Hello"}},
		"a colleague's words":           {log[0], log[1], taken, {Number: 4, Kind: chat.Said, At: epoch, By: chat.Operator("idris"), Text: "Hello"}},
		"words before anybody took it":  {log[0], log[1], said(3, epoch)},
		"a receipt beyond the log":      {log[0], log[1], taken, {Number: 4, Kind: chat.Seen, At: epoch, By: chat.Operator("maren"), UpTo: 9}},
		"an offer by somebody":          {log[0], log[1], {Number: 3, Kind: chat.Offered, At: epoch, By: chat.Operator("maren"), Detail: &chat.Detail{Operator: "idris", Until: &epoch}}},
		"a note of the visitor's":       {log[0], log[1], {Number: 3, Kind: chat.Noted, At: epoch, By: chat.Visitor("wren"), Text: "Hello"}},
		"put back by a colleague":       {log[0], log[1], taken, {Number: 4, Kind: chat.WasPutBack, At: epoch, By: chat.Operator("idris"), Detail: &chat.Detail{Operator: "maren"}}},
		"an end that is none":           {log[0], log[1], taken, {Number: 4, Kind: chat.Ended, At: epoch, By: chat.Operator("maren")}},
		"corrected by somebody else":    {log[0], log[1], taken, {Number: 4, Kind: chat.Corrected, At: epoch, By: chat.Operator("idris"), UpTo: 2, Text: "No"}},
		"handed on by somebody else":    {log[0], log[1], taken, {Number: 4, Kind: chat.HandedOn, At: epoch, By: chat.Operator("idris"), Detail: &chat.Detail{Operator: "tove", Until: &epoch}}},
		"taken as a guest of one's own": {log[0], log[1], taken, {Number: 4, Kind: chat.Joined, At: epoch, By: chat.Operator("maren"), Detail: &chat.Detail{Operator: "maren"}}},
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
		if (e.Kind == chat.Said || e.Kind == chat.Shared) && e.By.Side == side.Other() && e.Number > seen {
			n++
		}
	}
	return min(n, 100)
}
