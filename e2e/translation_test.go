package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// Two people who share no language speak with each other: each reads their own, the words as
// they were said are one click away, and what the translator does not know is said. Nothing
// is lost when it is away.
func TestTwoWhoShareNoLanguageSpeak(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	jette := w.Person(t).Visit("/fares")
	panel := jette.Asks("Jette Brandt", "", "Guten Tag, kann ich meinen Hund mit an Bord nehmen? Wann fährt die nächste Fähre ab?")
	maren.Take("Jette Brandt")
	lane := world.Lane("Jette Brandt")
	maren.Find(lane + " .lane-note :: This seems to be German")
	maren.Click(lane + " .lane-note button :: Translate into English")
	maren.Find(lane + " .lane-note :: Translated: visitor reads German (a guess), you read English")
	maren.Find(lane + " .say.visitor :: can I take my dog on board? When does the next ferry leave?")
	panel.Find(".event :: what you and our team write is translated automatically")
	require.False(t, maren.Has(lane+" .say.visitor :: Guten Tag"), "the original is one click away")
	maren.Click(lane + " .say.visitor button :: Show original")
	maren.Find(lane + " .say.visitor .other-tongue :: kann ich meinen Hund")

	// What goes out is seen before it goes.
	field := world.Field("Jette Brandt")
	maren.Type(field, "Your dog travels free of charge. The gangway is steep.")
	maren.Press(input.Enter)
	maren.Find(lane + " .outgoing blockquote :: Ihr Hund reist kostenlos mit.")
	maren.Find(lane + " .outgoing :: Not translated: gangway, steep")
	require.False(t, panel.Has(".said :: Hund reist"), "it has not gone yet")
	maren.Press(input.Enter)
	panel.Find(".said .words :: Ihr Hund reist kostenlos mit.")
	require.False(t, panel.Has(".said .words :: Your dog travels"), "the original is one click away")
	panel.Click(".said button :: Show original")
	panel.Find(".said .words :: Your dog travels free of charge.")
	maren.Find(lane + " .say.team :: sent in German")
	require.Empty(t, maren.Find(field).MustProperty("value").Str())

	// While the translator is away, words wait where they were written.
	w.TranslatorNet.Cut()
	maren.Type(field, "The ferry is late.")
	maren.Press(input.Enter)
	maren.Find(lane + " .outgoing :: The translator does not answer")
	jette.Says("Vielen Dank.")
	maren.Find(lane + " .say.visitor:has(.mark) :: Vielen Dank.")
	maren.Find(lane + " .say.visitor .mark :: not translated yet")
	w.TranslatorNet.Mend()
	maren.Until("the translator answers", func() bool { // which is let alone for a while after it failed
		if again := lane + " .outgoing button :: Try again"; maren.Has(again) {
			maren.Click(again)
		}
		return maren.Has(lane + " .outgoing blockquote :: Die Fähre ist verspätet.")
	})
	maren.Press(input.Enter)
	panel.Find(".said .words :: Die Fähre ist verspätet.")
	maren.Find(lane + " .say.visitor :: Thank you very much.")

	maren.Click(lane + " .lane-note button :: Stop")
	maren.Find(lane + " .event :: You ended the translation")
	maren.Says("Jette Brandt", "Goodbye.")
	panel.Find(".said .words :: Goodbye.")

	// Afterwards both are found and read.
	maren.Ends("Jette Brandt")
	maren.Until("the words that the visitor read are found", func() bool {
		maren.Turn("/transcripts?words=kostenlos")
		maren.Find(".transcripts .total")
		return maren.Has("main :: Jette Brandt")
	})
}
