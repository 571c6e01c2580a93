package world

import (
	"encoding/json"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

func unmarshal(text string, into any) error { return json.Unmarshal([]byte(text), into) }

// Visitor is somebody on the demo site.
type Visitor struct {
	*Tab
	world *World
	panel *Tab
}

// Go opens another page of the site.
func (v *Visitor) Go(path string) {
	v.T.Helper()
	v.panel = nil
	v.Open(v.world.SiteURL + path)
}

// launcher finds a part of the launcher, which stands in a shadow root.
func (v *Visitor) inShadow(selector string) string {
	return `[...document.querySelectorAll("stoop-chat")].map(d => d.shadowRoot?.querySelector(` + "`" + selector + "`" + `)).find(Boolean)`
}

// Frame returns an expression for the panel's frame element.
func (v *Visitor) Frame() string { return "(" + v.inShadow("iframe") + ")" }

// LauncherText returns what the launcher says.
func (v *Visitor) LauncherText() string {
	v.T.Helper()
	v.Until("the launcher", func() bool { return v.JS(v.inShadow("button")+" ? 1 : 0") == "1" })
	return v.JS(v.inShadow("button") + ".innerText")
}

// OpenChat presses the launcher and returns the panel.
func (v *Visitor) OpenChat() *Tab {
	v.T.Helper()
	require.NoError(v.T, v.launcher().Click("left", 1))
	return v.Panel()
}

// ReachForLauncher moves the mouse over the launcher and returns the panel that gets
// ready meanwhile, out of sight.
func (v *Visitor) ReachForLauncher() *Tab {
	v.T.Helper()
	require.NoError(v.T, v.launcher().Hover())
	return v.Panel()
}

func (v *Visitor) launcher() *rod.Element {
	v.T.Helper()
	v.LauncherText()
	button, err := v.Page.ElementByJS(rodEval(v.inShadow("button")))
	require.NoError(v.T, err)
	return button
}

// Card returns what the card over the launcher says; nothing if none is to be seen.
func (v *Visitor) Card() string {
	v.T.Helper()
	return v.JS(`(() => { const card = ` + v.inShadow(".card") + `; return card && !card.hidden ? card.innerText : "" })()`)
}

// AnswerCard presses a button of the card.
func (v *Visitor) AnswerCard(words string) {
	v.T.Helper()
	button, err := v.Page.ElementByJS(rodEval(`[...` + v.inShadow(".card") + `.querySelectorAll("button")].find((b) => b.innerText === "` + words + `")`))
	require.NoError(v.T, err)
	require.NoError(v.T, button.Click("left", 1))
}

// Panel returns the chat's frame, when it is loaded.
func (v *Visitor) Panel() *Tab {
	v.T.Helper()
	if v.panel != nil {
		return v.panel
	}
	v.Until("the panel's frame", func() bool { return v.JS(v.inShadow("iframe")+" ? 1 : 0") == "1" })
	// The frame's first document is an empty one, which goes when the panel comes.
	v.Until("the panel", func() bool {
		element, err := v.Page.ElementByJS(rodEval(v.inShadow("iframe")))
		if err != nil {
			return false
		}
		frame, err := element.Frame()
		if err != nil {
			return false
		}
		there, err := frame.Eval(`() => document.querySelector(".panel") !== null`)
		v.panel = &Tab{Page: frame, T: v.T}
		return err == nil && there.Value.Bool()
	})
	return v.panel
}

// Reloaded returns the chat's frame after the page around has been loaded anew.
func (v *Visitor) Reloaded() *Tab {
	v.T.Helper()
	v.panel = nil
	return v.Panel()
}

// Asks opens the chat, if it is not open, and sends a first question.
func (v *Visitor) Asks(name, email, question string) *Tab {
	v.T.Helper()
	panel := v.panel
	if panel == nil {
		panel = v.OpenChat()
	}
	panel.Find("form.start")
	if name != "" {
		panel.Type("[name=name]", name)
	}
	if email != "" {
		panel.Type("[name=email]", email)
	}
	panel.Type("[name=text]", question)
	panel.Click("form.start button[type=submit]")
	panel.Find(".log .said.own")
	return panel
}

// Says writes in the open chat and presses Enter.
func (v *Visitor) Says(text string) {
	v.T.Helper()
	panel := v.Panel()
	panel.Type(".composer textarea", text)
	require.NoError(v.T, panel.Find(".composer textarea").Type(input.Enter))
}

// Operator is somebody at the console.
type Operator struct {
	*Tab
	world *World
}

// UntilLive waits until the console is connected and has the line.
func (o *Operator) UntilLive() {
	o.T.Helper()
	o.Find(".strip [role=status]:not(.lost)")
	o.Gone(".nothing :: Loading the line")
}

// BeAvailable becomes available, if not so already.
func (o *Operator) BeAvailable() {
	o.T.Helper()
	if o.Has(".availability[aria-pressed=false]") {
		o.Click(".availability")
	}
	o.Find(".availability[aria-pressed=true]")
}

// Take takes the waiting chat of somebody.
func (o *Operator) Take(name string) {
	o.T.Helper()
	o.Click(".wait :: " + name)
	o.Find(".lane h2 :: " + name)
}

// Lane returns the selector of somebody's lane.
func Lane(name string) string { return `.lane[aria-label$="` + name + `"]` }

// Says writes in somebody's lane and presses Enter.
func (o *Operator) Says(name, text string) {
	o.T.Helper()
	// The one for replies: who stepped in a moment ago may still see that for whispers.
	field := Lane(name) + ` .write textarea[aria-label^="Reply to"]`
	o.Type(field, text)
	require.NoError(o.T, o.Find(field).Type(input.Enter))
}

// Ends ends the chat in somebody's lane.
func (o *Operator) Ends(name string) {
	o.T.Helper()
	o.Click(Lane(name) + " .lane-foot button :: End")
	o.Click(Lane(name) + " .asking button :: End it")
	o.Find(Lane(name) + " .lane-foot.ended")
}

// Field returns the selector of the field in somebody's lane.
func Field(name string) string { return Lane(name) + ` .write textarea:not([aria-hidden])` }

// Types presses the keys of a text one after the other in somebody's lane.
func (o *Operator) Types(name, text string) {
	o.T.Helper()
	require.NoError(o.T, o.Find(Field(name)).Focus())
	for _, c := range text {
		require.NoError(o.T, o.Keyboard.Type(input.Key(c)))
	}
}

// More does something from the menu of somebody's lane.
func (o *Operator) More(name, words string) {
	o.T.Helper()
	o.Click(Lane(name) + " .lane-foot button :: More")
	o.Click("[role=menuitem] :: " + words)
}

// OnMessage does something from the menu of the message with these words, once
// it is sent: before it has none.
func (o *Operator) OnMessage(words, act string) {
	o.T.Helper()
	said := o.Find(".say:has(.more) :: " + words)
	more, err := said.Element(".more")
	require.NoError(o.T, err)
	require.NoError(o.T, more.Click("left", 1))
	o.Click("[role=menuitem] :: " + act)
}

// InPreview returns what stands in the panel of a widget's preview; nothing if it is not
// there.
func (o *Operator) InPreview(selector string) string {
	o.T.Helper()
	return o.JS(`(() => {
		const page = document.querySelector(".stage iframe")?.contentDocument;
		const panel = page?.querySelector("stoop-chat")?.shadowRoot?.querySelector("iframe")?.contentDocument;
		return panel?.querySelector(` + "`" + selector + "`" + `)?.innerText ?? "";
	})()`)
}
