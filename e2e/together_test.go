package e2e_test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/setup/settings"
)

// Help is asked for, seen by the department, and comes; the visitor sees only
// who joined.
func TestAskTheTeamInTheBrowser(t *testing.T) {
	t.Parallel()
	w, idris, visitor := talking(t, 0)
	sunniva := w.Person(t).Desk(world.Email(2))
	sunniva.BeAvailable()
	idris.Click(world.Lane(wren) + " .lane-foot button :: Ask team")
	idris.Click("[role=dialog] label :: Freight")
	idris.Type("[role=dialog] textarea:not([aria-hidden])", "How heavy may a lorry be?")
	idris.Click("[role=dialog] button :: Ask")
	idris.Find(".with-whom :: Asking Freight for help")
	sunniva.Find(".calls .offer :: How heavy may a lorry be?")
	sunniva.Chord(input.AltLeft, input.KeyJ)
	sunniva.Find(world.Lane(wren))
	sunniva.Says(wren, "44 tonnes on MV Curlew")
	panel := visitor.Panel()
	panel.Find(".event :: Sunniva joined")
	panel.Find(".said :: 44 tonnes")
	idris.Gone(".with-whom :: Asking Freight")
	idris.Find(".with-whom .guest :: Sunniva Rask")
	require.False(t, panel.Has("* :: How heavy"))
}

// A lead watches unseen, whispers, steps in, and takes over.
func TestALeadWatchesWhispersAndTakesOver(t *testing.T) {
	t.Parallel()
	w, idris, visitor := talking(t, 0)
	maren := w.Person(t).Desk(world.Email(3))
	maren.Click("nav a :: Floor")
	maren.Find(".in-hand tr :: Wren Castellane")
	maren.Click(".in-hand button :: Watch")
	maren.Find(world.Lane(wren) + " .mode :: You are watching unseen")
	maren.Find(world.Lane(wren) + " .say.visitor :: Is there a lift?")
	maren.Find(world.Field(wren) + ":focus")
	require.NoError(t, maren.InsertText("Offer them assistance"))
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	idris.Find(".say.note :: Offer them assistance")
	visitor.Says("Hello?")
	maren.Find(".say.visitor :: Hello?")
	require.False(t, idris.Has(".event :: watch"), "the operator is not told who watches")
	maren.Click(".lane-foot button :: Step in")
	visitor.Panel().Find(".event :: Maren joined")
	maren.Says(wren, "Maren here")
	visitor.Panel().Find(".said :: Maren here")
	maren.Click(".lane-foot button :: Take over")
	visitor.Panel().Find(".event :: Maren joined the chat")
	idris.Find(".with-whom :: Maren Holt owns this chat")
	require.False(t, visitor.Panel().Has("* :: assistance"))
}

// Team talk is written and read beside the chats, by those in the room.
func TestTeamTalkInTheBrowser(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	maren.Chord(input.AltLeft, input.Digit0)
	maren.Click(".talk .rooms button :: Idris Vane")
	maren.Find(".talk textarea:focus")
	require.NoError(t, maren.InsertText("Lunch at noon?"))
	maren.Press(input.Enter)
	maren.Find(".talk-line :: Lunch at noon?")
	idris.Find(".talk-button .count")
	idris.Click(".talk-button")
	idris.Click(".talk .rooms button :: Lunch at noon?")
	idris.Find(".talk-line :: Lunch at noon?")
	require.NoError(t, idris.Find(".talk textarea:not([aria-hidden])").Input("Gladly"))
	idris.Press(input.Enter)
	maren.Find(".talk-line :: Gladly")
	idris.Press(input.Escape)
	idris.Find(".talk .rooms button :: Gladly")
	require.Equal(t, "0", idris.JS(`[...document.querySelectorAll(".talk .rooms button")].filter(b => b.innerText.includes("Gladly") && b.querySelector(".count")).length`), "what was read is not new")
	maren.Press(input.Escape)
	maren.Find(".talk h2 :: Team talk")
	maren.Press(input.Escape)
	maren.Gone(".talk")
}

