//go:build screenshots

package shots

import (
	"strings"
	"testing"

	"stoop/e2e/world"
)

// A visitor who writes another language, whose page is looked along at.
func TestTakeThePictureOfLookingAlong(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	jette := w.Person(t).Visit("/fares")
	panel := jette.Asks("Jette Brandt", "", "Guten Tag, wie viel kostet eine Kabine? Kann ich meinen Hund mit an Bord nehmen?")
	maren.Take("Jette Brandt")
	lane := world.Lane("Jette Brandt")
	maren.Click(lane + " .lane-note button :: Translate into English")
	maren.Find(lane + " .say.visitor :: Good day, how much does a cabin cost?")
	maren.More("Jette Brandt", "Look along")
	panel.Click(".along-ask button :: Let them see it")
	maren.Find(".along-seen iframe")
	maren.Until("the page is seen", func() bool {
		return strings.Contains(maren.JS(`document.querySelector(".along-seen iframe")?.contentDocument?.querySelector(".replayer-wrapper iframe")?.contentDocument?.body?.innerText ?? ""`), "Single fares from Kelpwick")
	})
	maren.Gone(".along-seen .waiting")
	maren.Snap(folder + "along.png")
}
