//go:build screenshots

package shots

import (
	"context"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/standin/crowd"
)

// The pictures of the site with a crowd on it.
func TestTakeThePicturesOfTheSite(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	maren, ansel := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(4))
	maren.BeAvailable()
	ctx, leave := context.WithCancel(context.Background())
	visitors := crowd.Crowd{Base: w.Server.URL, Key: demo.WidgetKey, Site: w.SiteURL, Size: 41, Log: slog.New(slog.DiscardHandler), Seed: 7}
	gone := make(chan struct{})
	go func() {
		defer close(gone)
		visitors.Run(ctx)
	}()
	t.Cleanup(func() {
		leave()
		<-gone
	})
	waits := w.Person(t).Visit("/fares")
	waits.Asks("Oskar Brindle", "", "Is the 14:10 to Sandry going?")
	maren.Click(".top nav a :: Visitors")
	maren.Find(".visitors header p :: waiting")
	require.Eventually(t, func() bool { return maren.Has(".guest-table .line:not(.group) :: €") }, 2*time.Minute, 500*time.Millisecond)
	maren.Click(".guest-table .line:not(.group) :: €")
	maren.Find(".sheet .money")
	maren.Snap(folder + "visitors.png")

	wren := w.Person(t).Visit("/fares")
	wren.LauncherText()
	maren.Click(".grouping label :: None")
	maren.Type(".filters input[type=search]", "Fares · ")
	maren.Click(".guest-table .line:not(.group) :: Fares · Kelpwick")
	maren.Find(".sheet .path :: Fares · ")
	maren.Type(".invite textarea", "Hello, Maren here. Can I help you find the right fare?")
	maren.Click(".invite button[type=submit]")
	wren.Front()
	wren.Until("the card", func() bool { return wren.Card() != "" })
	wren.Snap(folder + "invitation.png")

	ansel.Front()
	ansel.Open(w.OperatorNet.URL + "/contacts")
	ansel.Click(".contacts .list a :: Mirren Tolliver")
	ansel.Find(".contacts .page h2 :: Mirren Tolliver")
	ansel.Snap(folder + "contact.png")
	ansel.Open(w.OperatorNet.URL + "/setup/invitations")
	ansel.Click(".rule-list .summary")
	ansel.Find(".rule-body")
	ansel.Snap(folder + "setup-invitations.png")
}
