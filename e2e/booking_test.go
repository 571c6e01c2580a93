package e2e_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// Somebody books on the site, from a search to an order number, while the team sees the
// basket; asks, and gets a sailing as a card, which they put in their trip.
func TestATripIsBookedWithHelp(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	visitor := w.Person(t).Visit("/book")
	visitor.LauncherText()
	visitor.Click("form.trip button")
	visitor.Click("tbody tr button :: Choose")
	require.Equal(t, "€28.00", visitor.Text(".total .price"))

	panel := visitor.Asks(wren, "wren.castellane@example.com", "Is there a boat back from Brae that day?")
	maren.Click(".offer button :: Take")
	maren.Find(".lane h2 :: " + wren)
	maren.Find(".about .record dd :: C-1004")
	maren.Find(".about .record .claimed") // anybody could have typed her email
	maren.Find(".about .sum dd :: €28.00")

	maren.Click(world.Lane(wren) + " [aria-label='Articles and bookings']")
	maren.Click(".finder [role=tab] :: Booking system")
	maren.Type(".finder input", "brae to kelpwick tomorrow 12:25")
	maren.Until("one is left", func() bool { return len(maren.Texts(".finder li")) == 1 })
	maren.Click(".finder li button :: Send card")
	maren.Find(world.Lane(wren) + " .card-shown b :: Isle of Brae to Kelpwick")
	maren.Gone(".finder")

	panel.Find(".log b :: Isle of Brae to Kelpwick")
	panel.Click(".log button :: Put in the basket")
	maren.Find(world.Lane(wren) + " .event :: in the basket")
	maren.Find(".about .sum dd :: €42.00")
	visitor.Until("the page shows it too", func() bool { return visitor.Text(".total .price") == "€42.00" })

	// The page shows its trip anew, and the chat goes on in it.
	panel = visitor.Reloaded()
	panel.Find(".log button:disabled :: In the basket")

	visitor.JS("(stoop.close(), 1)") // it covers what they press next
	visitor.Type("input[name=name]", wren)
	visitor.Type("input[name=email]", "wren.castellane@example.com")
	visitor.Click("button :: Book and pay")
	number := visitor.Text(".number")
	require.True(t, strings.HasPrefix(number, "KF-"), number)
	maren.Gone(".about .sum")
	booked, err := w.Booking.Booking(number, "castellane")
	require.NoError(t, err)
	require.EqualValues(t, 4200, booked.Trip.Cents)
}

// Whoever is not known to the booking system can be added there; while it cannot be
// reached everything else goes on.
func TestTheBookingSystemIsAwayAndBack(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	w.Person(t).Visit("/help").Asks("Oskar Brindle", "oskar.brindle@example.org", "Is there a lift?")
	maren.Take("Oskar Brindle")
	maren.Find(".about .record :: does not know this email")
	maren.Click(".about .record button :: Add as a customer")
	maren.Find(".about .record dd :: C-1005")
	w.BookingNet.Cut()
	maren.Click(world.Lane("Oskar Brindle") + " [aria-label='Articles and bookings']")
	maren.Click(".finder [role=tab] :: Booking system")
	maren.Type(".finder input", "dunlin")
	maren.Find(".finder .wrong :: The booking system cannot be reached")
	maren.Click(".finder [role=tab] :: Articles")
	maren.Find(".article-search li")
	w.BookingNet.Mend()
}

// A booking is looked up in the panel without anybody's help, by who knows its number
// and name.
func TestABookingIsLookedUpInThePanel(t *testing.T) {
	t.Parallel()
	visitor := world.New(t).Person(t).Visit("/")
	panel := visitor.OpenChat()
	panel.Click("button :: My booking")
	panel.Click("button :: Find it")
	panel.Find(".wrong :: Enter both")
	panel.Type(".start label:nth-of-type(1) input", "KF-20417")
	panel.Type(".start label:nth-of-type(2) input", "Penhale")
	panel.Click("button :: Find it")
	panel.Find(".wrong :: There is no booking with this number and name")
	panel.Type(".start label:nth-of-type(2) input", "Castellane")
	panel.Click("button :: Find it")
	panel.Find(".start b :: Booking KF-20417")
	panel.Click("button :: Back")
	panel.Find("textarea[name=text]")
}
