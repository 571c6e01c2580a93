package chat_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/channel"
	"stoop/core/chat"
)

var byText = &chat.Way{Kind: channel.Text, Line: "line", Address: "+4532123456"}

// texting returns a chat that Maren holds, whose visitor wrote a text message.
func texting(t *testing.T) chat.State {
	t.Helper()
	s := fold(t, must(chat.Start(wren, "a", chat.Intro{Channel: channel.Text}, "Is the 18:30 on time?", 2000, epoch)))
	s = then(t, s, must(s.Take(maren, epoch.Add(time.Second))))
	return then(t, s, must1(s.SayOver(wren, "b", "It is raining", byText, 2000, epoch.Add(2*time.Second))))
}

func fold(t *testing.T, events []chat.Event) chat.State {
	t.Helper()
	return then(t, chat.State{}, events)
}

func then(t *testing.T, s chat.State, events []chat.Event) chat.State {
	t.Helper()
	for _, e := range events {
		var err error
		s, err = s.Apply(e)
		require.NoError(t, err)
	}
	return s
}

func must(events []chat.Event, err error) []chat.Event {
	if err != nil {
		panic(err)
	}
	return events
}

func must1(e chat.Event, err error) []chat.Event { return must([]chat.Event{e}, err) }

// Words go back by the way by which the visitor wrote last, and each says by which it went.
func TestAChatIsOnTheWayByWhichItsVisitorWroteLast(t *testing.T) {
	t.Parallel()
	s := texting(t)
	later := epoch.Add(time.Minute)
	said, err := s.Say(maren, "c", "It is", 2000, later)
	require.NoError(t, err)
	require.Equal(t, byText, said.Detail.Over)
	s = then(t, s, []chat.Event{said})
	card, err := s.SayCard(maren, "d", chat.Card{Kind: "sailing", ID: "1", Title: "18:30 to Sandry"}, 2000, later)
	require.NoError(t, err)
	require.Equal(t, byText, card.Detail.Over, "a card, too")
	require.Equal(t, "18:30 to Sandry", card.Detail.Card.Title)
	automatic := s.SayByRule("rule", "e", "Snow on the quay", later)
	require.Equal(t, byText, automatic[0].Detail.Over, "and what is said by itself")

	// Back on the site, in the same conversation.
	here, err := s.Say(wren, "f", "I am on your page now", 2000, later)
	require.NoError(t, err)
	s = then(t, s, []chat.Event{here})
	require.Equal(t, channel.Site, s.WayKind())
	said, err = s.Say(maren, "g", "Welcome", 2000, later)
	require.NoError(t, err)
	require.Nil(t, said.Detail)
}

func TestWhatTextMessagesDoNotCarry(t *testing.T) {
	t.Parallel()
	s, later := texting(t), epoch.Add(5*time.Second)
	_, err := s.Share(maren, "f", chat.File{ID: "f", Name: "plan.pdf"}, later)
	require.ErrorIs(t, err, chat.ErrNoFilesThere)
	_, err = s.OfferPage(maren, "p", chat.Page{URL: "https://kelpwick.example/fares"}, later)
	require.ErrorIs(t, err, chat.ErrNotOnSite)
	_, err = s.AskAlong(maren, false, later)
	require.ErrorIs(t, err, chat.ErrNotOnSite)

	var parts *chat.TooManyPartsError
	_, err = s.Say(maren, "g", strings.Repeat("a", 1999)+"🐟", 2000, later)
	require.ErrorAs(t, err, &parts)
	require.Equal(t, chat.TooManyPartsError{Parts: 30, Limit: 10}, *parts)
	said, err := s.Say(maren, "g", strings.Repeat("’", 1500), 2000, later)
	require.NoError(t, err, "a mark that a keyboard put in does not halve what fits: it goes as the plain one")

	s = then(t, s, []chat.Event{said})
	_, err = s.Correct(maren, said, "Other words", 2000, later)
	require.ErrorIs(t, err, chat.ErrTooLate, "it has gone out")
	_, err = s.Withdraw(maren, said, later)
	require.ErrorIs(t, err, chat.ErrTooLate)

	mailed := then(t, s, must1(s.ShareOver(wren, "h", chat.File{ID: "h", Name: "photo.jpg"}, &chat.Way{Kind: channel.Email, Address: "wren@example.com"}, later)))
	file, err := mailed.Share(maren, "f", chat.File{ID: "f", Name: "plan.pdf"}, later)
	require.NoError(t, err, "mails do")
	require.Equal(t, channel.Email, file.Detail.Over.Kind)
}

// STOP holds until START, whatever is written in between.
func TestWhoStopsTextMessagesGetsNone(t *testing.T) {
	t.Parallel()
	s, later := texting(t), epoch.Add(5*time.Second)
	require.Empty(t, s.StopOver(chat.Visitor("stranger"), true, later))
	s = then(t, s, s.StopOver(wren, true, later))
	_, err := s.Say(maren, "c", "Are you there?", 2000, later)
	require.ErrorIs(t, err, chat.ErrStopped)
	require.Empty(t, s.StopOver(wren, true, later), "once")
	stopped := *byText
	stopped.Stopped = true
	s = then(t, s, must1(s.SayOver(wren, "d", "I did not mean that", &stopped, 2000, later)))
	_, err = s.Say(maren, "c", "Are you there?", 2000, later)
	require.ErrorIs(t, err, chat.ErrStopped)
	s = then(t, s, s.StopOver(wren, false, later))
	_, err = s.Say(maren, "c", "Are you there?", 2000, later)
	require.NoError(t, err)
}

