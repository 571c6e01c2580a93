package phrasebook_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/standin/phrasebook"
)

// The book says the same each time, the longest phrase that fits, keeps numbers, names, marks
// and lines, and marks what it does not know.
func TestTheBookMarksWhatItDoesNotKnow(t *testing.T) {
	for in, want := range map[string]string{
		"Your dog travels free of charge.":                  "Ihr Hund reist kostenlos mit.",
		"The ferry leaves at 14:30 from Kelpwick!":          "Die Fähre fährt um 14:30 von Kelpwick!",
		"hello\nthank you":                                  "Hallo\nDanke",
		"The gangway is steep, the gangway.":                "Die ‹gangway› ist ‹steep›, die ‹gangway›.",
		"KF-20931 costs €12.50":                             "KF-20931 ‹costs› €12.50",
		"Please be at the port 30 minutes before departure": "Bitte seien Sie am Hafen 30 Minuten vor der Abfahrt",
	} {
		require.Equal(t, want, phrasebook.Translate(phrasebook.Question{Text: in, From: "en", Into: "de"}).Text, in)
	}
	require.Equal(t, []string{"gangway", "steep"}, phrasebook.Translate(phrasebook.Question{Text: "The gangway is steep, the gangway.", From: "en", Into: "de"}).Unknown)
}

// Whatever is in the book comes back as it was, through any other language.
func TestEachPhraseComesBack(t *testing.T) {
	for _, other := range phrasebook.Languages()[1:] {
		out := phrasebook.Translate(phrasebook.Question{Text: "When does the next ferry leave?", From: "en", Into: other})
		require.Empty(t, out.Unknown, other)
		require.Equal(t, "When does the next ferry leave?", phrasebook.Translate(phrasebook.Question{Text: out.Text, From: other, Into: "en"}).Text, out.Text)
	}
}
