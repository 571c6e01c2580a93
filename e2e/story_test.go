package e2e_test

import (
	"testing"

	"stoop/e2e/world"
)

// The main job: a visitor asks, an operator hears and sees it at once, takes
// it, both write, one ends it, and the transcript is there.
func TestAVisitorAsksAndAnOperatorAnswers(t *testing.T) {
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren Castellane", "wren.castellane@example.com", "Is there room for a minibus?")
	maren.Snap("/tmp/1.png")
	maren.Take("Wren Castellane")
	panel.Find(".event :: Maren is here")
	maren.Says("Wren Castellane", "There is, both ways. What length is it?")
	panel.Find(".said .words :: both ways")
	wren.Says("6.8 m, back on Sunday")
	maren.Find(".say.visitor :: 6.8 m")
	maren.Snap("/tmp/2.png")
	wren.Snap("/tmp/3.png")
	maren.Ends("Wren Castellane")
	panel.Find(".event :: Chat ended")
	wren.Snap("/tmp/4.png")
	maren.Click("nav a :: Transcripts")
	maren.Type("input[type=search]", "minibus Castellane")
	maren.Click(".found a :: Wren Castellane")
	maren.Find(".reader .say :: both ways")
	maren.Snap("/tmp/5.png")
}
