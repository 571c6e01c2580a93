package e2e_test

import (
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// The frame around the screens has its places from the start: what is still
// loading moves neither the bar above nor the strip below.
func TestTheFrameKeepsItsPlacesWhileAScreenLoads(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	places := func() string {
		return maren.JS(`[".top", ".strip"].map(s => { const r = document.querySelector(s).getBoundingClientRect(); return [r.top, r.bottom, r.width] }).join()`)
	}
	before := places()
	release := holdScripts(t, maren, "floor")
	maren.Click("nav a :: Floor")
	maren.Find("main[aria-busy=true]")
	require.Equal(t, before, places(), "while the screen is on its way")
	release()
	maren.Find("h1 :: Floor")
	require.Equal(t, before, places(), "when it is there")
}

// holdScripts keeps back what the console loads under names that hold a word,
// until released.
func holdScripts(t *testing.T, o *world.Operator, word string) (release func()) {
	t.Helper()
	held := make(chan struct{})
	router := o.HijackRequests()
	require.NoError(t, router.Add("*"+word+"*.js", "", func(h *rod.Hijack) {
		<-held
		if err := h.LoadResponse(http.DefaultClient, true); err != nil {
			t.Error(err)
		}
	}))
	go router.Run()
	release = sync.OnceFunc(func() { close(held) })
	t.Cleanup(func() { release(); _ = router.Stop() })
	return release
}

// Lanes are moved by keys, place by place, and each step is said by the numbers
// that the lanes carry.
func TestMovingALaneByKeysIsSaid(t *testing.T) {
	t.Parallel()
	w, maren, _ := talking(t, 3)
	maren.Size(1600, 900)
	w.Person(t).Visit("/fares").Asks("Oskar Brindle", "", "A question")
	maren.Find(".wait :: Oskar Brindle")
	maren.Chord(input.AltLeft, input.KeyN)
	maren.Find(world.Lane("Oskar Brindle"))
	order := func() string { return strings.Join(maren.Texts(".lane .plate"), "") }
	region := "[id^=DndLiveRegion] :: "
	heard := func(words string) {
		t.Helper()
		maren.Find(region + words)
	}
	// The lanes are measured a moment after one was picked up; until then an arrow
	// moves nothing, and one presses it again.
	moves := func(key input.Key, words string) {
		t.Helper()
		maren.Until(words, func() bool {
			maren.Press(key)
			return maren.Has(region + words)
		})
	}
	require.NoError(t, maren.Find(world.Lane(wren)+" [aria-roledescription]").Focus())
	maren.Press(input.Space)
	heard("Picked up lane 1.")
	moves(input.ArrowRight, "lane 1 is at the place of lane 2.")
	maren.Press(input.Space)
	heard("Put lane 1 at the place of lane 2.")
	maren.Until("it stands there", func() bool { return order() == "21" })
	maren.Press(input.Space)
	heard("Picked up lane 1.")
	moves(input.ArrowLeft, "lane 1 is at the place of lane 2.")
	maren.Press(input.Escape)
	heard("lane 1 stays where it was.")
	require.Equal(t, "21", order())
}

// What people write from right to left stands so wherever it is shown.
func TestEveryTextOfPeopleRunsItsOwnWay(t *testing.T) {
	t.Parallel()
	const (
		name, question, draft = "שרה לוי", "יש מעלית?", "אני מחכה"
		note, answer          = "לקוחה קבועה", "כן, יש"
	)
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	visitor := w.Person(t).Visit("/help")
	panel := visitor.Asks(name, "sara@example.com", question)
	maren.Find(".wait :: " + question)
	runsItsWay(t, maren.Tab, "waiting")
	maren.Take(name)
	maren.Says(name, answer)
	panel.Find(".said :: " + answer)
	panel.Type(".composer textarea", draft)
	maren.Find(".lane :: " + draft)
	require.NoError(t, maren.Find(".about .tags input").Input(note))
	maren.Press(input.Enter)
	maren.Find(".about .tag :: " + note)
	maren.Type(world.Field(name), "מה שמך")
	runsItsWay(t, maren.Tab, "lane, line and About")
	runsItsWay(t, panel, "panel")
	lead := w.Person(t).Desk(world.Email(4))
	lead.Click("nav a :: Floor")
	lead.Find(".in-hand tr :: " + name)
	runsItsWay(t, lead.Tab, "Floor")
	maren.Ends(name)
	maren.Click("nav a :: Transcripts")
	maren.Click(".found a :: " + question)
	maren.Find(".reader .say :: " + answer)
	runsItsWay(t, maren.Tab, "transcripts")
}

// runsItsWay fails when Hebrew stands in something that runs from left to right
// and does not keep it apart.
func runsItsWay(t *testing.T, tab *world.Tab, where string) {
	t.Helper()
	require.Empty(t, tab.JS(`(() => {
		const hebrew = /[\u0590-\u05ff]/, latin = /[a-z]/i, wrong = [];
		const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
		for (let n = walk.nextNode(); n; n = walk.nextNode()) {
			const e = n.parentElement;
			// What is kept apart within a sentence runs its own way.
			if (!hebrew.test(n.data.replace(/\u2068[^\u2069]*\u2069/g, "")) || e.closest("script, style, .sr-only, [aria-live]")) continue;
			if (getComputedStyle(e).direction !== "rtl") wrong.push(e.outerHTML.slice(0, 160));
		}
		for (const e of document.querySelectorAll("textarea:not([aria-hidden]), input"))
			if (hebrew.test(e.value) && getComputedStyle(e).unicodeBidi !== "plaintext") wrong.push(e.outerHTML.slice(0, 160));
		return wrong.join("\n");
	})()`), where)
}

// What an admin changes shows on the pages that are open: the words and the
// colour of the launcher and the panel, and a greeting keeps its lines.
func TestAnOpenPageTakesNewWordsAndColours(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	page := w.Person(t).Visit("/fares")
	panel := page.OpenChat()
	panel.Find("form.start")
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Click(".parts button :: Words")
	write := func(label, text string) {
		ansel.Click(".editor label :: " + label)
		ansel.Chord(input.ControlLeft, input.KeyA)
		require.NoError(t, ansel.InsertText(text))
	}
	write("Launcher text", "Ask the harbour")
	write("Greeting while the team is open", "Good day.\nAsk about any crossing.")
	ansel.Click("footer button :: Publish")
	panel.Find("header h1 :: Ask the harbour")
	page.Until("the launcher says so", func() bool { return strings.Contains(page.LauncherText(), "Ask the harbour") })
	panel.Find("form.start .note :: Ask about any crossing.")
	lines := panel.JS(`(() => { const range = document.createRange(), note = document.querySelector("form.start .note");
		range.selectNodeContents(note); return new Set([...range.getClientRects()].map(r => Math.round(r.top))).size })()`)
	require.Equal(t, "2", lines, "the greeting keeps its lines")

	// On another server, or by the command.
	other, err := store.Open(w.Server.Config.DatabaseURL, 2)
	require.NoError(t, err)
	t.Cleanup(func() { other.Close() })
	widget, err := settings.On(other).WidgetByKey(t.Context(), demo.WidgetKey)
	require.NoError(t, err)
	widget.Colour = "#224466"
	_, err = settings.On(other).ChangeWidget(t.Context(), widget)
	require.NoError(t, err)
	const navy = "rgb(34, 68, 102)"
	panel.Until("the panel's colour", func() bool {
		return panel.JS(`getComputedStyle(document.querySelector(".panel header")).backgroundColor`) == navy
	})
	page.Until("the launcher's colour", func() bool {
		return page.JS(`getComputedStyle(document.querySelector("stoop-chat").shadowRoot.querySelector(".face")).backgroundColor`) == navy
	})
}

// A page's own styles paint nothing of ours, whatever they say of its elements.
func TestThePagesStylesStayOutside(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	face := func(v *world.Visitor) string {
		v.LauncherText()
		return v.JS(`(() => { const host = [...document.querySelectorAll("stoop-chat")][0], b = host.shadowRoot.querySelector("button");
			const all = [host, b, ...b.querySelectorAll("*:not([hidden])")].map(e => { const s = getComputedStyle(e), r = e.getBoundingClientRect();
				return [r.width, r.height, innerWidth - r.right, s.borderTopWidth, s.backgroundColor, s.fontSize, s.letterSpacing, s.opacity, s.transform] });
			return JSON.stringify(all) })()`)
	}
	hostile := `addEventListener("DOMContentLoaded", () => { const s = new CSSStyleSheet();
		s.replaceSync("body * { border: 7px solid red; margin: 30px; padding: 20px; opacity: .5; letter-spacing: 3px; font-size: 40px; background: lime; transform: rotate(9deg); box-shadow: 0 0 9px red } * { all: unset; }");
		document.adoptedStyleSheets = [s]; })`
	plain, painted := w.Person(t).Visit("/fares"), w.Person(t).Visit("/fares", hostile)
	require.Equal(t, face(plain), face(painted))
}

// On small screens everything that can be pressed can be reached.
func TestNothingToPressIsCutOff(t *testing.T) {
	t.Parallel()
	w, maren, _ := talking(t, 4)
	for _, width := range []int{1024, 390} {
		maren.Size(width, 780)
		for _, path := range []string{"/desk", "/floor", "/library/canned", "/library/articles", "/transcripts", "/feedback", "/reports/overview", "/reports/who", "/reports/staffing", "/setup/hours", "/setup/departments", "/setup/rules", "/setup/team", "/setup/widgets", "/setup/desk", "/setup/retention", "/setup/dry-run", "/setup/file", "/reviews", "/library/said-again"} {
			maren.Open(w.OperatorNet.URL + path)
			maren.Find("main:not([aria-busy]) :is(h1, h2)")
			maren.UntilLive()
			require.Empty(t, maren.JS(`[...document.querySelectorAll("button, a, input:not([type=file]), select, textarea:not([aria-hidden])")].filter(e => {
				const r = e.getBoundingClientRect();
				if (r.width < 2 || r.height < 2 || e.closest(".sr-only") || getComputedStyle(e).visibility !== "visible") return false;
				for (let at = e.parentElement; at; at = at.parentElement) // what scrolls sideways is reached so
					if (at.scrollWidth > at.clientWidth + 1 && /auto|scroll/.test(getComputedStyle(at).overflowX)) return false;
				return r.left < -1 || r.right > innerWidth + 1;
			}).map(e => e.outerHTML.slice(0, 140)).join("\n")`), "%s at %d", path, width)
		}
	}
}

// The page of its own keeps its lines and fields at a width that can be read.
func TestThePageOfItsOwnIsNoWiderThanOneReads(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.Person(t).Desk(world.Email(3)).BeAvailable()
	page := w.Person(t).Tab()
	page.Open(w.Server.URL + "/panel/" + demo.WidgetKey)
	page.Find("form.start")
	require.Equal(t, "0", page.JS(`[...document.querySelectorAll("input, textarea")].filter(e => e.offsetWidth > 720).length`))
	page.Size(320, 640)
	require.Equal(t, "true", page.JS("document.documentElement.scrollWidth <= 320"))
}
