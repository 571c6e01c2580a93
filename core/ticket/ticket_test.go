package ticket_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/ticket"
)

var (
	maren, idris = chat.Operator("maren"), chat.Operator("idris")
	wren         = chat.Visitor("wren")
	monday       = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
)

// hours is due so many hours later by priority, in every department.
func hours(p ticket.Priority, _ string, since time.Time) *time.Time {
	due := since.Add(map[ticket.Priority]time.Duration{ticket.Low: 40, ticket.Normal: 16, ticket.High: 8, ticket.Urgent: 2}[p] * time.Hour)
	return &due
}

// life is a ticket that is lived through.
type life struct {
	t   testing.TB
	s   ticket.State
	log []ticket.Event
	now time.Time
}

func begin(t testing.TB, o ticket.Opening) *life {
	if o.Title == "" {
		o.Title = "Refund for the cancelled sailing"
	}
	l := &life{t: t, now: monday}
	e, err := ticket.Make(maren, "c1", o, hours, l.now)
	require.NoError(t, err)
	l.has([]ticket.Event{e}, nil)
	return l
}

func (l *life) has(events []ticket.Event, err error) {
	l.t.Helper()
	require.NoError(l.t, err)
	for _, e := range events {
		l.s, l.log = l.s.Apply(e), append(l.log, e)
	}
}

func (l *life) later(long time.Duration) { l.now = l.now.Add(long) }

func (l *life) set(c ticket.Change) {
	l.t.Helper()
	l.has(l.s.Set(maren, c, hours, l.now))
}

func (l *life) says(by chat.Party, text string) {
	l.t.Helper()
	l.has(l.s.Say(by, "", text, "", hours, l.now))
}

func (l *life) hears(text string) {
	l.t.Helper()
	l.has(l.s.Answer(wren, "", text, ticket.ByMail, "wren@example.com", hours, l.now))
}

func to[T any](value T) *T { return &value }

// Who has the next word, and when it is due: the clock runs while the customer waits, from when
// they began to, and stands while they are waited for.
func TestWhoHasTheNextWordAndWhenItIsDue(t *testing.T) {
	l := begin(t, ticket.Opening{Priority: ticket.High})
	require.Equal(t, ticket.Open, l.s.Status)
	require.Equal(t, monday.Add(8*time.Hour), *l.s.Due)

	l.later(time.Hour)
	l.hears("It was the 10:30 from Sandry")
	require.Equal(t, ticket.Open, l.s.Status, "nobody has answered yet")
	require.Equal(t, monday.Add(8*time.Hour), *l.s.Due, "they wait since the beginning, not since they wrote again")

	l.later(time.Hour)
	l.says(idris, "We look into it")
	require.Equal(t, ticket.ForCustomer, l.s.Status)
	require.Nil(t, l.s.Due)
	require.Equal(t, "idris", l.s.Owner, "nobody's before, it is theirs who answers")

	l.later(24 * time.Hour)
	l.hears("Any news?")
	asked := l.now
	l.later(time.Hour)
	l.hears("I fly home on Friday")
	require.Equal(t, ticket.ForUs, l.s.Status)
	require.Equal(t, asked.Add(8*time.Hour), *l.s.Due, "since the first of the two")

	l.set(ticket.Change{Priority: to(ticket.Urgent)})
	require.Equal(t, asked.Add(2*time.Hour), *l.s.Due, "sooner, from the same moment")

	l.has(l.s.Say(maren, "", "Paid out today", ticket.Done, hours, l.now))
	require.Equal(t, ticket.Done, l.s.Status)
	require.Nil(t, l.s.Due)
	require.Equal(t, l.now, *l.s.DoneAt)
	require.Equal(t, "idris", l.s.Owner, "who helps out does not take it over")

	l.later(48 * time.Hour)
	l.hears("Nothing has come")
	require.Equal(t, ticket.ForUs, l.s.Status, "a customer who answers opens it again")
	require.Nil(t, l.s.DoneAt)
	require.Equal(t, l.now.Add(2*time.Hour), *l.s.Due)
}

// Answers count as in time or late only where somebody waited; what is said beside counts nothing.
func TestWhichAnswersWereInTime(t *testing.T) {
	l := begin(t, ticket.Opening{Priority: ticket.Urgent})
	inTime := func() *bool { return l.log[len(l.log)-1].InTime }
	l.later(2 * time.Hour)
	l.says(maren, "Here it is")
	require.True(t, *inTime(), "at the very moment at which it is due")
	l.says(maren, "And one more thing")
	require.Nil(t, inTime(), "nobody waited")
	l.later(time.Hour)
	l.hears("Thanks, but no")
	l.later(2*time.Hour + time.Millisecond)
	l.says(maren, "Sorry for the delay")
	require.False(t, *inTime())
}