// The contact is edited where it stands; when two do so, the second chooses.
func TestTheContactInPlace(t *testing.T) {
	t.Parallel()
	w, idris, visitor := talking(t, 0)
	maren := w.Person(t).Desk(world.Email(3))
	idris.Click(world.Lane(wren) + " .lane-foot button :: More")
	idris.Click("[role=menuitem] :: Add colleague")
	idris.Click("[role=dialog] label :: Maren Holt")
	idris.Click("[role=dialog] button :: Add")
	maren.Find(world.Lane(wren))
	field := func(n string) string { return ".about .contact label:nth-of-type(" + n + ") input" }
	idris.Click("[aria-label='Edit the contact']")
	maren.Click("[aria-label='Edit the contact']")
	idris.Type(field("1"), "Wren Castellane-Holm")
	idris.Click(".about button :: Save contact")
	idris.Find(".lane h2 :: Wren Castellane-Holm")
	maren.Type(field("1"), "Wren C.")
	maren.Type(field("4"), "Brae Walks")
	maren.Click(".about button :: Save contact")
	maren.Find(".about .conflict :: A colleague changed this in the meantime")
	maren.Find(".about .theirs :: Wren Castellane-Holm")
	maren.Click(".about .theirs button :: Use theirs")
	maren.Click(".about button :: Save contact")
	maren.Find(".about .contact dd :: Brae Walks")
	maren.Find(".about .contact b :: Wren Castellane-Holm")

	// Tags, summary and outcome stand in the transcript afterwards.
	require.NoError(t, idris.Find(".about .tags input").Input("group"))
	idris.Press(input.Enter)
	idris.Find(".about .tag :: group")
	idris.Add(".about textarea.summary", "Lift on Sandpiper")
	idris.Click(".about .chips label :: Answered")
	idris.Until("the outcome is stored", func() bool { return idris.Has(".about .chips label:has(:checked) :: Answered") })
	idris.Ends("Wren Castellane-Holm")
	idris.Click(".lane-foot button :: Close lane")
	idris.Click("nav a :: Transcripts")
	idris.Click(".found a :: Is there a lift?")
	idris.Find(".reader dd :: group")
	idris.Find(".reader .why :: Lift on Sandpiper")

	// The same person again: the earlier chat is read beside.
	visitor.Panel().Click("button :: Start another chat")
	visitor.Panel().Type("[name=text]", "Me again")
	visitor.Panel().Click("button :: Start chat")
	idris.Click("nav a :: Desk")
	idris.BeAvailable()
	idris.Click(".wait :: Me again")
	idris.Click(".about .earlier button :: Lift on Sandpiper")
	idris.Find(".earlier-chat .say :: Is there a lift?")
	idris.Click("[aria-label='Close the earlier chat']")
	idris.Gone(".earlier-chat")
}

// A department that wants an outcome gets one before the lane closes.
func TestTheWrapUpThatIsWanted(t *testing.T) {
	t.Parallel()
	w, idris, _ := talking(t, 0)
	require.NoError(t, w.Server.Store.DB.Exec("update departments set wrap_up_required = true").Error)
	w.Server.Settings.Forget()
	idris.Says(wren, "There is one midships")
	idris.Find(".say.team :: midships")
	idris.Ends(wren)
	idris.Find(".lane-foot .owed :: needs an outcome")
	require.True(t, idris.Has(".lane-foot.ended button[disabled] :: Close lane"))
	require.NoError(t, idris.Reload())
	idris.UntilLive()
	idris.Find(".lane-foot .owed")
	require.NoError(t, idris.Find(".wrap-up .sale input").Input("412,80"))
	idris.Press(input.Enter)
	idris.Find(".wrap-up .kept :: €412.80")
	idris.Click(".wrap-up .chips label :: Sold")
	idris.Gone(".lane-foot .owed :: needs")
	idris.Click(".lane-foot.ended button :: Close lane")
	idris.Gone(".lane")
}

// Who is banned sees no chat any more, until a lead lifts it.
func TestABanAndItsEnd(t *testing.T) {
	t.Parallel()
	w, idris, visitor := talking(t, 0)
	idris.More(wren, "Ban the visitor")
	idris.Click("[role=dialog] button :: End the chat and ban")
	idris.Find("[role=dialog] .Mui-error :: Enter a reason")
	idris.Add("[role=dialog] input:not([type=radio])", "Insults")
	idris.Click("[role=dialog] button :: End the chat and ban")
	idris.Find(".lane-foot.ended")
	visitor.Panel().Find("[role=alert] .broken :: This chat is not available to you")
	require.False(t, visitor.Panel().Has("* :: Insults"))
	visitor.Panel().Click("button :: Try again")
	visitor.Panel().Find("[role=alert] .broken :: This chat is not available to you")
	visitor.Go("/fares")
	require.False(t, visitor.Has("stoop-chat iframe"))
	maren := w.Person(t).Desk(world.Email(3))
	maren.Click("nav a :: Setup")
	maren.Find(".bans tr :: Insults")
	maren.Click(".bans button :: Lift")
	maren.Find(".bans td :: lifted")
	visitor.Go("/timetable")
	visitor.Panel().Click("button :: Start another chat")
	visitor.Asks("", "", "Again, in other words")
	idris.Find(".wait :: Again, in other words")
}