func TestAskingToGoOnByAnotherWay(t *testing.T) {
	t.Parallel()
	s := fold(t, must(chat.Start(wren, "a", chat.Intro{}, "Hello", 2000, epoch)))
	_, err := s.AskOver(maren, channel.Text, epoch)
	require.ErrorIs(t, err, chat.ErrNotTaken)
	s = then(t, s, must(s.Take(maren, epoch)))
	_, err = s.AskOver(maren, channel.Site, epoch)
	require.ErrorIs(t, err, chat.ErrSameWay)
	_, err = s.AskOver(wren, channel.Text, epoch)
	require.ErrorIs(t, err, chat.ErrNotYours)
	s = then(t, s, must(s.AskOver(maren, channel.Text, epoch)))
	require.Empty(t, must(s.AskOver(maren, channel.Text, epoch)), "the question stands")
	require.Empty(t, must(s.AnswerOver(wren, chat.Way{Kind: channel.Email}, false, epoch)), "that was not asked")

	declined := then(t, s, must(s.AnswerOver(wren, chat.Way{Kind: channel.Text}, false, epoch)))
	require.Nil(t, declined.OverAsked)
	_, err = s.AnswerOver(wren, chat.Way{Kind: channel.Text}, true, epoch)
	require.ErrorIs(t, err, chat.ErrSameWay, "to which number?")
	accepted := then(t, s, must(s.AnswerOver(wren, *byText, true, epoch)))
	require.Nil(t, accepted.OverAsked)
	require.Equal(t, byText, accepted.Over)
	require.Equal(t, "+4532123456", chat.Person{}.After(must(s.AnswerOver(wren, *byText, true, epoch))).Phone, "the team knows the number")
	require.Empty(t, must(accepted.AnswerOver(wren, *byText, true, epoch)), "said twice")
	moved := then(t, s, must1(s.SayOver(wren, "b", "Here I am", byText, 2000, epoch)))
	require.Nil(t, moved.OverAsked, "who writes there has answered")

	for s.TimesAskedOver < chat.MaxAskedOver {
		s = then(t, s, must(s.AnswerOver(wren, chat.Way{Kind: channel.Text}, false, epoch)))
		s = then(t, s, must(s.AskOver(maren, channel.Text, epoch)))
	}
	s = then(t, s, must(s.AnswerOver(wren, chat.Way{Kind: channel.Text}, false, epoch)))
	_, err = s.AskOver(maren, channel.Email, epoch)
	require.ErrorIs(t, err, chat.ErrAskedOften)
	_, err = s.AnswerOver(wren, *byText, true, epoch)
	require.ErrorIs(t, err, chat.ErrAskedOften)
}

// Nobody is hurried by text message: no reminder, no miss, and an end after a long silence.
func TestWhoWritesFromElsewhereIsNotHurried(t *testing.T) {
	t.Parallel()
	s := texting(t)
	s = then(t, s, must1(s.Say(maren, "c", "It is on time", 2000, epoch.Add(time.Minute))))
	hour := epoch.Add(time.Hour + time.Minute)
	require.Empty(t, s.Silence(chat.Patience{Remind: time.Minute, End: time.Minute}, chat.WrapUp{}, hour))
	require.Empty(t, s.Automatic([]chat.Planned{{Rule: "r", On: chat.AtSilence, After: time.Minute, Text: "Still there?"}}, hour))
	require.Empty(t, s.QuietOver(time.Hour, chat.WrapUp{}, hour.Add(-time.Second)))
	ended := then(t, s, s.QuietOver(time.Hour, chat.WrapUp{Survey: true}, hour))
	require.Equal(t, chat.Answered, ended.Ending)
	require.False(t, ended.Surveyed)

	waiting := fold(t, must(chat.Start(wren, "a", chat.Intro{}, "Hello", 2000, epoch)))
	waiting = then(t, waiting, must1(waiting.SayOver(wren, "b", "Hello?", byText, 2000, epoch)))
	require.Empty(t, must(waiting.Miss(hour)))
}

func TestWhatDidNotComeIsPutDownOnce(t *testing.T) {
	t.Parallel()
	s := texting(t)
	said := must1(s.Say(maren, "c", "It is on time", 2000, epoch.Add(time.Minute)))[0]
	s = then(t, s, []chat.Event{said})
	events := s.NotDelivered(said, "no such number", epoch.Add(2*time.Minute))
	require.Equal(t, "no such number", events[0].Text)
	s = then(t, s, events)
	require.Empty(t, s.NotDelivered(said, "again", epoch.Add(3*time.Minute)))
	s = then(t, s, must(s.End(maren, chat.WrapUp{}, epoch.Add(time.Hour))))
	require.Equal(t, []int64{said.Number}, s.Undelivered)
	here := chat.Event{Number: 2, Kind: chat.Said, By: wren}
	require.Empty(t, s.NotDelivered(here, "it is on the site", epoch.Add(time.Hour)))
}

// The helper speaks on the site alone.
func TestTheHelperDoesNotAnswerFromElsewhere(t *testing.T) {
	t.Parallel()
	s := texting(t)
	_, err := s.BeginHelper(maren, "flow", "First answers", 1, false, epoch.Add(time.Minute))
	require.ErrorIs(t, err, chat.ErrNotOnSite)
	helped := fold(t, must(chat.Start(wren, "a", chat.Intro{}, "Hello", 2000, epoch)))
	helped = then(t, helped, must(helped.BeginHelper(chat.House, "flow", "First answers", 1, false, epoch)))
	_, err = helped.AnswerOver(wren, *byText, true, epoch)
	require.ErrorIs(t, err, chat.ErrWithHelper)
}
