// Package e2e_test uses the real interface in a browser, as visitor and
// operator at once.
package e2e_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// countSounds notes each tone that a page starts.
const countSounds = `
	window.tones = 0;
	const start = OscillatorNode.prototype.start;
	OscillatorNode.prototype.start = function (...a) { window.tones++; return start.apply(this, a); };
	window.notices = [];
	window.Notification = class { constructor(title) { window.notices.push(title); } static permission = "granted"; close() {} };`

// The main job: a visitor asks, an operator hears and sees it at once, takes
// it, both write, one ends it, and the transcript is there.
func TestAVisitorAsksAndAnOperatorAnswers(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3), countSounds)
	wren := w.Person(t).Visit("/fares")
	require.Contains(t, wren.LauncherText(), "Leave a message", "nobody is available yet")
	maren.BeAvailable()
	wren.Until("the launcher follows", func() bool { return strings.Contains(wren.LauncherText(), "Maren is in") })
	panel := wren.Asks("Wren Castellane", "wren.castellane@example.com", "Is there room for a minibus?")
	panel.Find(".waiting :: Someone from our team will answer here")

	maren.Find(".wait :: Is there room for a minibus?")
	maren.Until("the sound of a chat that arrives", func() bool { return maren.JS("window.tones") == "3" })
	require.Equal(t, "Wren Castellane is waiting", maren.JS("window.notices.join()"))
	maren.Until("the title", func() bool { return strings.HasPrefix(maren.JS("document.title"), "1 waiting 0:") })
	maren.Find(".strip span :: Queue 1")
	maren.Take("Wren Castellane")
	maren.Find(".where :: On Fares")
	panel.Find(".event :: Maren joined the chat")
	maren.Says("Wren Castellane", "There is, both ways. What length is it?")
	panel.Find(".said .words :: both ways")
	maren.Find(".script .receipt :: Seen")
	wren.Says("6.8 m, back on Sunday")
	maren.Find(".say.visitor :: 6.8 m")
	panel.Find(".said.own .receipt :: Seen")

	maren.Ends("Wren Castellane")
	panel.Find(".event :: Chat ended")
	maren.Click(".lane-foot button :: Close lane")
	maren.Find(".empty-lanes")
	maren.Click("nav a :: Transcripts")
	maren.Type("input[type=search]", "minibus Castellane")
	maren.Find(".total :: 2 chats match")
	maren.Click(".found a :: Is there room")
	maren.Find(".reader .say :: both ways")
	maren.Find(".reader mark.hit :: minibus")

	panel.Click("button :: Start another chat")
	panel.Find("form.start .hint :: Writing as Wren Castellane")
	require.False(t, panel.Has("form.start [name=name]"), "who is known is not asked again")
	panel.Type("[name=text]", "And a bicycle?")
	panel.Click("button :: Start chat")
	panel.Find(".said.own :: And a bicycle?")
	require.False(t, panel.Has(".said :: both ways"), "another chat begins empty")
}

func TestThreeVisitorsSideBySide(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.Size(1600, 900)
	maren.BeAvailable()
	names := []string{"Wren Castellane", "Oskar Brindle", "Petra Quill"}
	visitors := make([]*world.Visitor, 3)
	for i, name := range names {
		visitors[i] = w.Person(t).Visit("/timetable")
		visitors[i].Asks(name, "", "Question of "+name)
		maren.Take(name)
	}
	for i, name := range names {
		require.Equal(t, fmt.Sprint(i+1), maren.Text(world.Lane(name)+" .lane-head .plate"))
		maren.Says(name, "Answer for "+name)
	}
	for i, name := range names {
		visitors[i].Panel().Find(".said .words :: Answer for " + name)
		require.Len(t, visitors[i].Panel().Texts(".said .words"), 2, "nobody gets another one's answer")
	}
	// On a narrower window one chat has no lane; its words are seen all the same.
	maren.Size(1000, 700)
	maren.Until("two lanes", func() bool { return len(maren.Texts(".lane")) == 2 })
	hidden := ""
	for _, name := range names {
		if !maren.Has(world.Lane(name)) {
			hidden = name
		}
	}
	for i, name := range names {
		if name == hidden {
			visitors[i].Says("Are you still there?")
		}
	}
	maren.Find(".mine :: Are you still there?")
	maren.Find(".mine .count.new")
	maren.Click(".mine :: " + hidden)
	maren.Find(world.Lane(hidden) + " .say :: Are you still there?")
}

