package e2e_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
)

// hosts are pages of sites that make it hard to stand on them. The snippet takes the
// place of %s.
var hosts = map[string]struct{ html, policy string }{
	"plain": {html: "<!doctype html><html lang=en><title>Plain</title><body><h1>Plain</h1>%s</body></html>"},
	"hostile styles": {html: `<!doctype html><html lang=en><title>Hostile</title><style>
		* { color: lime !important; background: black !important; font: 40px/3 fantasy !important; box-sizing: content-box !important; letter-spacing: 9px !important; }
		iframe, button, div, stoop-chat { display: none !important; width: 1px !important; transform: rotate(9deg) !important; opacity: .2 !important; border: 9px solid red !important; }
		body { zoom: 1.5; filter: blur(2px); perspective: 10px; overflow: hidden; } html { font-size: 3px !important; }
		</style><body><h1>Hostile</h1>%s</body></html>`},
	"quirks mode":         {html: "<html lang=en><title>Quirks</title><body><h1>Quirks</h1>%s</body></html>"},
	"right to left":       {html: "<!doctype html><html lang=en dir=rtl><title>RTL</title><body><h1>RTL</h1>%s</body></html>"},
	"the line twice":      {html: "<!doctype html><html lang=en><title>Twice</title><body><h1>Twice</h1>%[1]s%[1]s</body></html>"},
	"a strict policy":     {html: "<!doctype html><html lang=en><title>Strict</title><body><h1>Strict</h1>%s</body></html>", policy: "default-src 'none'; base-uri 'none'; form-action 'none'"},
	"in the head":         {html: "<!doctype html><html lang=en><head><title>Head</title>%s</head><body><h1>Head</h1></body></html>"},
	"a page that scrolls": {html: "<!doctype html><html lang=en><title>Long</title><body style='height: 9000px'><h1>Long</h1>%s<script>scrollTo(0, 500)</script></body></html>"},
}

// On whatever page it stands, the panel looks the same to the last dot, and a chat begins.
func TestOnHardPagesThePanelLooksAndWorksTheSame(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	line := fmt.Sprintf(`<script src="%s/stoop.js" data-key="%s" async></script>`, w.VisitorNet.URL, demo.WidgetKey)
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		page, known := hosts[r.URL.Query().Get("page")]
		if !known {
			http.NotFound(rw, r)
			return
		}
		if page.policy != "" {
			u := w.VisitorNet.URL
			rw.Header().Set("Content-Security-Policy", fmt.Sprintf("%s; script-src %s; connect-src %s; frame-src %s", page.policy, u, u, u))
		}
		fmt.Fprintf(rw, page.html, line)
	}))
	t.Cleanup(site.Close)
	siteURL := strings.Replace(site.URL, "127.0.0.1", "localhost", 1)
	require.NoError(t, w.Server.Store.DB.Exec("update widgets set version = version + 1, sites = sites || to_jsonb(?::text) where key = ?", siteURL, demo.WidgetKey).Error)
	w.Server.Settings.Forget()

	plain := panelOn(t, w, siteURL, "plain")
	for name := range hosts {
		if name == "plain" {
			continue
		}
		here := panelOn(t, w, siteURL, name)
		require.Equal(t, plain.Bounds().Size(), here.Bounds().Size(), name)
		require.Less(t, differing(plain, here), 0.002, "%s: the panel looks different", name)
	}
}

// panelOn opens the chat on a page, looks at the panel, and begins a chat.
func panelOn(t *testing.T, w *world.World, siteURL, name string) image.Image {
	t.Helper()
	visitor := w.Person(t).At(siteURL + "/?page=" + strings.ReplaceAll(name, " ", "%20"))
	panel := visitor.OpenChat()
	panel.Find("form.start")
	visitor.Until("who is in", func() bool { return strings.Contains(panel.Text("header p"), "Maren") })
	// With the focus where the visitor writes; its caret is a few dots that blink.
	panel.Until("the focus", func() bool { return panel.JS(`document.activeElement.tagName`) == "TEXTAREA" })
	box := visitor.JS(`(() => { const r = document.querySelector("stoop-chat").shadowRoot.querySelector("iframe").getBoundingClientRect(); return [r.x + scrollX, r.y + scrollY, r.width, r.height].join(" ") })()`)
	var x, y, width, height float64
	_, err := fmt.Sscan(box, &x, &y, &width, &height)
	require.NoError(t, err)
	require.Equal(t, 380.0, width, name)
	// Without the edge, whose rounded corners let the page through.
	const edge = 12
	data, err := visitor.Page.Screenshot(false, &proto.PageCaptureScreenshot{
		Format: proto.PageCaptureScreenshotFormatPng,
		Clip:   &proto.PageViewport{X: x + edge, Y: y + edge, Width: width - 2*edge, Height: height - 2*edge, Scale: 1},
	})
	require.NoError(t, err)
	picture, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	if folder := os.Getenv("STOOP_SNAPS"); folder != "" {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name+".png"), data, 0o600))
	}
	visitor.Asks("Wren", "", "Does it work on "+name+"?")
	panel.Find(".waiting")
	return picture
}

// differing returns the share of dots that differ between two pictures of one size.
func differing(a, b image.Image) float64 {
	size, n := a.Bounds().Size(), 0
	for y := range size.Y {
		for x := range size.X {
			if a.At(a.Bounds().Min.X+x, a.Bounds().Min.Y+y) != b.At(b.Bounds().Min.X+x, b.Bounds().Min.Y+y) {
				n++
			}
		}
	}
	return float64(n) / float64(size.X*size.Y)
}

// A site that changes pages without loading them keeps the chat, which follows; and the
// patterns of pages hold there too.
func TestOnASiteThatChangesPagesByScript(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	require.NoError(t, w.Server.Store.DB.Exec(`update widgets set version = version + 1, hide_on = '["/pay*"]' where key = ?`, demo.WidgetKey).Error)
	w.Server.Settings.Forget()
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	visitor := w.Person(t).Visit("/fares")
	shown := func() string {
		return visitor.JS(`getComputedStyle(document.querySelector("stoop-chat")).display`)
	}
	visitor.LauncherText()
	require.Equal(t, "block", shown())
	visitor.JS(`(history.pushState({}, "", "/pay"), "")`)
	visitor.Until("it leaves the page where it is hidden", func() bool { return shown() == "none" })
	visitor.JS(`(history.pushState({}, "", "/help"), "")`)
	visitor.Until("it is back", func() bool { return shown() == "block" })
	visitor.Asks("Wren", "", "Am I still here?")
	visitor.JS(`(history.pushState({}, "", "/pay"), document.title = "Paying", "")`)
	maren.Take("Wren")
	maren.Until("the operator sees where they are", func() bool { return maren.JS(`document.body.innerText.includes("Paying")`) == "true" })
	require.Equal(t, "block", shown(), "a chat that is under way is hidden nowhere")
}
