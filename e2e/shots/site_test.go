//go:build screenshots

package shots

import (
	"context"
	"log/slog"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/facts"
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
	waits := w.Person(t).Visit("/disruptions")
	waits.Asks("Oskar Brindle", "", "Is the 14:10 to Sandry going?")
	books := w.Person(t).Visit("/book")
	books.LauncherText()
	books.Click("form.trip button")
	books.Click("tbody tr button :: Choose")
	books.Find(".total")
	maren.Click(".top nav a :: Visitors")
	maren.Find(".visitors header p :: waiting")
	maren.Click(".grouping label :: None")
	maren.Click(".guest-table [role=columnheader] button :: Basket")
	maren.Click(".guest-table .line:not(.group) :: €")
	maren.Find(".sheet .basket")
	maren.Click(".grouping label :: Page")
	maren.Find(".guest-table .group-line")
	maren.Snap(folder + "visitors.png")

	wren := w.Person(t).Visit("/fares")
	wren.LauncherText()
	maren.Front()
	maren.Click(".grouping label :: None")
	maren.Type(".filters input[type=search]", "Fares · ")
	maren.Click(".guest-table .line:not(.group) :: Fares · Kelpwick")
	maren.Find(".sheet .path :: Fares · ")
	maren.Type(".invite textarea", "Hello, Maren here. Can I help you find the right fare?")
	maren.Click(".invite button[type=submit]")
	wren.Front()
	wren.Until("the card", func() bool { return wren.Card() != "" })

	ansel.Front()
	ansel.Open(w.OperatorNet.URL + "/contacts")
	ansel.Click(".contacts .list a :: Mirren Tolliver")
	ansel.Find(".contacts .page h2 :: Mirren Tolliver")
	ansel.Find(".record .open")
	ansel.Snap(folder + "contact.png")
}

// A card of the booking system, with the record and the basket beside it.
func TestTakeThePictureOfACard(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	petra := w.Person(t).Visit("/book")
	petra.LauncherText()
	petra.Click("form.trip button")
	petra.Click("tbody tr button :: Choose")
	petra.Find(".total")
	panel := petra.Asks("Petra Quill", "petra.quill@example.org", "Is there a boat back from Brae in the afternoon?")
	maren.Click(".offer button :: Take")
	lane := world.Lane("Petra Quill")
	maren.Says("Petra Quill", "Yes, at half past four. Shall I put it in your trip?")
	maren.Click(lane + " [aria-label='Articles and bookings']")
	maren.Click(".finder [role=tab] :: Booking system")
	maren.Type(".finder input", "brae to kelpwick tomorrow 16:30")
	maren.Until("one is left", func() bool { return len(maren.Texts(".finder li")) == 1 })
	maren.Click(".finder li button :: Send card")
	panel.Click(".log button :: Put in the basket")
	maren.Find(lane + " .event :: in the basket")
	maren.Find(".record .open")
	petra.Front()
	petra.Reloaded().Find(".log button:disabled")
	maren.Front()
	maren.Find(lane + " .where :: Pay for your trip")
	maren.Snap(folder + "card.png")
}

// What visitors said, with a low rating that a lead reads.
func TestTakeThePictureOfFeedback(t *testing.T) {
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.Open(w.OperatorNet.URL + "/feedback")
	maren.Click(".found a :: to read")
	maren.Find(".close-rating")
	maren.Find(".reader .say")
	maren.Snap(folder + "feedback.png")
}

// What a year of chats adds up to, and how many people a day needs.
func TestTakeThePicturesOfReports(t *testing.T) {
	w := world.New(t)
	require.NoError(t, demo.SeedPast(t.Context(), w.Server.Store, w.SiteURL, demo.PastChats, time.Now(), func(facts.Loading) {}))
	w.Server.Settings.Forget()
	maren := w.Person(t).Desk(world.Email(3))
	maren.Click("nav a :: Reports")
	maren.Find(".heat td a")
	maren.Find(".operators td a")
	maren.Snap(folder + "reports.png")
	maren.Open(w.OperatorNet.URL + "/reports/staffing?share=0.95")
	maren.Find(".roster li")
	maren.Find(".chart")
	maren.Snap(folder + "staffing.png")
	require.NoError(t, demo.SeedTickets(t.Context(), w.Server.Store, time.Now()))
	w.Server.Settings.Forget()
	maren.Open(w.OperatorNet.URL + "/tickets/1001")
	maren.Find(".ticket .say :: Could you look again?")
	maren.Find(".ticket-row :: Complaint about the cabin")
	maren.Snap(folder + "tickets.png")
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/departments")
	ansel.Click(".picker li button :: Travel help")
	ansel.Find(".editor h2 :: Travel help")
	ansel.JS(`(() => { [...document.querySelectorAll("label")].find((l) => l.textContent.startsWith("Capacity")).control.setAttribute("data-capacity", ""); return "" })()`)
	ansel.Type("[data-capacity]", "1")
	ansel.Click(".editor footer a :: Try it on past chats")
	ansel.Click(".dry-run .period > button")
	ansel.Find(".dry-run .chart")
	ansel.Snap(folder + "dry-run.png")
	maren.Open(w.OperatorNet.URL + "/transcripts?rated=yes&from=" + time.Now().AddDate(0, 0, -30).Format(time.DateOnly))
	maren.Find(".found .total :: chats match")
	maren.Click(".transcripts > header button :: Reviews")
	maren.Click("[role=menuitem] :: Draw from this search")
	maren.Type("[role=dialog] input[type=text]", "November")
	maren.Click("[role=dialog] button[type=submit]")
	maren.Find(".reading .reader .say")
	maren.Find(".said .choices")
	for _, key := range []input.Key{input.Digit1, input.Digit1, input.Digit2} {
		maren.Press(key)
	}
	maren.Type(".said textarea:not([aria-hidden])", "You found out what they needed with one question. Next time, say at the start how long the answer takes.")
	maren.Snap(folder + "reviews.png")
}
