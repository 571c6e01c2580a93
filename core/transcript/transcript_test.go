package transcript_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/search"
	"stoop/core/transcript"
)

var begin = time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)

// talk plays acts one second after the other and returns the log with its state.
func talk(t *testing.T, acts ...func(chat.State, time.Time) ([]chat.Event, error)) ([]chat.Event, chat.State) {
	t.Helper()
	log, err := chat.Start(chat.Visitor("wren"), "first", chat.Intro{Name: "Wren"}, "Is there rom?", 2000, begin)
	require.NoError(t, err)
	for i, act := range acts {
		s, err := chat.Fold(log)
		require.NoError(t, err)
		more, err := act(s, begin.Add(time.Duration(i+1)*time.Second))
		require.NoError(t, err)
		log = append(log, more...)
	}
	s, err := chat.Fold(log)
	require.NoError(t, err)
	return log, s
}

func one(e chat.Event, err error) ([]chat.Event, error) { return []chat.Event{e}, err }

var idris, maren, wren = chat.Operator("idris"), chat.Operator("maren"), chat.Visitor("wren")

// What each reader finds in one and the same log: the visitor neither a note nor
// who watches nor why they wait again; operators not who watches; nobody what a
// visitor withdrew.
func TestEachReaderFindsWhatIsForThem(t *testing.T) {
	log, s := talk(t,
		func(s chat.State, now time.Time) ([]chat.Event, error) { return s.Take(idris, now) },
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return one(s.Note(idris, "n", "a regular", now))
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) { return s.Watch(maren, true, now) },
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return one(s.Say(wren, "w", "my card is 1234", 2000, now))
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return one(s.Say(idris, "i", "Ther is room.", 2000, now))
		},
	)
	number := func(kind chat.Kind, text string) int64 {
		for _, e := range log {
			if e.Kind == kind && e.Text == text {
				return e.Number
			}
		}
		t.Fatalf("no %s %q", kind, text)
		return 0
	}
	card, room := number(chat.Said, "my card is 1234"), number(chat.Said, "Ther is room.")
	add := func(events []chat.Event, err error) {
		t.Helper()
		require.NoError(t, err)
		log = append(log, events...)
		s, err = chat.Fold(log)
		require.NoError(t, err)
	}
	later := begin.Add(20 * time.Second)
	add(s.Withdraw(wren, log[card-1], later))
	add(s.Correct(idris, log[room-1], "There is room.", 2000, later))
	add(one(s.PutBack(idris, "ask Tove", later)))

	texts := func(r transcript.Reader) (texts []string, kinds map[chat.Kind]bool) {
		kinds = map[chat.Kind]bool{}
		for i, e := range transcript.For(r, s, log) {
			require.Equal(t, int64(i+1), e.Number, "no gap, whoever reads")
			kinds[e.Kind] = true
			if e.Text != "" {
				texts = append(texts, e.Text)
			}
		}
		return texts, kinds
	}
	visitor, kinds := texts(transcript.Visitor)
	require.Equal(t, []string{"Is there rom?", "There is room.", "There is room."}, visitor, "the correction stands twice: at its words and as an event")
	require.False(t, kinds[chat.Noted] || kinds[chat.Watched])
	require.True(t, kinds[chat.WasPutBack] && kinds[transcript.Inside])
	operator, kinds := texts(transcript.Operator)
	require.Equal(t, []string{"Is there rom?", "a regular", "Ther is room.", "There is room.", "ask Tove"}, operator)
	require.False(t, kinds[chat.Watched])
	_, kinds = texts(transcript.Lead)
	require.True(t, kinds[chat.Watched])

	var said []string
	for _, e := range transcript.Said(s, log, s.Last) {
		said = append(said, e.Text)
	}
	require.Equal(t, []string{"Is there rom?", "There is room."}, said)
	require.Equal(t, []search.Text{{Weight: search.Named, Text: "Wren"}, {Weight: search.Said, Text: "Is there rom?"}, {Weight: search.Said, Text: "There is room."}, {Weight: search.Noted, Text: "a regular"}},
		transcript.Texts(s, log), "the note as well, but not what was withdrawn")
}

