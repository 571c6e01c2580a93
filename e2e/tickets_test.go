package e2e_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// From a chat to its last word: an operator makes a ticket with one act, the customer gets the
// number by mail and answers from the mail and in the panel, both see it at once, and it is done.
func TestATicketFromAChatToItsEnd(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	juno := w.Person(t)
	visitor := juno.Visit("/help")
	panel := visitor.Asks("Juno Lark", "juno@example.org", "Hello! The lift at Aldermouth is broken and my mother uses a wheelchair. Can somebody meet us tomorrow?")
	idris.Take("Juno Lark")
	idris.Find(world.Lane("Juno Lark") + " .say :: The lift at Aldermouth")

	idris.More("Juno Lark", "Make a ticket")
	idris.Until("a title is suggested", func() bool {
		return strings.HasPrefix(idris.JS(`document.querySelector("[role=dialog] input")?.value ?? ""`), "The lift at Aldermouth is broken")
	})
	idris.Find("[role=dialog] .MuiFormHelperText-root :: Due")
	idris.Type("[role=dialog] textarea", "Her booking is in the name of Lark")
	idris.Click("[role=dialog] button :: Make ticket")
	idris.Find(world.Lane("Juno Lark") + " .event :: You made ticket 1001 of this")
	idris.Find(".about .earlier a :: 1001: The lift at Aldermouth")
	panel.Find(".tickets-strip .head :: We are working on it")
	panel.Until("the receipt is there", func() bool { return len(w.Mailbox.Mails()) == 1 })
	receipt := w.Mailbox.Mails()[0]
	require.Contains(t, receipt.Subject, "[1001]")
	require.NotContains(t, receipt.Text, "Her booking", "a note is the team's")

	// A second visitor asks about the same: the ticket is found from the composer, by its number.
	wrens := w.Person(t).Visit("/help").Asks(wren, "", "Is the lift at Aldermouth still broken?")
	idris.Take(wren)
	idris.Click(world.Lane(wren) + " [aria-label='Articles and bookings']")
	idris.Click(".finder [role=tab] :: Tickets")
	idris.Type(".finder input", "1001")
	idris.Click(".finder li button :: Link the chat")
	idris.Find(world.Lane(wren) + " .event :: You linked ticket 1001")
	idris.Ends(wren)
	require.False(t, wrens.Has(".tickets-strip .head"), "what is done for somebody else is not shown to them")

	// The chat ends; the ticket goes on where tickets are.
	idris.Ends("Juno Lark")
	idris.Turn("/tickets")
	idris.Click(".ticket-row a :: The lift at Aldermouth")
	idris.Find(".ticket .say.note :: Her booking is in the name of Lark")
	idris.Click(".ticket-chats button :: Juno Lark")
	idris.Find(".chat-beside .say :: my mother uses a wheelchair")
	idris.Click(".chat-beside button :: Back to the ticket")
	idris.Type(".ticket-answer textarea", "Runa waits at the foot of the ramp.")
	idris.Press(input.Tab)
	idris.Click(".ticket-answer button :: Send")
	idris.Find(".ticket .say.team :: Runa waits at the foot of the ramp")
	idris.Find(".ticket-row :: Waiting for customer")
	panel.Until("the answer is there", func() bool { return len(w.Mailbox.Mails()) == 2 })
	sent := w.Mailbox.Mails()[0]
	require.Contains(t, sent.Text, "Runa waits at the foot of the ramp.")

	require.NoError(t, w.Mailbox.Answer(t.Context(), sent.ID, "Thank you! Which ramp?"))
	idris.Find(".ticket .say.visitor :: Which ramp?")
	idris.Find(".ticket-row :: Waiting for us")

	// The mail's link leads back to it, wherever it is read.
	link := regexp.MustCompile(`http\S+/panel/\S+`).FindString(sent.Text)
	require.Contains(t, link, "ticket=1001")
	link = w.VisitorNet.URL + link[strings.Index(link, "/panel/"):]
	phone := w.Person(t).Tab()
	phone.Size(420, 720)
	phone.Open(link)
	phone.Find(".tickets-strip li p :: Which ramp?")
	phone.Type(".tickets-strip textarea", "Ah, I see the sign.")
	phone.Click(".tickets-strip form button")
	idris.Find(".ticket .say.visitor :: I see the sign")
	idris.Find(".ticket .say .mark :: in the chat window")
	idris.Click(".ticket > header button :: Done")
	idris.Find(".ticket > header button :: Open again")
	idris.Find(".tickets .nothing :: Nothing to do")
	panel.Find(".tickets-strip .head :: Done")
}

