package e2e_test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// A chat is offered, passed, offered to the next, and taken with a key; who
// lets several go by is set away, is told, and comes back with one click.
func TestOffersInTheConsole(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	require.NoError(t, w.Server.Store.DB.Exec("update departments set pass_limit = 1 where name = 'Bookings'").Error)
	w.Server.Settings.Forget()
	idris := w.Person(t).Desk(world.Email(0), countSounds)
	idris.BeAvailable()
	wren := w.Person(t).Visit("/book")
	panel := wren.Asks("Wren Castellane", "", "Two adults to Brae?")
	panel.Find(".place :: You are next.")
	idris.Find(".offer :: Wren Castellane")
	idris.Until("the sound of an offer", func() bool { return idris.JS("window.tones") == "3" })
	idris.Find(".offer [role=timer] :: left")
	tove := w.Person(t).Desk(world.Email(1))
	tove.BeAvailable()
	tove.Find(".wait .asked :: Asking Idris")
	idris.Click(".offer button :: Pass")
	idris.Find(".set-away :: You are now away.")
	idris.Find(".availability[aria-pressed=false]")
	tove.Find(".offer :: Wren Castellane")
	idris.Gone(".offer")
	tove.Chord(input.AltLeft, input.KeyY)
	tove.Find(world.Lane("Wren Castellane"))
	panel.Find(".event :: Tove joined the chat")
	idris.Click(".set-away button :: I’m back")
	idris.Find(".availability[aria-pressed=true]")
	idris.Gone(".set-away")

	tove.Find(".about .why :: rule “Booking pages”")
	require.Contains(t, tove.Text(".about .why"), "Offered to Tove Sandmark (")
	require.False(t, panel.Has("* :: Booking pages"), "why is for the team")
	tove.Ends("Wren Castellane")
	tove.Click(".lane-foot button :: Close lane")
	tove.Click("nav a :: Transcripts")
	tove.Click(".found a :: Two adults")
	tove.Find(".reader .why :: Booking pages")
}

// An operator hands a chat on with a note; declined, it comes back with a word;
// taken, the visitor is told and repeats nothing.
func TestHandingOnInTheConsole(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	maren.BeAvailable()
	idris.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren", "", "A group of twelve with a minibus")
	maren.Take("Wren")
	handOn := func(to string) {
		t.Helper()
		maren.Click(world.Lane("Wren") + " .lane-foot button :: Hand on")
		maren.Click("[role=dialog] label :: " + to)
		maren.Type("[role=dialog] textarea:not([aria-hidden])", "wants a group quote")
		maren.Click("[role=dialog] button :: Hand on")
		maren.Find(".lane-foot.handing :: Offered to " + to)
	}
	handOn("Idris Vane")
	idris.Find(".offer :: Handed on by Maren Holt")
	idris.Find(".offer .note-words :: wants a group quote")
	maren.Says("Wren", "I ask a colleague")
	panel.Find(".said :: I ask a colleague")
	idris.Click(".offer button :: Decline")
	maren.See("#notistack-snackbar :: could not take Wren. The chat is yours again.")
	maren.Find(".event :: Idris Vane could not take it")

	handOn("Idris Vane")
	idris.Find(".offer")
	idris.Click(".offer button :: Take")
	idris.Find(world.Lane("Wren") + " .say :: A group of twelve")
	idris.Find(".team-note :: wants a group quote")
	maren.Gone(".lane")
	maren.See("#notistack-snackbar :: Idris Vane has the chat with Wren now.")
	panel.Find(".event :: Idris has taken over and can see everything you wrote")
	require.False(t, panel.Has("* :: group quote"), "the note reached the visitor")
	idris.Says("Wren", "412.80 with the minibus")
	panel.Find(".said:not(.own) :: 412.80")

	// A colleague beside the owner, then back into the queue.
	idris.Click(world.Lane("Wren") + " .lane-foot button :: More")
	idris.Click("[role=menuitem] :: Add colleague")
	idris.Click("[role=dialog] label :: Maren Holt")
	idris.Click("[role=dialog] button :: Add")
	maren.Find(".with-whom :: Idris Vane owns this chat. Also here:")
	maren.Says("Wren", "Maren here too")
	panel.Find(".said:not(.own) :: Maren here too")
	maren.Click(".lane-foot button :: Leave the chat")
	panel.Find(".event :: Maren left")
	maren.Gone(".lane")
	idris.Click(world.Lane("Wren") + " .lane-foot button :: More")
	idris.Click("[role=menuitem] :: Put back")
	idris.Click("[role=dialog] button :: Put back")
	panel.Find(".event :: You are back in the queue and keep your place")
	maren.Find(".wait :: Wren")
	maren.Find(".wait .asked :: handed on 2 times")
}

