package e2e_test

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// requireAccessible runs axe-core on what is shown; serious findings fail.
func requireAccessible(t *testing.T, what string, tab *world.Tab) {
	t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "run make build first")
	_, err = tab.Eval(`(source) => { if (!window.axe) { (0, eval)(source); } }`, string(axe))
	if err != nil {
		// The page's own policy forbids eval; a script made by the debugger may run.
		_, err = tab.Eval("() => { " + string(axe) + " }")
	}
	require.NoError(t, err)
	found, err := tab.Eval(`async () => {
		const results = await axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"] });
		return results.violations.filter(v => v.impact === "serious" || v.impact === "critical")
			.map(v => v.id + ": " + v.nodes.map(n => n.html + " " + n.failureSummary).join("; ")).join("\n");
	}`)
	require.NoError(t, err)
	assert.Empty(t, found.Value.Str(), what)
}

func TestNoSeriousFindingForThoseWhoSeeOrHearDifferently(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	person := w.Person(t)
	login := person.Tab()
	login.Open(w.OperatorNet.URL)
	login.Find("input[name=email]")
	requireAccessible(t, "login", login)
	maren := person.Desk(world.Email(3))
	maren.BeAvailable()
	requireAccessible(t, "empty Desk", maren.Tab)

	wren := w.Person(t).Visit("/")
	panel := wren.OpenChat()
	panel.Find("form.start")
	requireAccessible(t, "start form", panel)
	requireAccessible(t, "site with the panel", wren.Tab)
	wren.Asks("Wren", "wren@example.com", "Is there room?")
	requireAccessible(t, "waiting panel", panel)
	maren.Find(".wait")
	requireAccessible(t, "Desk with somebody waiting", maren.Tab)
	maren.Take("Wren")
	maren.Says("Wren", "There is, see https://example.com/deck")
	wren.Says("Thank you")
	maren.Find(".say.visitor :: Thank you")
	requireAccessible(t, "Desk with a lane", maren.Tab)
	requireAccessible(t, "panel in conversation", panel)

	maren.Click(".face")
	maren.Click("[role=menuitem] :: Dark")
	maren.Gone("[role=menu]")
	requireAccessible(t, "dark Desk", maren.Tab)
	maren.Click("nav a :: Transcripts")
	maren.Click(".found a")
	maren.Find(".reader .say")
	requireAccessible(t, "dark transcripts", maren.Tab)
	maren.Click(".face")
	maren.Click("[role=menuitem] :: Light")
	maren.Gone("[role=menu]")
	maren.Type("input[type=search]", "minibus")
	maren.Find("mark.hit")
	requireAccessible(t, "transcripts with a search", maren.Tab)
	maren.Type("input[type=search]", "nothing-like-this")
	maren.Find(".nothing-found")
	requireAccessible(t, "transcripts with nothing found", maren.Tab)
	maren.Click("nav a :: Reports")
	maren.Find(".heat td a")
	requireAccessible(t, "reports", maren.Tab)
	maren.Click(".reports nav a :: Staffing")
	maren.Find(".roster")
	requireAccessible(t, "staffing", maren.Tab)
}