// A time that somebody chose goes before the one by priority, also while the customer is waited
// for, until it is given up, met by an answer, or the ticket is done.
func TestADueTimeChosenByHand(t *testing.T) {
	l := begin(t, ticket.Opening{})
	friday := monday.Add(4 * 24 * time.Hour)
	l.set(ticket.Change{Due: &friday})
	require.Equal(t, friday, *l.s.Due)
	l.later(time.Hour)
	l.says(maren, "I will write again on Friday")
	require.Equal(t, friday, *l.s.Due, "still to come")
	l.now = friday.Add(time.Minute)
	l.says(maren, "As promised")
	require.Nil(t, l.s.Due, "it was for this answer")

	l.hears("Thank you")
	l.set(ticket.Change{Due: to(l.now.Add(time.Hour))})
	l.set(ticket.Change{AutoDue: true})
	require.Equal(t, l.s.Since.Add(16*time.Hour), *l.s.Due, "by its priority again")
	l.set(ticket.Change{Due: to(l.now.Add(time.Hour))})
	l.set(ticket.Change{Status: to(ticket.Done)})
	require.Nil(t, l.s.Due)
	l.hears("One more question")
	require.Equal(t, l.now.Add(16*time.Hour), *l.s.Due, "the old choice does not come back")
}

func TestWhatIsSoAlreadyChangesNothing(t *testing.T) {
	l := begin(t, ticket.Opening{Title: "Refund", Owner: "maren", Department: "help", Tags: []string{"Refund", "refund "}})
	require.Equal(t, []string{"refund"}, l.s.Tags)
	l.set(ticket.Change{Fields: map[string]string{"order": "KF-20417"}})
	before := len(l.log)
	l.set(ticket.Change{
		Title: to(" Refund "), Owner: to("maren"), Department: to("help"), Status: to(ticket.Open), Priority: to(ticket.Normal), AutoDue: true,
		Tags: to([]string{"refund"}), Fields: map[string]string{"order": "KF-20417 ", "other": ""}, Email: to(""),
	})
	require.Len(t, l.log, before)
	l.set(ticket.Change{Fields: map[string]string{"order": ""}})
	require.Empty(t, l.s.Fields, "an empty value takes it away")
}

// A tag is put to those that a colleague put meanwhile, not in their place.
func TestTagsThatColleaguesPutStay(t *testing.T) {
	l := begin(t, ticket.Opening{Tags: []string{"refund", "late"}})
	l.set(ticket.Change{AddTags: []string{" Ferry"}})
	l.set(ticket.Change{AddTags: []string{"car", "refund"}, RemoveTags: []string{"Late"}})
	require.Equal(t, []string{"refund", "ferry", "car"}, l.s.Tags)
	last := l.log[len(l.log)-1].Change
	require.Equal(t, l.s.Tags, *last.Tags, "a log says what there was, whoever reads it")
	require.Empty(t, last.AddTags)
	require.Empty(t, last.RemoveTags)
	before := len(l.log)
	l.set(ticket.Change{AddTags: []string{"car"}, RemoveTags: []string{"late"}})
	require.Len(t, l.log, before, "it is so already")
	var many []string
	for i := range ticket.TagsLimit {
		many = append(many, fmt.Sprint("tag ", i))
	}
	_, err := l.s.Set(maren, ticket.Change{AddTags: many}, hours, l.now)
	require.Error(t, err, "too many together")
	require.Equal(t, []string{"refund", "ferry", "car"}, l.s.Tags)
}

func TestWhatIsWrongIsSaidAtItsField(t *testing.T) {
	l := begin(t, ticket.Opening{})
	many := make([]string, ticket.TagsLimit+1)
	for i := range many {
		many[i] = strings.Repeat("t", i+1)
	}
	_, err := l.s.Set(maren, ticket.Change{Title: to("  "), Email: to("wren"), Status: to(ticket.Status("gone")), Priority: to(ticket.Priority("huge")), Tags: &many}, hours, l.now)
	var wrong *form.BadFieldsError
	require.ErrorAs(t, err, &wrong)
	fields := []string{}
	for _, w := range wrong.Wrong {
		fields = append(fields, w.Field)
	}
	require.ElementsMatch(t, []string{"title", "email", "status", "priority", "tags"}, fields)
	_, err = ticket.Make(maren, "c", ticket.Opening{Title: "\n"}, hours, monday)
	require.ErrorAs(t, err, &wrong)
	_, err = l.s.Say(maren, "", " \n", "", hours, l.now)
	require.ErrorIs(t, err, chat.ErrEmpty)
	var long *chat.TooLongError
	_, err = l.s.Note(maren, "", strings.Repeat("x", ticket.WordsLimit+1), hours, l.now)
	require.ErrorAs(t, err, &long)
}