// Outside of hours a visitor leaves a message, which waits on the line, is
// answered by mail, and the visitor's answer to that mail joins the chat.
func TestAMessageLeftAndAnsweredByMail(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	wren := w.Person(t).Visit("/fares")
	require.Contains(t, wren.LauncherText(), "Leave a message")
	panel := wren.OpenChat()
	panel.Find("form.start .note :: Nobody is here to answer right now.")
	panel.Type("[name=text]", "Is there room for a minibus?")
	panel.Click("button :: Leave message")
	panel.Find(".wrong :: Please fill this in.")
	require.Equal(t, "Is there room for a minibus?", panel.Text("[name=text]"))
	panel.Type("[name=email]", "wren@example.com")
	panel.Click("button :: Leave message")
	panel.Find(".event :: We will reply here and to wren@example.com")
	wren.Open("about:blank")

	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	idris.Click(".wait.message :: minibus")
	idris.Find(".where :: your reply goes to wren@example.com by email")
	idris.Says("Visitor", "There is, both ways. Which day?")
	reader := w.Person(t).Tab()
	world.Until(t, "the mail", func() bool { return len(w.Mailbox.Mails()) == 1 })
	reader.Open(w.MailURL)
	reader.Find("article pre :: There is, both ways. Which day?")
	reader.Type("article textarea", "Sunday, please")
	reader.Click("button :: Send answer")
	reader.Find(".sent :: Sunday, please")
	idris.Find(".say.visitor :: Sunday, please")

	// The link in the mail leads back into the chat, in another browser.
	_, link, found := strings.Cut(w.Mailbox.Mails()[0].Text, "continue in the chat:")
	require.True(t, found)
	back := w.Person(t).Tab()
	back.Open(strings.Fields(link)[0])
	back.Find(".said :: Sunday, please")
	back.Find(".said :: There is, both ways")
	back.Type(".composer textarea", "Here again")
	require.NoError(t, back.Find(".composer textarea").Type(input.Enter))
	idris.Find(".say.visitor :: Here again")
	idris.Ends("Visitor")
	idris.Click("nav a :: Transcripts")
	idris.Find(".found a :: message")
}

// Greetings stand above the form, and a widget may hide while nobody is in.
func TestGreetingsAndHidingWhileClosed(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	require.NoError(t, w.Server.Store.DB.Exec("update widgets set greeting = 'Ask about any crossing.', closed_greeting = 'The desk sleeps.', hide_closed = true, version = version + 1").Error)
	w.Server.Settings.Forget()
	wren := w.Person(t).Visit("/fares")
	shown := func() bool {
		return wren.JS(`(() => { const b = [...document.querySelectorAll("stoop-chat")].map(d => d.shadowRoot?.querySelector("button")).find(Boolean); return b ? getComputedStyle(b).display : "not built" })()`) == "flex"
	}
	wren.Until("the launcher is built and hidden", func() bool { return strings.Contains(wren.LauncherText(), "Leave a message") || !shown() })
	require.False(t, shown())
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren.Until("the launcher", shown)
	panel := wren.OpenChat()
	panel.Find("form.start .note :: Ask about any crossing.")
	panel.Type("[name=email]", "wren.cast")
	maren.Click(".availability")
	panel.Find("form.start .note :: The desk sleeps.")
	require.Equal(t, "email", panel.JS("document.activeElement.name"), "the keyboard stays where it was")
	require.NoError(t, panel.InsertText("ellane@example.com"))
	require.Equal(t, "wren.castellane@example.com", panel.Text("[name=email]"))
	require.Empty(t, panel.Text("[name=text]"))
}