// A kind that nobody thought of reaches nobody.
func TestAnUnknownKindIsForNobody(t *testing.T) {
	for _, r := range []transcript.Reader{transcript.Visitor, transcript.Operator, transcript.Lead} {
		got := transcript.For(r, chat.State{}, []chat.Event{{Number: 1, Kind: "hummed", Text: "la"}})
		require.Equal(t, []chat.Event{{Number: 1, Kind: transcript.Inside, By: chat.Party{Side: chat.HouseSide}}}, got)
	}
}

// Both languages are found, and each side reads its own: what was corrected with the words it
// was corrected to, what was withdrawn not at all.
func TestTranslationsAreFoundAndRead(t *testing.T) {
	german := func(text string) chat.Translation {
		return chat.Translation{Language: "de", Text: text, Unknown: []string{"gangway"}}
	}
	var rom int64 = 2
	log, s := talk(t,
		func(s chat.State, now time.Time) ([]chat.Event, error) { return s.Take(idris, now) },
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return s.Translate(idris, "de", "en", false, now)
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return s.Translated(chat.Owed{Number: rom}, "de", chat.Translation{Language: "en", Text: "Is there chamber?"}, now), nil
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return one(s.SayTranslated(idris, "i", "Ther is room.", german("Es gibt Plaz."), 2000, now))
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return s.CorrectTranslated(idris, chat.Event{Number: 6, Kind: chat.Said, By: idris, At: begin}, "There is room.", german("Es gibt Platz."), 2000, now)
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return one(s.SayTranslated(idris, "j", "And a lift.", german("Und einen Aufzug."), 2000, now))
		},
		func(s chat.State, now time.Time) ([]chat.Event, error) {
			return s.Withdraw(idris, chat.Event{Number: 8, Kind: chat.Said, By: idris, At: begin}, now)
		},
	)
	forVisitor := transcript.For(transcript.Visitor, s, log)
	require.Equal(t, &chat.Translation{Language: "de", Text: "Es gibt Platz."}, forVisitor[5].Detail.Translation, "as corrected; what is unknown is the team's")
	require.Equal(t, transcript.Inside, forVisitor[4].Kind, "how the team reads them is not the visitor's")
	require.Empty(t, forVisitor[7].Text)
	require.Nil(t, forVisitor[7].Detail.Translation, "what was withdrawn is gone in both languages")

	mended, err := s.Correct(wren, chat.Event{Number: rom, Kind: chat.Said, By: wren, At: begin}, "Is there room for my father?", 2000, begin.Add(20*time.Second))
	require.NoError(t, err)
	gone, err := chat.Fold(append(log[:len(log):len(log)], mended...))
	require.NoError(t, err)
	back, err := gone.Withdraw(wren, chat.Event{Number: rom, Kind: chat.Said, By: wren, At: begin}, begin.Add(21*time.Second))
	require.NoError(t, err)
	all := append(append(log[:len(log):len(log)], mended...), back...)
	gone, err = chat.Fold(all)
	require.NoError(t, err)
	for _, e := range transcript.For(transcript.Lead, gone, all) {
		require.NotContains(t, e.Text, "father", "what a visitor withdrew is nobody's any more, however often it was corrected")
		require.False(t, e.Detail != nil && e.Detail.Translation != nil && e.Detail.Translation.Text == "Is there chamber?")
	}

	found := map[string]bool{}
	for _, text := range transcript.Texts(s, log) {
		found[text.Text] = true
	}
	for _, words := range []string{"Is there rom?", "Is there chamber?", "There is room.", "Es gibt Platz."} {
		require.True(t, found[words], words)
	}
	for _, words := range []string{"Es gibt Plaz.", "Und einen Aufzug.", "And a lift."} {
		require.False(t, found[words], words)
	}
}
