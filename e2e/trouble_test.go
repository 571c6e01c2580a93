package e2e_test

import (
	"context"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/devpg"
	"stoop/internal/testpg"
)

// attack runs if any text is ever taken for markup or script.
const attack = `<img src=x onerror="window.hacked=1"><script>window.hacked=1</script>"'><svg onload=window.hacked=1>`

func TestNothingThatIsTypedCanRun(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	// The page's own title and address reach the Desk too.
	_, err := wren.Eval(`(a) => { document.title = a; history.replaceState(null, "", "/?q=" + encodeURIComponent(a)); }`, attack)
	require.NoError(t, err)
	panel := wren.Asks(attack[:70], "", attack)
	maren.Find(".wait :: onerror")
	maren.Click(".wait")
	maren.Find(".lane .say.visitor :: onerror")
	maren.Find(".where :: onerror")
	panel.Find(".event :: joined the chat")
	panel.Type(".composer textarea", attack)
	maren.Find(".draft.typing :: onerror")
	require.NoError(t, panel.Find(".composer textarea").Type(input.Enter))
	maren.Type(".lane .write textarea:not([aria-hidden])", attack+" javascript:alert(1) https://example.com/?q=<b>")
	require.NoError(t, maren.Find(".lane .write textarea:not([aria-hidden])").Type(input.Enter))
	panel.Find(".said:not(.own) .words :: javascript:alert")
	for _, link := range strings.Split(panel.JS(`[...document.querySelectorAll(".words a")].map(a => a.protocol + a.rel).join("\n")`), "\n") {
		require.Equal(t, "https:noopener noreferrer nofollow", link)
	}
	maren.Click(".lane-foot button :: End")
	maren.Click(".asking button :: End it")
	maren.Click("nav a :: Transcripts")
	maren.Type("input[type=search]", "onerror")
	maren.Find(".total :: 1 chat matches")
	maren.Click(".found a :: onerror")
	maren.Find(".reader .say :: onerror")
	for name, tab := range map[string]*world.Tab{"console": maren.Tab, "panel": panel, "site": wren.Tab} {
		require.Equal(t, "undefined", tab.JS("window.hacked"), name)
		require.Equal(t, "0", tab.JS(`document.querySelectorAll("img[src=x], .words script, .words svg, .say svg[onload]").length`), name)
	}
}

func TestOddMessages(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.OpenChat()
	panel.Click("form.start button[type=submit]")
	panel.Find(".wrong :: Write your question first")
	panel.Type("[name=email]", "no address")
	panel.Type("[name=text]", "Is there room?")
	panel.Click("form.start button[type=submit]")
	panel.Find(".wrong :: This does not look like an email address")
	panel.Type("[name=email]", "wren@example.com")
	panel.Click("form.start button[type=submit]")
	panel.Find(".said.own :: Is there room?")
	maren.Click(".wait")
	for _, text := range []string{"יש מקום לאוטובוס?", "👩‍👩‍👧‍👦 🏳️‍🌈 🚢", "two\nlines", "a" + strings.Repeat("long", 300)} {
		require.NoError(t, panel.Find(".composer textarea").Focus())
		panel.Type(".composer textarea", text)
		require.NoError(t, panel.Find(".composer textarea").Type(input.Enter))
		world.Until(t, "the message arrives as it was written", func() bool {
			words := maren.Texts(".say.visitor .words p")
			return len(words) > 0 && words[len(words)-1] == text
		})
	}
	require.Equal(t, "rtl", maren.JS(`getComputedStyle([...document.querySelectorAll(".say.visitor .words p")][1]).direction`))
	require.Equal(t, "0", maren.JS(`[...document.querySelectorAll(".lane, .script, .line")].filter(e => e.scrollWidth > e.clientWidth + 1).length`), "a long word breaks the layout")

	// Far over the limit: a word says so, nothing is cut, nothing is lost.
	huge := strings.Repeat("x", 100_000)
	_, err := panel.Find(".composer textarea").Eval(`function (v) {
		Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, "value").set.call(this, v);
		this.dispatchEvent(new Event("input", { bubbles: true })); }`, huge)
	require.NoError(t, err)
	panel.Find(".counter.over :: Characters too many: 98000")
	require.NoError(t, panel.Find(".composer textarea").Type(input.Enter))
	require.Equal(t, "100000", panel.JS(`document.querySelector(".composer textarea").value.length`))
	require.Equal(t, "true", panel.JS(`document.querySelector(".composer button").disabled`))
	panel.Type(".composer textarea", strings.Repeat("y", 1950))
	panel.Find(".counter :: Characters left: 50")

	// What only the server refuses comes back into the composer.
	require.NoError(t, w.Server.Store.DB.Exec("update widgets set message_limit = 20").Error)
	w.Server.Settings.Forget()
	require.NoError(t, panel.Find(".composer textarea").Type(input.Enter))
	panel.Find(".unsent .wrong :: The message is too long")
	panel.Click(".unsent .wrong button")
	world.Until(t, "the words are back", func() bool {
		return panel.JS(`document.querySelector(".composer textarea").value.length`) == "1950"
	})
}

// The database goes away: both sides are told nothing false, keep what they
// write, and it arrives when the database is back.
func TestStoppedDatabase(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	cluster, database := testpg.Durable(t)
	w := world.On(t, database)

	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.Asks("Wren", "", "Is there room?")
	maren.Take("Wren")
	panel.Find(".event :: joined the chat")
	require.NoError(t, cluster.Crash())
	wren.Says("Written into a stopped database")
	maren.Says("Wren", "So is this")
	panel.Find(".said.unsent .receipt :: Sending")
	maren.Find(".say.unsent .mark :: Sending") // the connection itself stands
	require.NoError(t, cluster.Restart(ctx, devpg.Options{}))
	maren.Find(".say.visitor :: Written into a stopped database")
	panel.Find(".said:not(.own) :: So is this")
	panel.Gone(".unsent")
	maren.Gone(".unsent")
	require.Len(t, maren.Texts(".say .words p"), 3)
}

// The server itself is new after a restart; pages that were open go on.
func TestRestartedServer(t *testing.T) {
	t.Parallel()
	database := testpg.New(t)
	w := world.On(t, database)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	panel := wren.Asks("Wren", "", "Is there room?")
	maren.Take("Wren")
	w.Restart(t, database)
	wren.Says("After the restart")
	maren.Find(".say.visitor :: After the restart")
	maren.Says("Wren", "Welcome back")
	panel.Find(".said :: Welcome back")
}

// An operator's session that ended elsewhere leads to the login, and what was
// being typed is there afterwards.
func TestEndedSessionKeepsTheDraft(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/")
	wren.Asks("Wren", "", "Is there room?")
	maren.Take("Wren")
	maren.Type(world.Lane("Wren")+" .write textarea:not([aria-hidden])", "half an answer")
	require.NoError(t, w.Server.Store.DB.Exec("delete from sessions").Error)
	w.OperatorNet.Cut()
	w.OperatorNet.Mend()
	maren.Type("input[name=email]", world.Email(3))
	maren.Type("input[name=password]", "wrong")
	maren.Click("button[type=submit]")
	maren.Find("[role=alert] :: Email or password is wrong")
	maren.Type("input[name=password]", w.Password())
	maren.Click("button[type=submit]")
	maren.UntilLive()
	require.Equal(t, "half an answer", maren.Text(world.Lane("Wren")+" .write textarea:not([aria-hidden])"))
}