// Who waits sees their place move, and may leave a message instead.
func TestWaitingInThePanel(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	require.NoError(t, w.Server.Store.DB.Exec("update widgets set gone_seconds = 5").Error)
	w.Server.Settings.Forget()
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	first := w.Person(t).Visit("/fares")
	first.Asks("First", "", "one")
	second := w.Person(t).Visit("/fares")
	panel := second.Asks("Second", "", "two")
	panel.Find(".place :: You are number 2 in the queue.")
	third := w.Person(t).Visit("/fares")
	third.Asks("Third", "", "three").Find(".place :: You are number 3 in the queue.")
	first.Open("about:blank") // closes the page and does not return
	panel.Find(".place :: You are next.")
	maren.Gone(".wait :: First")
	panel.See("button :: Leave a message instead")
	panel.Click("button :: Leave a message instead")
	panel.Click("form.instead button :: Leave message")
	panel.Find(".wrong :: Please fill this in.")
	panel.Type("form.instead [name=email]", "second@example.com")
	panel.Click("form.instead button :: Leave message")
	panel.Find(".event :: Your message is saved")
	third.Panel().Find(".place :: You are next.")
	maren.Gone(".wait:not(.message) :: Second")
	maren.Find(".wait.message :: second@example.com")
}

// An admin changes hours with the mouse and by typing, sees when they open, and
// is told at the field what is wrong.
func TestHoursInTheConsole(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/hours")
	ansel.Click(".picker button :: New")
	ansel.Type(".editor .fields input", "Night desk")
	for range 5 {
		ansel.Click(".week-list button[aria-label^=Remove]")
	}
	ansel.Click("footer button :: Save")
	ansel.Find(".wrong :: These hours never open.")

	// Drag over Sunday from 18:00 to 24:00.
	box := func() (x, y, height float64) {
		shape, err := ansel.Find(".column[aria-label=Sunday]").Shape()
		require.NoError(t, err)
		b := shape.Box()
		return b.X + b.Width/2, b.Y, b.Height
	}
	x, y, height := box()
	mouse := ansel.Mouse
	require.NoError(t, mouse.MoveTo(proto.Point{X: x, Y: y + height*18/24 + 1}))
	require.NoError(t, mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, mouse.MoveLinear(proto.Point{X: x, Y: y + height - 1}, 8))
	require.NoError(t, mouse.Up(proto.InputMouseButtonLeft, 1))
	ansel.Find(`.block[aria-label^="Sunday 18:00 to 24:00"]`)
	// Over midnight by typing, and longer by keys.
	ansel.Click(`button[aria-label="Add a period on Monday"]`)
	ansel.Type(`input[aria-label="Monday from"]`, "22")
	ansel.Press(input.Tab)
	ansel.Type(`input[aria-label="Monday to"]`, "430")
	ansel.Press(input.Tab)
	ansel.Find(`.block[aria-label^="Monday 22:00 to 04:30"]`)
	require.NoError(t, ansel.Find(`.block[aria-label^="Monday"]`).Focus())
	require.NoError(t, ansel.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown).Do())
	ansel.Find(`.block[aria-label^="Monday 22:00 to 04:45"]`)
	ansel.Click("footer button :: Save")
	ansel.Find(".picker [aria-current=true] :: Night desk")
	ansel.Find(".now :: open")
	require.Regexp(t, `open now, until|closed, opens (Sunday|Monday|\d\d:\d\d)`, ansel.Text(".now"))
	require.NoError(t, ansel.Reload())
	ansel.Click(".picker button :: Night desk")
	ansel.Find(`.block[aria-label^="Monday 22:00 to 04:45"]`)
	ansel.Find(`.block[aria-label^="Sunday 18:00 to 24:00"]`)
}

