package world

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/cdp"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

var blank = proto.TargetCreateTarget{URL: "about:blank"}

// Tab is a page or a frame within one, used as a person would.
type Tab struct {
	*rod.Page
	T testing.TB
}

// Open goes to an address and waits until it is there.
func (p *Tab) Open(address string) {
	p.T.Helper()
	require.NoError(p.T, p.Navigate(address))
	require.NoError(p.T, p.Page.Timeout(Patience).WaitLoad())
}

// Turn goes to another page of the console as its own links do: nothing is loaded anew.
func (p *Tab) Turn(path string) {
	p.T.Helper()
	p.JS(`(() => { history.pushState({}, "", "` + path + `"); dispatchEvent(new PopStateEvent("popstate", { state: {} })); return "" })()`)
}

// Front brings the tab to the front, as one does before using it.
func (p *Tab) Front() {
	p.T.Helper()
	_, err := p.Activate()
	require.NoError(p.T, err)
}

// Find waits for an element. A selector may name a text it must hold after
// " :: ".
func (p *Tab) Find(selector string) *rod.Element {
	p.T.Helper()
	css, text, withText := strings.Cut(selector, " :: ")
	page := p.Page.Timeout(Patience)
	look := func() (*rod.Element, error) {
		if withText {
			return page.ElementR(css, quote(text))
		}
		return page.Element(css)
	}
	e, err := look()
	if turning(err) {
		p.Until("the page that was being loaded", func() bool {
			e, err = look()
			return !turning(err)
		})
	}
	if err != nil {
		p.Snap(filepath.Join(os.TempDir(), "stoop-"+strings.ReplaceAll(p.T.Name(), "/", "-")+".png"))
		body, _ := p.Eval(`() => document.body.innerText`)
		said := ""
		if body != nil {
			said = body.Value.Str()
		}
		p.T.Fatalf("%q did not appear: %v\nThe page says:\n%s", selector, err, said)
	}
	return e
}

// turning reports whether a browser could not look because the page was being loaded
// anew at that moment: it is no answer.
func turning(err error) bool {
	var from *cdp.Error
	if !errors.As(err, &from) {
		return false
	}
	return slices.ContainsFunc([]string{"navigated or closed", "Not attached to an active page", "Cannot find context"}, func(words string) bool {
		return strings.Contains(from.Message, words)
	})
}

// See waits for an element that a person can see: drawn, with a size, within the
// window, and not covered there by something else.
func (p *Tab) See(selector string) *rod.Element {
	p.T.Helper()
	var e *rod.Element
	p.Until("the sight of "+selector, func() bool {
		e = p.Find(selector)
		seen, err := e.Eval(`() => {
			const box = this.getBoundingClientRect();
			const x = box.left + box.width / 2, y = box.top + box.height / 2;
			if (box.width < 1 || box.height < 1 || box.left < 0 || box.top < 0 || box.right > innerWidth || box.bottom > innerHeight) return false;
			for (let at = this; at; at = at.parentElement) {
				const style = getComputedStyle(at);
				if (style.visibility !== "visible" || Number(style.opacity) < 0.5) return false;
			}
			const top = document.elementFromPoint(x, y);
			return top !== null && (this.contains(top) || top.contains(this));
		}`)
		return err == nil && seen.Value.Bool()
	})
	return e
}