func TestReloadAnotherPageAndLostNetwork(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	wren.Asks("Wren", "", "Is there room?")
	maren.Take("Wren")
	maren.Says("Wren", "There is")
	wren.Panel().Find(".said :: There is")

	// Another page, with a draft begun: the panel is open again with both.
	wren.Panel().Type(".composer textarea", "half a sentence")
	wren.Go("/animals")
	wren.Panel().Find(".said :: There is")
	require.Equal(t, "half a sentence", wren.Panel().Text(".composer textarea"))
	maren.Find(".where :: Travelling with animals")

	// The operator's reload keeps lane, number and draft.
	field := world.Lane("Wren") + " .write textarea:not([aria-hidden])"
	maren.Type(field, "an answer in the making")
	require.NoError(t, maren.Reload())
	maren.UntilLive()
	maren.Find(world.Lane("Wren") + " .say :: There is")
	require.Equal(t, "an answer in the making", maren.Text(field))
	maren.Type(field, "")

	// The visitor's network goes: what either side writes arrives afterwards.
	w.VisitorNet.Cut()
	wren.Panel().Find(".lost :: No connection")
	wren.Says("Written without a network")
	wren.Says("And a second line")
	wren.Panel().Find(".said.unsent :: Written without")
	maren.Find(".where :: Not on the site now")
	maren.Says("Wren", "Written meanwhile")
	maren.Find(".script .receipt :: Waiting for the visitor to return")
	maren.Find(".mine .reply-clock :: left the site")
	w.VisitorNet.Mend()
	wren.Panel().Find(".said:not(.own) :: Written meanwhile")
	maren.Find(".say.visitor :: And a second line")
	wren.Panel().Gone(".said.unsent")

	// And the operator's.
	w.OperatorNet.Cut()
	maren.Find(".strip .lost :: No connection")
	maren.Says("Wren", "From the dark")
	maren.Find(".say.unsent :: From the dark")
	wren.Says("Into the dark")
	w.OperatorNet.Mend()
	maren.UntilLive()
	maren.Find(".say.visitor :: Into the dark")
	wren.Panel().Find(".said:not(.own) :: From the dark")
	maren.Gone(".say.unsent")
	// What came in between is asked for first; the words follow behind it.
	maren.Find(".say:not(.unsent) :: From the dark")

	want := []string{"Is there room?", "There is", "Written meanwhile", "Written without a network", "And a second line", "Into the dark", "From the dark"}
	require.ElementsMatch(t, want, maren.Texts(".say .words p"), "nothing lost, nothing twice")
	require.Equal(t, maren.Texts(".say .words p"), wren.Panel().Texts(".said .words"), "both sides see the same order")
}

func TestTwoOperatorsTakeTheSameChat(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	wren.Asks("Wren", "", "Is there room?")
	maren.Find(".wait :: Wren")
	idris.Find(".wait :: Wren")
	// Both press at once: their clicks are on the way before either is told.
	for _, o := range []*world.Operator{maren, idris} {
		_, err := o.Eval(`() => { document.querySelector(".wait")?.click() }`)
		require.NoError(t, err)
	}
	var winner, loser *world.Operator
	world.Until(t, "one of them has the chat", func() bool {
		for _, pair := range [][2]*world.Operator{{maren, idris}, {idris, maren}} {
			if pair[0].Has(world.Lane("Wren")) {
				winner, loser = pair[0], pair[1]
			}
		}
		return winner != nil
	})
	loser.Gone(".wait :: Wren")
	require.False(t, loser.Has(".lane"), "two owners")
	// The one who lost hears who won, unless the chat was gone before the click.
	if loser.Has("#notistack-snackbar") {
		loser.See("#notistack-snackbar :: took this chat a moment before you")
	}
	winner.Says("Wren", "I have it")
	wren.Panel().Find(".said :: I have it")
}