func TestMerging(t *testing.T) {
	one, two := begin(t, ticket.Opening{Chat: "a", Tags: []string{"refund"}}), begin(t, ticket.Opening{Chat: "b", Tags: []string{"late"}})
	two.says(maren, "We look into it")
	a, b := ticket.Ticket{ID: "1", Number: 1001, State: one.s}, ticket.Ticket{ID: "2", Number: 1002, State: two.s}
	_, _, err := ticket.Merge(maren, a, a, hours, monday)
	require.ErrorIs(t, err, ticket.ErrItself)

	there, here, err := ticket.Merge(maren, a, b, hours, monday.Add(time.Hour))
	one.has(there, err)
	two.has(here, err)
	require.Equal(t, ticket.Done, one.s.Status)
	require.Equal(t, int64(1002), one.s.MergedInto.Number)
	require.Equal(t, []string{"b", "a"}, two.s.Chats)
	require.Equal(t, []string{"late", "refund"}, two.s.Tags)
	require.Equal(t, ticket.ForUs, two.s.Status, "the customer of the first one waits")
	require.NotNil(t, two.s.Due)

	there, here, err = ticket.Merge(maren, ticket.Ticket{ID: "1", Number: 1001, State: one.s}, ticket.Ticket{ID: "2", Number: 1002, State: two.s}, hours, monday)
	require.NoError(t, err, "asked again, as after an answer that was lost")
	require.Empty(t, there)
	require.Empty(t, here)
	_, _, err = ticket.Merge(maren, ticket.Ticket{ID: "1", State: one.s}, ticket.Ticket{ID: "3", State: two.s}, hours, monday)
	require.ErrorIs(t, err, ticket.ErrMerged, "and not elsewhere")

	_, err = one.s.Say(maren, "", "More", "", hours, monday)
	require.ErrorIs(t, err, ticket.ErrMerged)
	_, err = one.s.Set(maren, ticket.Change{Title: to("x")}, hours, monday)
	require.ErrorIs(t, err, ticket.ErrMerged)
	_, _, err = ticket.Merge(maren, b, ticket.Ticket{ID: "1", State: one.s}, hours, monday)
	require.ErrorIs(t, err, ticket.ErrMerged, "and not in a circle")
}

func TestLinkingChats(t *testing.T) {
	l := begin(t, ticket.Opening{Chat: "a"})
	for _, id := range []string{"b", "b", "a"} {
		l.has(l.s.Link(maren, id, hours, l.now))
	}
	require.Equal(t, []string{"a", "b"}, l.s.Chats)
	for range 2 {
		l.has(l.s.Unlink(maren, "a", hours, l.now))
	}
	require.Equal(t, []string{"b"}, l.s.Chats)
	require.Len(t, l.log, 3, "twice is once")
}

