package chat_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

func translates(by chat.Party, theirs, ours string, second int) step {
	return tries(func(s chat.State) ([]chat.Event, error) { return s.Translate(by, theirs, ours, true, at(second)) })
}

func german(text string) chat.Translation { return chat.Translation{Language: "de", Text: text} }

// What the visitor said last is owed a translation from the beginning, whatever they say
// meanwhile too, and each once.
func TestWhatAVisitorSaysIsTranslatedOnce(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5), says(wren, 6), translates(maren, "de", "en", 10))
	require.Equal(t, []chat.Owed{{Number: 2}, {Number: 4}}, s.Translating.Owed)
	english := chat.Translation{Language: "en", Text: "Hello"}
	events := s.Translated(chat.Owed{Number: 2}, "de", english, at(11))
	require.Len(t, events, 1)
	after, err := s.Apply(events[0])
	require.NoError(t, err)
	require.Equal(t, []chat.Owed{{Number: 4}}, after.Translating.Owed)
	require.Empty(t, after.Translated(chat.Owed{Number: 2}, "de", english, at(12)), "another server was faster")
	require.Equal(t, s.Turn, after.Turn, "a translation is nobody's word")
	require.Equal(t, s.Recent, after.Recent)

	corrected := story(t, asks(0), takes(maren, 5), says(wren, 6), translates(maren, "de", "en", 10),
		tries(func(s chat.State) ([]chat.Event, error) {
			return s.Correct(wren, saidAt(wren, 4, 6), "Hallo", 100, at(20))
		}))
	require.Empty(t, corrected.Translated(chat.Owed{Number: 4}, "de", english, at(21)), "it is of words that do not stand any more")
	require.Len(t, corrected.Translated(chat.Owed{Number: 4, Corrected: 6}, "de", english, at(21)), 1)
	require.Empty(t, corrected.Translated(chat.Owed{Number: 2}, "fr", english, at(21)), "from another language")
	require.Empty(t, corrected.Translated(chat.Owed{Number: 2}, "de", chat.Translation{Language: "da"}, at(21)), "into another language")

	withdrawn := story(t, asks(0), takes(maren, 5), says(wren, 6), translates(maren, "de", "en", 10),
		tries(func(s chat.State) ([]chat.Event, error) { return s.Withdraw(wren, saidAt(wren, 4, 6), at(20)) }))
	require.Equal(t, []chat.Owed{{Number: 2}}, withdrawn.Translating.Owed)

	ended := story(t, asks(0), takes(maren, 5), translates(maren, "de", "en", 10),
		tries(func(s chat.State) ([]chat.Event, error) { return s.End(wren, chat.WrapUp{}, at(20)) }))
	require.Len(t, ended.Translated(chat.Owed{Number: 2}, "de", english, at(30)), 1, "the transcript still wants it")
}

// However much a visitor says while the translator is away, what is remembered is bounded, and
// the latest words are kept.
func TestWhatWaitsForTranslationIsBounded(t *testing.T) {
	steps := []step{asks(0), takes(maren, 1), translates(maren, "de", "en", 2)}
	for i := range 300 {
		steps = append(steps, says(wren, 3+i))
	}
	s := story(t, steps...)
	require.Len(t, s.Translating.Owed, 100)
	require.Equal(t, s.LastSaid.Visitor, s.Translating.Owed[99].Number)
	require.Len(t, story(t, append(steps[:2:2], append(steps[3:], translates(maren, "de", "en", 400))...)...).Translating.Owed, 100)
}

// An operator's words go out with their translation at once, or not at all.
func TestAnOperatorsWordsGoWithTheirTranslation(t *testing.T) {
	plain := story(t, asks(0), takes(maren, 5))
	_, err := plain.SayTranslated(maren, "c", "Hello", german("Hallo"), 100, at(6))
	require.ErrorIs(t, err, chat.ErrNotTranslating)
	s := story(t, asks(0), takes(maren, 5), translates(maren, "de", "en", 10))
	e, err := s.SayTranslated(maren, "c", "Hello", german("Hallo"), 100, at(11))
	require.NoError(t, err)
	require.Equal(t, "Hello", e.Text)
	require.Equal(t, "Hallo", e.Detail.Translation.Text)
	_, err = s.SayTranslated(maren, "c", "Hello", chat.Translation{Language: "fr", Text: "Bonjour"}, 100, at(11))
	require.ErrorIs(t, err, chat.ErrNotTranslating, "a colleague chose another language meanwhile")
	_, err = s.SayTranslated(maren, "c", "Hello", german(" "), 100, at(11))
	require.ErrorIs(t, err, chat.ErrEmpty, "the visitor would read nothing")
	var long *chat.TooLongError
	_, err = s.SayTranslated(maren, "c", "Hello", german(strings.Repeat("a", 31)), 10, at(11))
	require.ErrorAs(t, err, &long)
	_, err = s.SayTranslated(wren, "c", "Hallo", german("Hallo"), 100, at(11))
	require.ErrorIs(t, err, chat.ErrNotTranslating, "a visitor translates nothing")
	events, err := s.CorrectTranslated(maren, saidAt(maren, 5, 11), "Good day", german("Guten Tag"), 100, at(12))
	require.NoError(t, err)
	require.Equal(t, "Guten Tag", events[0].Detail.Translation.Text)
}

// Who holds the chat, or speaks in it, decides whether it is translated; nobody else.
func TestWhoMayTranslate(t *testing.T) {
	s := story(t, asks(0), takes(maren, 5))
	for _, by := range []chat.Party{wren, idris, chat.House} {
		_, err := s.Translate(by, "de", "en", false, at(6))
		require.ErrorIs(t, err, chat.ErrNotYours, "%v", by)
	}
	_, err := s.Translate(maren, "de", "de", false, at(6))
	require.ErrorIs(t, err, chat.ErrSameLanguage)
	_, err = s.Translate(maren, "de", "", false, at(6))
	require.ErrorIs(t, err, chat.ErrSameLanguage)
	events, err := s.EndTranslation(maren, at(6))
	require.NoError(t, err)
	require.Empty(t, events, "there is none to end")
	on := story(t, asks(0), takes(maren, 5), translates(maren, "de", "en", 10))
	events, err = on.Translate(maren, "de", "en", true, at(11))
	require.NoError(t, err)
	require.Empty(t, events, "it is so already")
	handed := story(t, asks(0), takes(maren, 5), translates(maren, "de", "en", 10),
		tries(func(s chat.State) ([]chat.Event, error) {
			e, err := s.PutBack(maren, "", at(20))
			return []chat.Event{e}, err
		}), takes(idris, 30))
	require.Equal(t, "de", handed.Translating.Theirs, "the visitor is not asked again")
	_, err = handed.Translate(idris, "de", "da", false, at(31))
	require.NoError(t, err, "who reads another language says so")
}