// The loser's click is held back until the chat is taken: then they must be told.
func TestTheOneWhoIsTooLateIsToldWhoWasFaster(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	idris := w.Person(t).Desk(world.Email(0), `
		const send = window.fetch;
		window.fetch = async (request, init) => {
			if (String(request.url ?? request).includes("/take")) await new Promise((r) => { window.letGo = r; });
			return send(request, init);
		};`)
	wren := w.Person(t).Visit("/")
	wren.Asks("Wren", "", "Is there room?")
	idris.Click(".wait :: Wren")
	idris.Until("the click on its way", func() bool { return idris.JS("typeof window.letGo") == "function" })
	maren.Take("Wren")
	idris.Gone(".wait :: Wren")
	_, err := idris.Eval(`() => window.letGo()`)
	require.NoError(t, err)
	idris.See("#notistack-snackbar :: Maren Holt took this chat a moment before you")
	require.False(t, idris.Has(".lane"))
}

func TestTwoTabsOfOneOperatorAgree(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	person := w.Person(t)
	first := person.Desk(world.Email(3), countSounds)
	first.BeAvailable()
	second := person.SecondTab(countSounds)
	second.Find(".availability[aria-pressed=true]")
	wren := w.Person(t).Visit("/")
	wren.Asks("Wren", "", "Is there room?")
	first.Find(".wait :: Wren")
	second.Front()
	second.Take("Wren")
	first.Find(world.Lane("Wren"))
	second.Says("Wren", "From the second tab")
	first.Find(".say.team :: From the second tab")
	first.Front()
	first.Says("Wren", "From the first tab")
	second.Find(".say.team :: From the first tab")
	tones := first.JS("window.tones") + "+" + second.JS("window.tones")
	require.Contains(t, []string{"3+0", "0+3"}, tones, "one tab rings, not both")
	second.Front()
	second.Ends("Wren")
	first.Find(".lane-foot.ended")
	first.Front()
	first.Click(".availability")
	second.Find(".availability[aria-pressed=false]")
}

func TestDraftsAreSeenByTheOwnerAndTypingByTheVisitor(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.Asks("Wren", "", "Is there room?")
	panel.Find(".hint :: Our team can see what you type")
	maren.Take("Wren")
	panel.Find(".event :: joined the chat")
	panel.Type(".composer textarea", "is the 14:10 still")
	maren.Find(".draft.typing :: is the 14:10 still")
	wren.Says("is the 14:10 still going?")
	maren.Find(".say.visitor :: still going?")
	maren.Gone(".draft.typing")
	maren.Type(world.Lane("Wren")+" .write textarea:not([aria-hidden])", "It is, and on time")
	panel.Find(".typing :: Maren is typing")
	require.False(t, panel.Has("* :: on time"), "the visitor sees that the operator types, never what")
}

func TestUnreadMarkOnTheLauncher(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.Asks("Wren", "", "Is there room?")
	maren.Take("Wren")
	panel.Click("button[aria-label='Hide the chat']")
	maren.Says("Wren", "There is")
	maren.Says("Wren", "On deck B")
	wren.Until("the unread mark", func() bool { return strings.Contains(wren.LauncherText(), "2 new") })
	maren.Find(".script .receipt :: Delivered, not seen yet")
	wren.OpenChat()
	maren.Find(".script .receipt :: Seen")
	wren.Until("no unread mark", func() bool { return !strings.Contains(wren.LauncherText(), "new") })
}