// Whatever happens in whatever order: the log has no gaps, its times do not run back, what is
// stored gives the same state, a ticket that is done is never due, and one that waits for the
// team by no chosen time is due by the moment since which it waits.
func TestTicketsHoldTogetherWhateverHappens(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now := monday
		e, err := ticket.Make(maren, "c1", ticket.Opening{Title: "Refund", Chat: "a"}, hours, now)
		require.NoError(t, err)
		log := []ticket.Event{e}
		for range rapid.IntRange(0, 25).Draw(t, "acts") {
			s := ticket.Fold(log)
			now = now.Add(time.Duration(rapid.IntRange(-5, 600).Draw(t, "minutes")) * time.Minute)
			var events []ticket.Event
			switch rapid.IntRange(0, 6).Draw(t, "act") {
			case 0:
				events, err = s.Say(idris, "", "words", rapid.SampledFrom([]ticket.Status{"", ticket.Done, ticket.ForUs}).Draw(t, "then"), hours, now)
			case 1:
				events, err = s.Answer(wren, "", "words", ticket.ByPanel, "", hours, now)
			case 2:
				events, err = s.Note(maren, "", "words", hours, now)
			case 3:
				events, err = s.Set(maren, ticket.Change{Status: to(rapid.SampledFrom(ticket.Statuses).Draw(t, "status")), Priority: to(rapid.SampledFrom(ticket.Priorities).Draw(t, "priority"))}, hours, now)
			case 4:
				events, err = s.Set(maren, ticket.Change{Due: to(now.Add(time.Duration(rapid.IntRange(-60, 600).Draw(t, "due")) * time.Minute))}, hours, now)
			case 5:
				events, err = s.Set(maren, ticket.Change{AutoDue: true, Owner: to("")}, hours, now)
			case 6:
				events, err = s.Link(maren, rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "chat"), hours, now)
			}
			require.NoError(t, err)
			log = append(log, events...)
		}
		s := ticket.Fold(log)
		for i, e := range log {
			require.Equal(t, int64(i+1), e.Number)
			require.False(t, i > 0 && e.At.Before(log[i-1].At), "time runs on")
		}
		stored, err := json.Marshal(log)
		require.NoError(t, err)
		var read []ticket.Event
		require.NoError(t, json.Unmarshal(stored, &read))
		require.Equal(t, s, ticket.Fold(read))
		require.Equal(t, s.Status == ticket.Done, s.DoneAt != nil)
		switch {
		case s.Status == ticket.Done:
			require.Nil(t, s.Due)
		case s.Chosen != nil:
			require.Equal(t, s.Chosen, s.Due)
		case s.Waits():
			require.Equal(t, hours(s.Priority, "", s.Since), s.Due)
		default:
			require.Nil(t, s.Due)
		}
	})
}

func TestATitleIsSuggested(t *testing.T) {
	for want, said := range map[string][]string{
		"My booking KF-20417 shows the wrong car": {"Hi!", "My booking KF-20417 shows the wrong car. It is 4.9 m long."},
		"Refund for the 10.30 sailing":            {"Refund for the 10.30 sailing"},
		"Where is my refund, please":              {"Hello there. Where is my refund, please?"},
		"Help":                                    {"", "Help!"},
		"":                                        {"", " \n "},
		"We travel with two dogs, a cat and a trailer, and I wonder whether all of them…": {"We travel with two dogs, a cat and a trailer, and I wonder whether all of them may come along on the night sailing"},
	} {
		require.Equal(t, want, ticket.Suggest(said...))
	}
}

// Somebody wants a call: it is due when they want it, tried again when nobody was reached, and
// done when somebody was; a time that is over is no time to try again.
func TestACall(t *testing.T) {
	at := monday.Add(5 * time.Hour)
	l := begin(t, ticket.Opening{Call: &ticket.Call{Phone: "+442079460123", At: at}, Due: &at})
	require.Equal(t, at, *l.s.Due)
	l.now = at.Add(time.Minute)
	var wrong *form.BadFieldsError
	for _, again := range []*time.Time{nil, &monday} {
		_, err := l.s.CallMade(idris, "", "", ticket.CallMade{Again: again}, hours, l.now)
		require.ErrorAs(t, err, &wrong)
	}
	again := l.now.Add(2 * time.Hour)
	l.has(l.s.CallMade(idris, "", "Only the voicemail", ticket.CallMade{Again: &again}, hours, l.now))
	require.Equal(t, again, *l.s.Due)
	require.Equal(t, 1, l.s.Call.Tries)
	require.Equal(t, "idris", l.s.Owner)
	require.False(t, *l.log[len(l.log)-1].InTime, "a minute after it was due")
	l.now = again
	l.has(l.s.CallMade(maren, "", "", ticket.CallMade{Reached: true, Again: &again}, hours, l.now))
	require.Equal(t, ticket.Done, l.s.Status)
	require.Nil(t, l.s.Due)
	require.Nil(t, l.log[len(l.log)-1].Call.Again, "who was reached is not tried again")
	_, err := l.s.CallMade(maren, "", "", ticket.CallMade{Reached: true}, hours, l.now)
	require.ErrorIs(t, err, ticket.ErrNoCall)

	// Called off by the customer, twice as once.
	l = begin(t, ticket.Opening{Call: &ticket.Call{Phone: "+442079460123", At: at}, Due: &at})
	for range 2 {
		l.has(l.s.CallOff(wren, hours, l.now))
	}
	require.Equal(t, ticket.Done, l.s.Status)
	require.Len(t, l.log, 2)
	_, err = begin(t, ticket.Opening{}).s.CallMade(maren, "", "", ticket.CallMade{Reached: true}, hours, l.now)
	require.ErrorIs(t, err, ticket.ErrNoCall, "who wants none")
}