// Somebody is taken out of the team in the middle of a chat: their chats go
// back to the queue, and what they typed is there when they are let in again.
func TestAnOperatorIsRemovedWhileChatting(t *testing.T) {
	t.Parallel()
	w, idris, visitor := talking(t, 0)
	idris.Type(world.Field(wren), "half an answer")
	ansel := w.Person(t).Desk(world.Email(4))
	active := func() {
		ansel.Open(w.OperatorNet.URL + "/setup/team")
		ansel.Click(".picker button :: Idris Vane")
		ansel.Click(".tick :: Can log in")
		ansel.Click("footer button :: Save")
		ansel.See("#notistack-snackbar :: Idris Vane saved")
	}
	active()
	idris.Find("input[name=email]")
	visitor.Panel().Find(".event :: You are back in the queue")
	active()
	idris.Type("input[name=email]", world.Email(0))
	idris.Type("input[name=password]", w.Password())
	idris.Click("button[type=submit]")
	idris.UntilLive()
	idris.BeAvailable()
	idris.Take(wren)
	require.Equal(t, "half an answer", idris.Text(world.Field(wren)))
}

// The palette finds acts, people, chats, articles and answers by their words.
func TestThePalette(t *testing.T) {
	t.Parallel()
	_, maren, visitor := talking(t, 3)
	find := func(words, want string) {
		t.Helper()
		maren.Chord(input.ControlLeft, input.KeyK)
		maren.Find(".palette input:focus")
		require.NoError(t, maren.InsertText(words))
		maren.Find(".palette li :: " + want)
		maren.Until("it is marked", func() bool {
			if strings.Contains(maren.Text(".palette li.Mui-focused"), want) {
				return true
			}
			maren.Press(input.ArrowDown)
			return false
		})
		maren.Press(input.Enter)
		maren.Gone(".palette")
	}
	find("note and reply", "Switch between note and reply")
	maren.Find(".composer.noting")
	find("note and reply", "Switch between note and reply")
	maren.Gone(".composer.noting")
	find("lift door", "There is a lift midships")
	maren.Until("the answer is in the field", func() bool {
		return strings.HasPrefix(maren.Text(world.Field(wren)), "There is a lift midships")
	})
	maren.Find(world.Field(wren) + ":focus")
	maren.Press(input.Enter)
	visitor.Panel().Find(".said :: There is a lift midships")
	find("idris", "Idris Vane")
	maren.Find(".talk h2 :: Idris Vane")
	maren.Click("[aria-label='Close the team talk']")
	find("guide dogs", "Dogs and other animals")
	maren.Find(".rendered :: Guide dogs")
	maren.Chord(input.AltLeft, input.Slash)
	maren.Find(".sheet-keys dt :: End the chat")
}

// Sounds are as each operator wants them, and play once with two tabs open.
func TestNotificationsAsWanted(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	person := w.Person(t)
	idris := person.Desk(world.Email(0), countSounds)
	idris.BeAvailable()
	second := person.SecondTab(countSounds)
	idris.Front()
	idris.Click(".face")
	idris.Click("[role=menuitem] :: Notifications")
	tones := func() string { return idris.JS("window.tones") }
	idris.Click(".sound-row:nth-of-type(1) button :: Play")
	require.Equal(t, "3", tones(), "the steps have three tones")
	idris.Click(".sound-row:nth-of-type(1) [role=combobox]")
	idris.Click("[role=option] :: No sound")
	idris.Gone("[role=listbox]")
	idris.Click("[role=dialog] button :: Close")
	idris.Gone("[role=dialog]")
	idris.Until("it is stored", func() bool {
		got, err := settings.On(w.Server.Store).OperatorByEmail(t.Context(), world.Email(0))
		return err == nil && got.Preferences["sound"] == "none"
	})
	w.Person(t).Visit("/fares").Asks("Wren", "", "A question")
	idris.Find(".wait :: Wren")
	second.Find(".wait :: Wren")
	require.Equal(t, "3", tones(), "no sound was wanted")
	notices := func(o *world.Operator) int {
		return len(strings.Fields(o.JS(`window.notices.map(n => n.replaceAll(" ", "_")).join(" ")`)))
	}
	idris.Until("one notification over both tabs", func() bool { return notices(idris)+notices(second) == 1 })
}