// Rules are moved by dragging, tried before they are saved, and hold at once.
func TestRulesInTheConsole(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	ansel.Open(w.OperatorNet.URL + "/setup/rules")
	ansel.Click("button :: New rule")
	last := ".rule:last-child "
	ansel.Find(last + ".rule-body")
	ansel.Type(last+".conditions .value", "([")
	ansel.Click(last + "[role=combobox][aria-label=Comparison]")
	ansel.Click("[role=option] :: matches the pattern")
	ansel.Click("footer button :: Save")
	ansel.Find(last + ".wrong :: cannot be read")
	ansel.Find(last + ".MuiFormHelperText-root :: Give the rule a name")
	ansel.Type(last+".rule-body .MuiTextField-root input", "Everything to Travel help")
	ansel.Type(last+".conditions .value", ".")
	ansel.Click(last + ".rule-body [role=combobox] :: Bookings")
	ansel.Click("[role=option] :: Travel help")

	// It is the last one: a page of freight still goes to Freight.
	ansel.Type(".try input", w.SiteURL+"/freight")
	ansel.Click(".try button :: Try it")
	ansel.Find(".try .result :: Freight")
	ansel.Find(".rule.matched :: Freight pages")
	grip, err := ansel.Find(last + ".grip").Shape()
	require.NoError(t, err)
	top, err := ansel.Find(".rule:first-child").Shape()
	require.NoError(t, err)
	mouse := ansel.Mouse
	from, to := grip.Box(), top.Box()
	require.NoError(t, mouse.MoveTo(proto.Point{X: from.X + 8, Y: from.Y + 8}))
	require.NoError(t, mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, mouse.MoveLinear(proto.Point{X: from.X + 8, Y: to.Y + 2}, 20))
	require.NoError(t, mouse.Up(proto.InputMouseButtonLeft, 1))
	ansel.Find(".rule:first-child :: Everything to Travel help")
	ansel.Click(".try button :: Try it")
	ansel.Find(".rule.matched :: Everything to Travel help")
	ansel.Click("footer button :: Save")
	ansel.See("#notistack-snackbar :: Rules saved and in effect")

	wren := w.Person(t).Visit("/freight")
	wren.Asks("Wren", "", "A lorry of 12 tonnes")
	maren := w.Person(t).Desk(world.Email(3))
	maren.Find(".wait .meta :: Travel help")
	maren.Take("Wren")
	maren.Find(".about .why :: Everything to Travel help")
}

// Departments and people are set up by hand, and what is wrong is said where it
// is; the Floor follows live.
func TestDepartmentsTeamAndFloor(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/departments")
	ansel.Click(".picker button :: Travel help")
	ansel.Click(".ticks label :: Bookings")
	ansel.Click("footer button :: Save")
	ansel.Find(".wrong :: The overflow runs in a circle: Travel help → Bookings → Travel help.")
	ansel.Click(".picker button :: New")
	ansel.Type(".editor .fields input", "Harbour")
	ansel.Click(`.members tr:first-child label :: primary`)
	ansel.Click("footer button :: Save")
	ansel.Find(".picker [aria-current=true] :: Harbour")

	ansel.Click(".setup nav a :: Team")
	ansel.Find(".picker h2 :: Team")
	ansel.Click(".picker button :: New")
	ansel.Find(".editor h2 :: New person")
	fields := ".editor .fields .MuiTextField-root:nth-child"
	ansel.Type(fields+"(1) input", "Pia Strand")
	ansel.Type(fields+"(2) input", "pia@example.com")
	ansel.Type(".editor input[type=password]", "short")
	ansel.Click("footer button :: Save")
	ansel.Find(".MuiFormHelperText-root :: at least 15 characters")
	ansel.Type(".editor input[type=password]", "longer than fifteen")
	ansel.Click(`.editor table tr:nth-child(4) label :: primary`)
	ansel.Click("footer button :: Save")
	ansel.Find(".picker [aria-current=true] :: Pia Strand")

	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	maren.Click("nav a :: Floor")
	help := `.hall[aria-label="Travel help"] `
	maren.Find(help + "li.offline :: Pia Strand")
	maren.Find(help + ".state :: Open")
	wren := w.Person(t).Visit("/fares")
	wren.Asks("Wren", "", "Is there room?")
	maren.Until("the queue", func() bool { return maren.Text(help+"dl div:first-child dd") == "1" })
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	maren.Find(help + "li.available :: Idris Vane")
	idris.Take("Wren")
	maren.Find(help + "li :: 1 of 4")
	maren.Until("nobody waits", func() bool { return maren.Text(help+"dl div:first-child dd") == "0" })
}