// quote makes a text a pattern that matches just it.
func quote(text string) string {
	return strings.NewReplacer(`\`, `\\`, `.`, `\.`, `*`, `\*`, `+`, `\+`, `?`, `\?`, `(`, `\(`, `)`, `\)`, `[`, `\[`, `]`, `\]`, `{`, `\{`, `}`, `\}`, `|`, `\|`, `^`, `\^`, `$`, `\$`, `/`, `\/`).Replace(text)
}

// Has reports whether an element is there now.
func (p *Tab) Has(selector string) bool {
	css, text, withText := strings.Cut(selector, " :: ")
	var has bool
	if withText {
		has, _, _ = p.HasR(css, quote(text))
	} else {
		has, _, _ = p.Page.Has(css)
	}
	return has
}

// Gone waits until there is no such element.
func (p *Tab) Gone(selector string) {
	p.T.Helper()
	p.Until("no "+selector, func() bool { return !p.Has(selector) })
}

// Until waits for a condition.
func (p *Tab) Until(what string, is func() bool) {
	p.T.Helper()
	Until(p.T, what, is)
}

// Until waits for a condition. It asks in the goroutine of the test, since
// only there a condition may itself end the test by what it does not find.
func Until(t testing.TB, what string, is func() bool) {
	t.Helper()
	again := time.NewTicker(25 * time.Millisecond)
	defer again.Stop()
	for end := time.Now().Add(Patience); !is(); <-again.C {
		if time.Now().After(end) {
			t.Fatalf("waited %s in vain for: %s", Patience, what)
		}
	}
}

// Text returns what an element says, or what is typed in a field. The page may
// draw the element anew in between; then it is looked for again.
func (p *Tab) Text(selector string) string {
	p.T.Helper()
	var text string
	p.Until("the text of "+selector, func() bool {
		var err error
		text, err = p.Find(selector).Text()
		return err == nil
	})
	return text
}

// Attribute returns an attribute that an element must have.
func (p *Tab) Attribute(selector, name string) string {
	p.T.Helper()
	value, err := p.Find(selector).Attribute(name)
	require.NoError(p.T, err)
	require.NotNil(p.T, value, "%s has no %s", selector, name)
	return *value
}

// Add types at the end of what stands in a field.
func (p *Tab) Add(selector, text string) {
	p.T.Helper()
	require.NoError(p.T, p.Find(selector).Input(text), selector)
}

// Choose gives files to a file field.
func (p *Tab) Choose(selector string, files ...string) {
	p.T.Helper()
	require.NoError(p.T, p.Find(selector).SetFiles(files), selector)
}

// standsStill reports whether an element can be pressed and is where it was two drawings before. A
// busy machine draws seldom; a tab that is not in view does not draw, so that a
// moment is enough there.
const standsStill = `async () => {
	const place = () => { const r = this.getBoundingClientRect(); return [r.left, r.top, r.width, r.height].join() };
	const drawn = () => new Promise(done => { requestAnimationFrame(() => done()); setTimeout(done, 250) });
	const before = place();
	await drawn(); await drawn();
	return this.isConnected && !this.disabled && place() === before;
}`

// Click presses an element with the mouse, when it stands still: a person does
// not press what is just moving away.
func (p *Tab) Click(selector string) {
	p.T.Helper()
	var e *rod.Element
	p.Until(selector+" to stand still", func() bool {
		e = p.Find(selector).Timeout(Patience)
		if err := e.ScrollIntoView(); err != nil {
			return false
		}
		still, err := e.Eval(standsStill)
		return err == nil && still.Value.Bool()
	})
	require.NoError(p.T, e.Click(proto.InputMouseButtonLeft, 1), selector)
}

// Type replaces what stands in a field, as one who types or pastes.
func (p *Tab) Type(selector, text string) {
	p.T.Helper()
	e := p.Find(selector)
	require.NoError(p.T, e.Focus())
	require.NoError(p.T, e.SelectAllText())
	require.NoError(p.T, e.Input(text), selector)
}

// Press presses keys one after the other.
func (p *Tab) Press(keys ...input.Key) {
	p.T.Helper()
	for _, k := range keys {
		require.NoError(p.T, p.Keyboard.Type(k))
	}
}

// Chord presses a key while another is held.
func (p *Tab) Chord(held, key input.Key) {
	p.T.Helper()
	require.NoError(p.T, p.KeyActions().Press(held).Type(key).Do())
}

// JS evaluates an expression to a string.
func (p *Tab) JS(expression string) string {
	p.T.Helper()
	got, err := p.Eval("async () => String(" + expression + ")")
	require.NoError(p.T, err)
	return got.Value.Str()
}

// Texts returns the texts of all elements.
func (p *Tab) Texts(selector string) []string {
	p.T.Helper()
	got, err := p.Eval(`s => JSON.stringify([...document.querySelectorAll(s)].map(e => e.innerText.trim()))`, selector)
	require.NoError(p.T, err)
	var texts []string
	require.NoError(p.T, unmarshal(got.Value.Str(), &texts))
	return texts
}

// Size sets the size of the window.
func (p *Tab) Size(width, height int) {
	p.T.Helper()
	require.NoError(p.T, p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1, Mobile: width < 600}))
}

// Snap writes a picture of the window to a file.
func (p *Tab) Snap(file string) {
	p.T.Helper()
	picture, err := p.Page.Timeout(Patience).Screenshot(false, nil)
	if err == nil {
		err = os.WriteFile(file, picture, 0o644)
	}
	if err != nil {
		p.T.Logf("no picture: %v", err)
	}
}

func rodEval(expression string) *rod.EvalOptions { return rod.Eval("() => " + expression) }
