package e2e_test

import (
	"strconv"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// pages are the console's screens, with what shows that each is there, and what
// opens there.
var pages = []struct{ path, there, open, opened string }{
	{"/desk", ".line", "", ""}, {"/floor", ".hall", "", ""}, {"/transcripts", ".found a", ".found a", ".reader .say"}, {"/reports/overview", ".cards", "", ""}, {"/reports/when", ".heat", "", ""}, {"/reports/speed", ".percentiles, .none", "", ""}, {"/reports/who", ".operators", "", ""},
	{"/reports/what", ".breakdown", "", ""}, {"/reports/ratings", ".cards", "", ""}, {"/reports/sales", ".cards", "", ""}, {"/reports/staffing", ".roster", "", ""}, {"/feedback", ".totals", ".found a", ".reader .say"},
	{"/visitors", ".guest-table .line:not(.group)", ".guest-table .line:not(.group)", ".sheet .invite"}, {"/contacts", ".contacts .list li a", ".contacts .list li a", ".contacts .page h2"},
	{"/setup/site", ".editor .body", "", ""}, {"/setup/site-data", ".editor .body", "", ""}, {"/setup/invitations", ".editor .body", "", ""},
	{"/library", ".picker li button", ".picker li button", ".editor .placeholders"}, {"/library", ".picker footer", ".picker footer button:last-child", "[role=dialog]"},
	{"/library/articles", ".picker li button", ".picker li button", ".editor"},
	{"/setup/departments", ".editor .body", ".picker header button", ".editor"}, {"/setup/hours", ".week-list", ".picker header button", ".editor"},
	{"/setup/rules", ".rule", ".rule .summary", ".rule-body"}, {"/setup/team", ".editor .body", ".picker header button", ".editor"},
	{"/setup/retention", ".editor .going, .editor .body", "", ""}, {"/reviews", ".reviews .points", "", ""}, {"/library/said-again", ".again .meta", "", ""},
	{"/setup/desk", ".editor .body", "", ""}, {"/setup/widgets", ".editor .body", "", ""}, {"/setup/bans", ".editor .body", "", ""},
	{"/setup/dry-run", ".dry-run .period", ".dry-run .period > button", ".dry-run .figures, .dry-run .nothing"}, {"/setup/file", ".editor .choose", "", ""}, {"/setup/changes", ".editor .body", "", ""},
	{"/setup/widgets", ".editor .parts button:nth-child(4)", ".editor .parts button:nth-child(4)", ".editor .choices"}, {"/setup/widgets", ".editor .parts button:nth-child(6)", ".editor .parts button:nth-child(6)", ".editor .fields"},
}

// menuOf opens an operator's own menu and returns what stands in it.
func menuOf(o *world.Operator) []string {
	o.Click(".top .face")
	o.Find("[role=menuitem]")
	return o.Texts("[role=menuitem]")
}

// In a made-up language of long accented words, from left to right and from right
// to left, no text of ours is left in English and no control is cut off: on every
// screen, in a chat, in what lies over the page, and in the panel.
func TestMadeUpLanguagesLeaveNothingInEnglish(t *testing.T) {
	t.Parallel()
	for _, language := range []string{"en-XA", "ar-XB"} {
		t.Run(language, func(t *testing.T) {
			w := world.New(t)
			w.AroundTheClock(t)
			speaks := world.Speaks(language)
			admin := w.Person(t).Desk(world.Email(4), speaks, world.KeepsData)
			whole := func(where string, tab *world.Tab) {
				t.Helper()
				assert.Empty(t, tab.Untranslated(), where)
				assert.Empty(t, tab.Clipped(), where)
			}
			admin.BeAvailable()
			visitor := w.Person(t).Visit("/fares", speaks)
			panel := visitor.OpenChat()
			panel.Find("form.start")
			whole("the form before a chat", panel)
			panel.Type("textarea[name=text]", "123")
			panel.Click("form.start button.go")
			panel.Find(".waiting, .said")
			admin.Find(".wait")
			whole("the line", admin.Tab)
			admin.Click(".wait")
			admin.Find(".lane .write")
			panel.Find(".event")
			field := ".lane .write textarea:not([aria-hidden])"
			admin.Type(field, "456")
			require.NoError(t, admin.Find(field).Type(input.Enter))
			panel.Find(".said :: 456")
			whole("a chat in the panel", panel)
			whole("a chat on the Desk", admin.Tab)
			for _, over := range []struct {
				there string
				held  input.Key
				key   input.Key
			}{
				{".palette li", input.ControlLeft, input.KeyK}, {".sheet-keys", input.AltLeft, input.Slash},
				{"[role=dialog] [role=radiogroup]", input.AltLeft, input.KeyG}, // hand on
				{"[role=dialog] .pass", input.AltLeft, input.KeyC},             // add a colleague
				{"[role=dialog] .pass", input.AltLeft, input.KeyK},             // ask the team
				{"[role=dialog] .pass", input.AltLeft, input.KeyP},             // put back
				{"[role=dialog] .pass", input.AltLeft, input.KeyZ},             // ban
			} {
				admin.Chord(over.held, over.key)
				admin.Find(over.there)
				whole(over.there, admin.Tab)
				admin.Press(input.Escape)
				admin.Gone(over.there)
			}
			admin.Click(".lane-foot [aria-haspopup=menu]")
			admin.Find("[role=menuitem]")
			whole("what else the owner does", admin.Tab)
			admin.Press(input.Escape)
			admin.Gone("[role=menuitem]")
			admin.Click(".say .more")
			admin.Find("[role=menuitem]")
			whole("what is done with a message", admin.Tab)
			admin.Press(input.Escape)
			admin.Gone("[role=menuitem]")
			admin.Chord(input.AltLeft, input.Digit0)
			admin.Find(".talk-sheet, .talk")
			whole("the team talk", admin.Tab)
			admin.Chord(input.AltLeft, input.Digit0)
			admin.Chord(input.AltLeft, input.KeyQ)
			admin.Find(".lane-foot .asking")
			whole("the question before the end", admin.Tab)
			admin.Click(".asking button")
			admin.Find(".lane-foot.ended .wrap-up")
			panel.Click(".survey .scale button")
			panel.Find(".survey textarea")
			whole("the survey", panel)
			admin.Find(".low-ratings a")
			panel.Find(".after")
			whole("after the end", admin.Tab)
			whole("after the end, in the panel", panel)
			items := len(menuOf(admin))
			whole("my menu", admin.Tab)
			admin.Press(input.Escape)
			admin.Gone("[role=menu]")
			for i := items - 4; i < items-1; i++ { // notifications, keys, password; then one logs out
				menuOf(admin)
				admin.JS(`(() => { document.querySelectorAll("[role=menuitem]")[` + strconv.Itoa(i) + `].click(); return "" })()`)
				admin.Find("[role=dialog] button")
				whole("my menu, "+strconv.Itoa(i), admin.Tab)
				admin.Press(input.Escape)
				admin.Gone("[role=menu], [role=dialog]")
			}
			for _, page := range pages {
				admin.Turn(page.path)
				admin.Find(page.there)
				whole(page.path, admin.Tab)
				if page.open != "" {
					admin.Click(page.open)
					admin.Find(page.opened)
					whole(page.path+", "+page.open, admin.Tab)
				}
			}
			right := admin.JS(`document.documentElement.dir`) == "rtl"
			require.Equal(t, language == "ar-XB", right)
			admin.Open(w.OperatorNet.URL + "/desk")
			admin.Find(".line")
			line := admin.JS(`(() => { const r = document.querySelector(".line").getBoundingClientRect(); return r.left < innerWidth / 2 ? "left" : "right" })()`)
			require.Equal(t, map[bool]string{true: "right", false: "left"}[right], line, "the line stands where reading begins")
		})
	}
}

// A visitor and an operator of one language each speak theirs; who wants another
// one finds it in their own menu, and keeps it.
func TestGermanIsSpokenWhereItIsAskedFor(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	maren.Click(".top .face")
	maren.Click("[role=menuitem] :: Deutsch")
	maren.Find("h1 :: Pult")
	require.Equal(t, "de", maren.JS(`document.documentElement.lang`))
	wren := w.Person(t).Visit("/fares", world.Speaks("de-AT"))
	wren.Until("the launcher speaks German", func() bool { return wren.LauncherText() == "Fragen Sie den Fährschalter\nMaren ist da" })
	panel := wren.OpenChat()
	panel.Find("button.go :: Chat beginnen")
	panel.Type("textarea[name=text]", "Ist noch Platz?")
	panel.Click("form.start button.go")
	maren.Click(".wait")
	panel.Find(".event :: Maren ist jetzt im Chat")
	maren.Find(".event :: Sie haben diesen Chat nach")
	maren.Open(w.OperatorNet.URL + "/setup/team")
	maren.Find("nav a :: Einrichtung")
	maren.MustReload()
	maren.Find("nav a :: Einrichtung")

	// In another browser, where nothing was chosen, the console speaks it too.
	elsewhere := w.Person(t).Desk(world.Email(3))
	elsewhere.Find("h1 :: Pult")
	require.Equal(t, "de", elsewhere.JS(`document.documentElement.lang`))
}
