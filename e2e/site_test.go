package e2e_test

import (
	"context"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/setup/settings"
)

// An operator sees who is there, invites them, and has the chat when they say yes.
func TestAVisitorIsSeenInvitedAndAnswers(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	visitor := w.Person(t)
	wren := visitor.Visit("/fares")
	idris.See(".on-site li :: Fares")
	idris.Click(".top nav a :: Visitors")
	idris.See(".guest-table .line.group :: Fares · Kelpwick Ferries")

	// A second tab is the same visitor, in the same row.
	second := visitor.Visit("/freight")
	idris.Until("one row for two tabs", func() bool {
		return idris.JS(`document.querySelectorAll(".guest-table .line:not(.group)").length`) == "1" && idris.Has(".guest-table .line :: Freight")
	})
	require.NoError(t, second.Close())
	idris.See(".guest-table .line :: Fares · Kelpwick Ferries")
	idris.Click(".guest-table .line:not(.group)")
	idris.See(".sheet .path :: Freight")
	idris.Type(".invite textarea", "Hello, Idris here. Can I help?")
	idris.Click(".invite button[type=submit]")
	idris.See(".sheet .doing :: invited")

	wren.Front()
	wren.Until("the card", func() bool { return strings.Contains(wren.Card(), "Hello, Idris here. Can I help?") })
	wren.AnswerCard("Yes, please")
	panel := wren.Panel()
	panel.See(".said .words :: Hello, Idris here. Can I help?")
	require.False(t, panel.Has("input[name=name]"), "no form stands between")
	panel.Type("textarea[name=text]", "Yes, we are ten.")
	panel.Click("button[type=submit]")
	panel.See(".said.own .words :: Yes, we are ten.")

	idris.Front()
	idris.Click(".top nav a :: Desk")
	idris.See(".lane :: answers the invitation of Idris Vane on Fares")
	field := `.lane .write textarea[aria-label^="Reply to"]`
	idris.Type(field, "Lovely, ten travel for less.")
	require.NoError(t, idris.Find(field).Type(input.Enter))
	panel.See(".said .words :: Lovely, ten travel for less.")
}

// The card stands where nobody is typing, and goes when it is told to.
func TestTheCardCoversNothingThatIsTypedIn(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	wren := w.Person(t).Visit("/book")
	wren.JS(`(() => { const field = document.createElement("input"); field.id = "typed"; field.style = "position:fixed;right:30px;bottom:120px;width:320px;height:60px"; document.body.append(field); field.focus(); return 1 })()`)
	idris.Click(".top nav a :: Visitors")
	idris.Click(".guest-table .line:not(.group)")
	idris.Type(".invite textarea", "Can I help?")
	idris.Click(".invite button[type=submit]")
	wren.Front()
	wren.Until("the card", func() bool { return wren.Card() != "" })
	apart := `(() => { const a = document.getElementById("typed").getBoundingClientRect(), b = document.querySelector("stoop-chat").shadowRoot.querySelector(".card").getBoundingClientRect();
		return b.width > 0 && (b.right < a.left || b.left > a.right || b.bottom < a.top || b.top > a.bottom) ? 1 : 0 })()`
	wren.Until("the card on the other side", func() bool { return wren.JS(apart) == "1" })
	// A field across the whole page leaves no place: the card waits.
	wren.JS(`(() => { document.getElementById("typed").style = "position:fixed;inset:0;width:100%;height:100%"; dispatchEvent(new Event("resize")); return 1 })()`)
	wren.Until("no card", func() bool { return wren.Card() == "" })
	wren.JS(`(() => { document.getElementById("typed").remove(); dispatchEvent(new Event("resize")); return 1 })()`)
	wren.Until("the card is back", func() bool { return wren.Card() != "" })
	wren.AnswerCard("No, thanks")
	wren.Until("no card any more", func() bool { return wren.Card() == "" })
	idris.Front()
	idris.Type(".invite textarea", "Really not?")
	idris.Click(".invite button[type=submit]")
	idris.See(".invite :: This visitor said no a moment ago")
	require.Equal(t, "Really not?", idris.JS(`document.querySelector(".invite textarea").value`), "what was typed is still there")
}

// The examples of the guide are run as they stand there.
func TestTheGuidesExamplesRun(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	guide, err := os.ReadFile("../docs/guide/site.md")
	require.NoError(t, err)
	examples := regexp.MustCompile("(?s)```js\n(.*?)```").FindAllStringSubmatch(string(guide), -1)
	require.Greater(t, len(examples), 7)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	wren.LauncherText()
	for _, example := range examples {
		wren.JS("(() => {" + example[1] + "\nreturn 1 })()")
	}
	wren.JS("(() => { stoop.open(); stoop.close(); return 1 })()")
	wren.Until("the events", func() bool { return wren.JS("window.stoopIsReady && window.chatIsOpen === false ? 1 : 0") == "1" })
	idris.Click(".top nav a :: Visitors")
	idris.See(".guest-table .line :: Wren Castellane")
	idris.See(".guest-table .line :: €53.50")
	idris.Click(".guest-table .line:not(.group)")
	idris.Find(".sheet dt :: Travelling")
	idris.Find(".sheet .claimed :: (not verified)")
	idris.Find(".sheet .basket dt :: Group fare")
	wren.Front()
	wren.JS(`(() => { stoop.basket({ lines: [{ text: "x", price: -1 }] }); return 1 })()`)
	wren.Until("the problem", func() bool { return wren.JS("window.lastProblem ?? ''") == "bad-data" })
	wren.JS(`(() => { stoop.basket(null); return 1 })()`)
	idris.Front()
	idris.Until("an empty basket", func() bool { return !idris.Has(".sheet .basket") })
}

// Where consent is asked for, nobody is seen before they gave it, and who said no is
// not asked again; the chat is there for both.
func TestConsentComesBeforeBeingSeen(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	_, err := settings.SiteDocument.Change(context.Background(), settings.On(w.Server.Store), func(s *settings.SiteSettings) error {
		s.Privacy.AskConsent, s.Privacy.ConsentText = true, "May we see which pages you look at?"
		return nil
	})
	require.NoError(t, err)
	w.Server.Settings.Forget()
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	refuses := w.Person(t).Visit("/fares")
	refuses.Until("the question", func() bool { return strings.Contains(refuses.Card(), "May we see which pages") })
	refuses.AnswerCard("No")
	refuses.Go("/freight")
	refuses.LauncherText()
	agrees := w.Person(t).Visit("/help")
	agrees.Until("the question", func() bool { return strings.Contains(agrees.Card(), "May we see which pages") })
	require.Zero(t, w.Server.Site.Guests.OnSite(), "asked is not answered")
	agrees.AnswerCard("Yes, that is fine")
	idris.Front()
	idris.See(".on-site li :: Help")
	require.Equal(t, 1, w.Server.Site.Guests.OnSite(), "who said no is not seen")

	refuses.Front()
	require.Empty(t, refuses.Card(), "a no is not asked about again")
	refuses.Asks("Wren", "", "Is there deck space tomorrow?")
	idris.Front()
	idris.Find(".wait :: Wren")
}