// What is typed survives a lost connection and another ticket in between, and is sent once.
func TestWordsForATicketAreNotLost(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	tove := w.Person(t).Desk(world.Email(1))
	tove.Turn("/tickets")
	for _, title := range []string{"Wrong car on a booking", "Lost umbrella"} {
		tove.Click("main > header button :: New ticket")
		tove.Type("[role=dialog] label:has(+ div input) + div input", title)
		tove.Type("[role=dialog] .pair:last-of-type div:last-child > div > input", "wren@example.com")
		tove.Click("[role=dialog] button :: Make ticket")
		tove.Find(".ticket h2 :: " + title)
		tove.Gone("[role=dialog]")
	}
	tove.Type(".ticket-answer textarea", "It is at the desk.")
	tove.Click(".ticket-row a :: Wrong car")
	tove.Find(".ticket h2 :: Wrong car")
	require.Empty(t, tove.JS(`document.querySelector(".ticket-answer textarea").value`))
	tove.Click(".ticket-row a :: Lost umbrella")
	tove.Until("it is still there", func() bool {
		return tove.JS(`document.querySelector(".ticket-answer textarea")?.value ?? ""`) == "It is at the desk."
	})
	w.OperatorNet.Cut()
	tove.Click(".ticket-answer button :: Send")
	tove.Find(".ticket-answer .wrong")
	require.Equal(t, "It is at the desk.", tove.JS(`document.querySelector(".ticket-answer textarea").value`))
	w.OperatorNet.Mend()
	tove.Until("it is sent", func() bool {
		tove.JS(`[...document.querySelectorAll(".ticket-answer button[type=submit]:not(:disabled)")].forEach((b) => b.click())`)
		return tove.Has(".ticket .say.team")
	})
	require.Len(t, tove.Texts(".ticket .say.team"), 1)
}

// A lead changes many at once, merges two of a customer, keeps the view, and sees what they add up
// to.
func TestALeadSeesToManyTickets(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.Turn("/tickets")
	for _, title := range []string{"Refund of one", "Refund of two", "Umbrella"} {
		maren.Click("main > header button :: New ticket")
		maren.Type("[role=dialog] label:has(+ div input) + div input", title)
		maren.Click("[role=dialog] button :: Make ticket")
		maren.Find(".ticket h2 :: " + title)
		maren.Gone("[role=dialog]")
	}
	maren.Type("main > header input", "refund")
	maren.Until("two are found", func() bool { return len(maren.Texts(".ticket-row")) == 2 })
	maren.JS(`document.querySelectorAll(".ticket-row .box input").forEach((box) => box.click())`)
	maren.Click(".bulk button :: Priority")
	maren.Click("[role=menuitem] :: Urgent")
	maren.Until("both are urgent", func() bool { return len(maren.Texts(".ticket-row .pressing")) == 2 })
	maren.Gone(".bulk")

	maren.Click("main > header button :: Searches")
	maren.Click("[role=menuitem] :: Keep this search")
	maren.Type("[role=dialog] input", "All refunds")
	maren.Click("[role=dialog] button :: Keep")
	maren.Gone("[role=dialog]")

	maren.JS(`document.querySelectorAll(".ticket-row .box input").forEach((box) => box.click())`)
	maren.Click(".bulk button :: Merge")
	maren.Find("[role=dialog] h2 :: Merge 1002 into 1001?")
	maren.Click("[role=dialog] button :: Merge")
	maren.Until("one is left", func() bool { return len(maren.Texts(".ticket-row")) == 1 })
	maren.Turn("/tickets/1002")
	maren.Find(".ticket .conflict :: It goes on in ticket 1001.")
	require.False(t, maren.Has(".ticket-answer"))

	maren.Turn("/tickets")
	maren.Click("main > header button :: Searches")
	maren.Click("[role=menuitem] :: All refunds")
	maren.Until("it is the kept search", func() bool { return len(maren.Texts(".ticket-row")) == 1 })
	maren.Turn("/reports/tickets")
	maren.Find(".cards :: Not done now")
	maren.Find(".sheet th :: Made")
}