func TestNoSeriousFindingInRoutingAndSetup(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	tove, ansel := w.Person(t).Desk(world.Email(1)), w.Person(t).Desk(world.Email(4))
	closed := w.Person(t).Visit("/help")
	closed.OpenChat().Find("form.start .note")
	requireAccessible(t, "panel while nobody is in", closed.Panel())
	tove.BeAvailable()
	wren := w.Person(t).Visit("/my-booking")
	wren.Asks("Wren", "", "Can I add a second car?")
	tove.Find(".offer :: Wren")
	requireAccessible(t, "Desk with an offer", tove.Tab)
	wren.Panel().Click("button :: Leave a message instead")
	wren.Panel().Find("form.instead")
	requireAccessible(t, "panel, leaving a message instead", wren.Panel())
	tove.Click(".offer button :: Take")
	tove.Find(".about .why")
	requireAccessible(t, "lane with About", tove.Tab)
	tove.Click(".lane-foot button :: Hand on")
	tove.Find("[role=dialog]")
	tove.Until("the dialog stands", func() bool {
		return tove.JS(`getComputedStyle(document.querySelector(".MuiDialog-container")).opacity`) == "1"
	})
	requireAccessible(t, "handing on", tove.Tab)
	for _, dark := range []bool{false, true} {
		if dark {
			ansel.Click(".face")
			ansel.Click("[role=menuitem] :: Dark")
			ansel.Gone("[role=menu]")
		}
		for page, shows := range map[string]string{"departments": ".members", "hours": ".now .icon", "rules": ".rule", "team": ".editor table"} {
			ansel.Open(w.OperatorNet.URL + "/setup/" + page)
			ansel.Find(shows)
			if page == "rules" {
				ansel.Click(".rule .summary")
				ansel.Find(".rule-body")
			}
			requireAccessible(t, page, ansel.Tab)
		}
		ansel.Open(w.OperatorNet.URL + "/floor")
		ansel.Find(".hall li")
		requireAccessible(t, "Floor", ansel.Tab)
	}
}

// The Desk's states and what lies over it, in the light and in the dark.
func TestNoSeriousFindingOnTheDesk(t *testing.T) {
	t.Parallel()
	w, maren, visitor := talking(t, 3)
	maren.Choose(world.Lane(wren)+" .composer input[type=file]", file(t, "deck.png", picture(t)))
	maren.Find(".attachments li")
	requireAccessible(t, "a file to be sent", maren.Tab)
	maren.Type(world.Field(wren), "Here")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	visitor.Panel().Find(".said:not(.own) img")
	requireAccessible(t, "panel with a picture", visitor.Panel())
	maren.Click(world.Lane(wren) + " [aria-label='Note to team']")
	maren.Type(world.Field(wren), "a note")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	maren.Find(".say.note")
	for _, dark := range []bool{false, true} {
		if dark {
			maren.Click(".face")
			maren.Click("[role=menuitem] :: Dark")
			maren.Gone("[role=menu]")
		}
		maren.Types(wren, "We can hold")
		maren.Find(".suggestions:not([hidden]) li")
		requireAccessible(t, "suggestions", maren.Tab)
		maren.Type(world.Field(wren), "")
		maren.Click("[aria-label='Edit the contact']")
		maren.Find(".about .contact input")
		requireAccessible(t, "About, editing the contact", maren.Tab)
		maren.Click(".about button :: Cancel")
		over := func(what, shows string, key input.Key, held input.Key) {
			t.Helper()
			maren.Chord(held, key)
			maren.Find(shows)
			maren.Until("it stands", func() bool {
				return maren.JS(`[...document.querySelectorAll(".MuiDialog-container")].every(e => getComputedStyle(e).opacity === "1")`) == "true"
			})
			requireAccessible(t, what, maren.Tab)
			maren.Press(input.Escape)
			maren.Gone(shows)
		}
		over("palette", ".palette li", input.KeyK, input.ControlLeft)
		over("keys", ".sheet-keys", input.Slash, input.AltLeft)
		over("asking the team", "[role=dialog] .choices", input.KeyK, input.AltLeft)
		over("banning", "[role=dialog] .choices", input.KeyZ, input.AltLeft)
		over("team talk", ".talk .rooms", input.Digit0, input.AltLeft)
		maren.Click(".face")
		maren.Click("[role=menuitem] :: Notifications")
		maren.Find(".notices-form")
		maren.Until("it stands", func() bool {
			return maren.JS(`getComputedStyle(document.querySelector(".MuiDialog-container")).opacity`) == "1"
		})
		requireAccessible(t, "notifications", maren.Tab)
		maren.Click("[role=dialog] button :: Close")
		maren.Gone("[role=dialog]")
	}
	maren.Size(390, 780)
	requireAccessible(t, "Desk on a phone", maren.Tab)
	maren.Size(1280, 800)
	maren.Ends(wren)
	requireAccessible(t, "wrap-up", maren.Tab)
	maren.Click("nav a :: Library")
	maren.Click(".by-folder li button :: holdcar")
	maren.Find(".placeholders")
	requireAccessible(t, "canned responses", maren.Tab)
	maren.Click(".library nav a :: Articles")
	maren.Click(".by-folder li button :: Dogs")
	maren.Find(".rendered table")
	requireAccessible(t, "an article", maren.Tab)
	for path, shows := range map[string]string{"/library/said-again": ".again .meta", "/reviews": ".points"} {
		maren.Open(w.OperatorNet.URL + path)
		maren.Find(shows)
		requireAccessible(t, path, maren.Tab)
	}
	ansel := w.Person(t).Desk(world.Email(4))
	for page, shows := range map[string]string{"desk": ".words-list", "widgets": ".editor .tick", "bans": ".editor form", "retention": ".keeps"} {
		ansel.Open(w.OperatorNet.URL + "/setup/" + page)
		ansel.Find(shows)
		requireAccessible(t, page, ansel.Tab)
	}
}