// Both sides write as fast as the keys allow; the order is the same for both,
// and each side's own is the order of writing.
func TestOrderUnderFastTyping(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.Asks("Wren", "", "v0")
	maren.Take("Wren")
	panel.Find(".event :: joined the chat")
	const each = 30
	done := make(chan error, 2)
	// The patience of finding them is not that of all that is typed.
	field := panel.Find(".composer textarea").CancelTimeout()
	write := maren.Find(world.Lane("Wren") + " .write textarea:not([aria-hidden])").CancelTimeout()
	go func() {
		for i := 1; i <= each; i++ {
			if err := field.Input(fmt.Sprintf("v%d", i)); err != nil {
				done <- err
				return
			}
			if err := field.Type(input.Enter); err != nil {
				done <- err
				return
			}
		}
		done <- nil
	}()
	for i := 1; i <= each; i++ {
		require.NoError(t, write.Input(fmt.Sprintf("t%d", i)))
		require.NoError(t, write.Type(input.Enter))
	}
	require.NoError(t, <-done)
	world.Until(t, "all messages on both sides", func() bool {
		return len(maren.Texts(".say:not(.unsent) .words p")) == 2*each+1 && len(panel.Texts(".said:not(.unsent) .words")) == 2*each+1
	})
	atDesk, atPanel := maren.Texts(".say .words p"), panel.Texts(".said .words")
	require.Equal(t, atDesk, atPanel)
	next := map[byte]int{'v': 0, 't': 1}
	for _, text := range atDesk {
		require.Equal(t, fmt.Sprintf("%c%d", text[0], next[text[0]]), text)
		next[text[0]]++
	}
}

func TestOnAPhoneThePanelFillsTheScreen(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	wren := w.Person(t).Visit("/")
	wren.Size(390, 780)
	panel := wren.OpenChat()
	panel.Find("form.start")
	box := wren.JS(`(() => { const r = ` + wren.Frame() + `.getBoundingClientRect(); return [r.x, r.y, r.width, r.height].join() })()`)
	require.Equal(t, "0,0,390,780", box)
	for _, height := range strings.Split(panel.JS(`[...document.querySelectorAll("button, input, textarea")].map(e => e.getBoundingClientRect().height).join()`), ",") {
		var h float64
		_, err := fmt.Sscan(height, &h)
		require.NoError(t, err)
		require.GreaterOrEqual(t, h, 44.0, "a touch target is too small")
	}
}

// A wrong key or site does nothing to the page but a clear word in its console.
func TestAWrongKeyLeavesThePageAlone(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	tab := w.Person(t).Tab()
	said := make(chan string, 10)
	go tab.EachEvent(func(e *proto.RuntimeConsoleAPICalled) {
		if len(e.Args) > 0 {
			said <- e.Args[0].Value.Str()
		}
	})()
	require.NoError(t, proto.RuntimeEnable{}.Call(tab))
	tab.Open(w.SiteURL + "/help")
	launchers := `document.querySelectorAll("stoop-chat").length`
	tab.Until("the site's own launcher", func() bool { return tab.JS(launchers) == "1" })
	_, err := tab.Eval(`(src) => { delete window.stoop; document.querySelectorAll("stoop-chat").forEach(d => d.remove());
		const s = document.createElement("script"); s.src = src; s.dataset.key = "none"; document.body.append(s); }`, w.VisitorNet.URL+"/stoop.js")
	require.NoError(t, err)
	select {
	case words := <-said:
		require.Contains(t, words, "There is no widget with this key")
	case <-time.After(world.Patience):
		t.Fatal("nothing was said in the page's console")
	}
	require.Equal(t, "0", tab.JS(launchers))
}

// A site whose body is moved and clipped, and whose bars claim to lie over all
// else, still has its launcher and its panel in the corner where they can be pressed.
func TestTheLauncherLiesOverASitesBars(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	tab := w.Person(t).Visit("/fares")
	tab.LauncherText()
	tab.JS(`(() => {
		const bar = document.createElement("div");
		bar.textContent = "This site keeps crumbs";
		bar.style.cssText = "position:fixed;inset:auto 0 0 0;height:120px;background:#333;z-index:2147483647";
		document.body.append(bar);
		document.body.style.cssText = "transform:translateY(-300px);overflow:hidden;height:500px;position:relative";
		return ""
	})()`)
	corner := func(part string) string {
		return tab.JS(`(() => {
			const host = document.querySelector("stoop-chat"), r = host.shadowRoot.querySelector("` + part + `").getBoundingClientRect();
			const at = document.elementFromPoint(r.left + r.width / 2, r.bottom - 8);
			return [at === host, Math.round(innerHeight - r.bottom), innerWidth - r.right < 40].join()
		})()`)
	}
	require.Equal(t, "true,0,true", corner("button"))
	tab.OpenChat().Find("h1 :: Ask the ferry desk")
	require.Equal(t, "true,0,true", corner("iframe"))
}
