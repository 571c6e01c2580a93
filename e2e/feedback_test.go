package e2e_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// One click rates a chat, words follow, and a lead reads what was low while the visitor
// is still there; the connection that is lost in between loses no word.
func TestAChatIsRatedAndReadByALead(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	// The demo's own history has been read already.
	require.NoError(t, w.Server.Store.DB.Exec("update chats set feedback_to_read = false").Error)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren Castellane", "wren@example.com", "Is there room for a minibus?")
	idris.Take("Wren Castellane")
	idris.Says("Wren Castellane", "There is.")
	panel.Find(".said :: There is.")
	idris.Ends("Wren Castellane")

	panel.Find(".survey legend :: How was this chat?")
	panel.Click(".survey button :: Poor")
	maren.Find(".low-ratings a :: Wren Castellane") // at once, though it was never on her Desk
	panel.Type(".survey textarea", "It took two hours.")
	w.VisitorNet.Cut()
	panel.Click(".survey button :: Send your words")
	panel.Find(".survey .wrong")
	require.Equal(t, "It took two hours.", panel.Text(".survey textarea"))
	w.VisitorNet.Mend()
	panel.Click(".survey button :: Send again")
	panel.Find(".survey :: We have what you wrote")

	maren.Click(".low-ratings a :: It took two hours.")
	maren.Find(".feedback .reader .script, .feedback .reader :: There is.")
	maren.Type(".close-rating input", "Called her.")
	maren.Click("button :: Mark as read")
	maren.Find(".feedback :: Nothing was said that fits these filters.")
	maren.Click("nav a :: Desk")
	maren.Gone(".low-ratings")
	maren.Click("nav a :: Reports")
	maren.Click(".reports nav a :: Ratings")
	maren.Click(".card a :: Read what they said")
	maren.Find(".found a :: read by Maren")
	require.True(t, strings.Contains(strings.Join(maren.Texts(".totals"), " "), "rating"))

	// What was said stands there when the page is loaded again.
	wren.Open(w.SiteURL + "/fares")
	panel = wren.Reloaded()
	require.Equal(t, "true", panel.Attribute(".survey button :: Poor", "aria-pressed"))
	require.Equal(t, "It took two hours.", panel.Text(".survey textarea"))
}