// Everything is done with the keyboard alone, on both sides.
func TestWithTheKeyboardAlone(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Tab()
	maren.Open(w.OperatorNet.URL)
	maren.Find("input[name=email]:focus")
	write := func(tab *world.Tab, text string) {
		t.Helper()
		require.NoError(t, tab.InsertText(text))
	}
	write(maren, world.Email(3))
	maren.Press(input.Tab)
	write(maren, w.Password())
	maren.Press(input.Enter)
	maren.Find(".strip [role=status] :: Live")
	maren.Chord(input.AltLeft, input.KeyA)
	maren.Find(".availability[aria-pressed=true]")

	wren := w.Person(t).Visit("/help")
	wren.Until("somebody is in", func() bool { return strings.Contains(wren.LauncherText(), "Maren is in") })
	wren.LauncherText()
	for wren.JS("document.activeElement?.shadowRoot?.activeElement?.tagName ?? ''") != "BUTTON" {
		wren.Press(input.Tab)
	}
	wren.Press(input.Enter)
	panel := wren.Panel()
	panel.Find("[name=text]:focus")
	write(wren.Tab, "Is there a lift?")
	wren.Press(input.Tab, input.Enter)
	panel.Find(".said.own :: Is there a lift?")

	maren.Find(".wait :: Is there a lift?")
	maren.Chord(input.AltLeft, input.KeyN)
	maren.Find(".lane")
	panel.Find(".event :: joined the chat")
	maren.Chord(input.AltLeft, input.Digit1)
	maren.Find(".lane .write textarea:focus")
	write(maren, "On all ships")
	maren.Press(input.Enter)
	panel.Find(".said:not(.own) :: On all ships")
	for panel.JS("document.activeElement.tagName") != "TEXTAREA" {
		wren.Press(input.Tab)
	}
	write(wren.Tab, "Thank you")
	wren.Press(input.Enter)
	maren.Find(".say.visitor :: Thank you")

	for maren.JS("document.activeElement.innerText") != "End" {
		maren.Press(input.Tab)
	}
	maren.Press(input.Enter)
	maren.Find(".asking button:focus")
	maren.Press(input.Enter)
	panel.Find(".event :: Chat ended")
	wren.Press(input.Escape)
	require.Eventually(t, func() bool {
		return wren.JS("document.activeElement?.shadowRoot?.activeElement?.tagName ?? ''") == "BUTTON"
	}, world.Patience, tick, "the focus returns to the launcher")
	for maren.JS("document.activeElement.innerText") != "Transcripts" {
		maren.Press(input.Tab)
	}
	maren.Press(input.Enter)
	maren.Find(".transcripts h1")
}

const tick = 25 * time.Millisecond
