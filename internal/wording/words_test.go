package wording

import (
	"slices"
	"testing"
	"text/template"
	"time"

	"github.com/stretchr/testify/require"
)

func names(t *template.Template) []string {
	var all []string
	for _, d := range t.Templates() {
		if d.Name() != t.Name() {
			all = append(all, d.Name())
		}
	}
	slices.Sort(all)
	return all
}

func TestEveryLanguageHasAllWords(t *testing.T) {
	for language, words := range languages {
		require.Equal(t, names(languages["en"]), names(words), language)
		date, err := Write(words, "date", nil)
		require.NoError(t, err)
		at := time.Date(2026, 3, 4, 17, 5, 0, 0, time.UTC)
		require.Contains(t, at.Format(date), "17:05", "%s: a layout of Go's time", language)
	}
}

func TestWordsAreInTheReadersLanguage(t *testing.T) {
	a := map[string]string{"Site": "Kelpwick Ferries"}
	for language, want := range map[string]string{
		"en": "Your question to Kelpwick Ferries", "de-AT": "Ihre Frage an Kelpwick Ferries", "DE": "Ihre Frage an Kelpwick Ferries",
		"da": "Your question to Kelpwick Ferries", "": "Your question to Kelpwick Ferries",
	} {
		got, err := Write(In(language), "answer subject", a)
		require.NoError(t, err)
		require.Equal(t, want, got, language)
	}
}
