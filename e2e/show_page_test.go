package e2e_test

import (
	"context"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
)

// The team shows a visitor a page: their own tab goes there when they say so, the chat stays
// open, the operator sees them come and go, and either side ends it. Nothing moves by itself.
func TestTheTeamShowsAPage(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	require.NoError(t, demo.SeedPages(context.Background(), w.Server.Store, w.SiteURL, time.Now()))
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	juno := w.Person(t).Visit("/help")
	panel := juno.Asks("Juno Lark", "", "Where do I see what it costs?")
	maren.Take("Juno Lark")
	lane, field := world.Lane("Juno Lark"), world.Field("Juno Lark")
	at := func() string { // asked of the browser: the page itself may just be going
		info, err := juno.Info()
		require.NoError(t, err)
		address, err := url.Parse(info.URL)
		require.NoError(t, err)
		return address.Path
	}

	// A saved page, found by its folder.
	maren.Click(lane + " .composer [aria-label^='Articles and bookings']")
	maren.Click(".article-search [role=tab] :: Show a page")
	maren.Type(".article-search input", "travelling fares")
	maren.Until("one page is left", func() bool { return len(maren.Texts(".article-search li")) == 1 })

	maren.Click(".article-search button :: Offer to show it")
	maren.Find(lane + " .lane-note :: Offered: Fares. The visitor has not answered.")
	panel.Find(".page-offer :: Maren would like to show you a page:")
	panel.Find(".page-offer b :: Fares")

	require.Equal(t, "/help", at(), "nothing moves by itself")
	panel.Click(".page-offer button :: No, thank you")
	maren.Find(lane + " .event :: Juno Lark declined to see the page")
	maren.Gone(lane + " .lane-note")

	// An address that is typed.
	maren.Type(field, w.SiteURL+"/fares")
	maren.Find(lane + " .composer .mode :: Show the visitor Fares?")

	require.Equal(t, "/help", at())
	maren.Click(lane + " .composer .mode button :: Offer it")
	maren.Until("the address has gone from the composer", func() bool { return maren.Find(field).MustProperty("value").Str() == "" })
	panel.Click(".page-offer button :: Go there")
	juno.Until("the visitor's tab is there", func() bool { return at() == "/fares" })
	panel = juno.Reloaded()
	panel.Find(".page-strip :: Our team is showing you this page.")
	maren.Find(lane + " .lane-note :: The visitor is looking at Fares.")
	maren.Find(lane + " .event :: Juno Lark is on the page")

	maren.Says("Juno Lark", "The second row is yours.")
	panel.Find(".said .words :: The second row is yours.")

	// They look elsewhere, and come back to it.
	juno.Go("/timetable")
	maren.Find(lane + " .lane-note :: The visitor has gone on from Fares.")
	juno.Go("/fares")
	maren.Find(lane + " .lane-note :: The visitor is looking at Fares.")

	// The team ends it: the tab goes back where it was.
	maren.Click(lane + " .lane-note button :: Take the visitor back")
	juno.Until("the tab is back", func() bool { return at() == "/help" })
	panel = juno.Reloaded()
	maren.Gone(lane + " .lane-note")
	panel.Gone(".page-strip")

	// So does the visitor.
	maren.Type(field, w.SiteURL+"/book")
	maren.Click(lane + " .composer .mode button :: Offer it")
	panel.Click(".page-offer button :: Go there")
	juno.Until("the visitor's tab is there", func() bool { return at() == "/book" })
	panel = juno.Reloaded()
	panel.Click(".page-strip button :: Go back")
	juno.Until("the tab is back", func() bool { return at() == "/help" })
	maren.Find(lane + " .event :: Juno Lark went back")

	// What does not carry the chat is not offered.
	maren.Type(field, "https://elsewhere.example/fares")
	maren.Until("what is elsewhere is no page to show", func() bool {
		return !maren.Has(lane+" .composer .mode") && strings.Contains(maren.Find(field).MustProperty("value").Str(), "elsewhere")
	})
}
