// Package page_test measures what the chat costs the page that carries it, and how soon
// it can be used, on a CPU that is slowed down to a quarter. What is a matter of time is
// printed and not judged; what is not must hold.
package page_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
)

const slowdown = 4

// watch notes what the browser says of layout shifts and of tasks over 50 ms, from the
// page's beginning, and in the panel when the form was painted.
const watch = `
	window.__shift = 0; window.__long = [];
	new PerformanceObserver((list) => { for (const e of list.getEntries()) window.__shift += e.value }).observe({ type: "layout-shift", buffered: true });
	new MutationObserver((_, seen) => { if (document.querySelector("form.start textarea")) { seen.disconnect(); requestAnimationFrame(() => setTimeout(() => window.__form = performance.timeOrigin + performance.now())) } }).observe(document, { childList: true, subtree: true });
	new PerformanceObserver((list) => { for (const e of list.getEntries()) window.__long.push([Math.round(e.duration), e.attribution[0]?.containerType ?? ""].join(" ")) }).observe({ type: "longtask", buffered: true });`

func TestWhatThePagePays(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	line := fmt.Sprintf(`<script src="%s/stoop.js" data-key="%s" async></script>`, w.VisitorNet.URL, demo.WidgetKey)
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		chat := line
		if r.URL.Path == "/bare" {
			chat = ""
		}
		fmt.Fprintf(rw, "<!doctype html><html lang=en><title>Shop</title><body><h1>Shop</h1>%s%s</body></html>", strings.Repeat("<p>Words of a page of some length, as a site has it.</p>", 200), chat)
	}))
	t.Cleanup(site.Close)
	siteURL := strings.Replace(site.URL, "127.0.0.1", "localhost", 1)
	require.NoError(t, w.Server.Store.DB.Exec("update widgets set version = version + 1, sites = sites || to_jsonb(?::text) where key = ?", siteURL, demo.WidgetKey).Error)
	w.Server.Settings.Forget()
	// Once with nothing measured: files are read and code is compiled for the first time.
	w.Person(t).At(siteURL + "/").OpenChat().Find("form.start")

	// The page with the chat on this machine as it is, and without it on a slow one.
	usual := w.Person(t).At(siteURL+"/", watch)
	usual.Until("who is in", func() bool { return strings.Contains(usual.LauncherText(), "Maren") })
	t.Logf("tasks over 50 ms on the page, CPU as it is: %q (aim: none)", usual.JS(`window.__long.join(", ")`))
	bare := w.Person(t).At("about:blank", watch)
	slow(t, bare.Tab)
	bare.Open(siteURL + "/bare")
	bare.Until("the page", func() bool { return bare.JS("document.readyState") == "complete" })
	without := bare.JS(`window.__long.join(", ")`)

	visitor := w.Person(t).At("about:blank", watch)
	slow(t, visitor.Tab)
	visitor.Open(siteURL + "/")
	visitor.Until("who is in", func() bool { return strings.Contains(visitor.LauncherText(), "Maren") })
	requests := visitor.JS(fmt.Sprintf(`performance.getEntriesByType("resource").map((e) => e.name).filter((n) => n.startsWith(%q) && !n.endsWith("/stoop.js") && !n.includes("/live/")).map((n) => new URL(n).pathname).join(" ")`, w.VisitorNet.URL))
	require.LessOrEqual(t, len(strings.Fields(requests)), 1, "before the chat is opened the page asks once, beside the live connection: %s", requests)
	require.Equal(t, "0", visitor.JS("window.__shift"), "nothing on the page moves")

	// From the press to the form in which the visitor can write.
	visitor.JS(`(window.__pressed = 0, document.querySelector("stoop-chat").shadowRoot.querySelector("button").addEventListener("click", () => window.__pressed = performance.timeOrigin + performance.now(), { capture: true }), "")`)
	panel := visitor.OpenChat()
	panel.Find("form.start textarea")
	panel.Until("the focus", func() bool { return panel.JS("document.activeElement.tagName") == "TEXTAREA" })
	ready := panel.JS("window.__form")
	pressed := visitor.JS("window.__pressed")
	var from, to float64
	_, err := fmt.Sscan(pressed+" "+ready, &from, &to)
	require.NoError(t, err)
	require.Equal(t, "0", visitor.JS("window.__shift"), "nor does anything when the chat opens")
	t.Logf("on a CPU %d× slower: from the press to the form on screen %.0f ms (aim: under 300)", slowdown, to-from)
	t.Logf("tasks over 50 ms on the page, CPU %d× slower: %q; on a page without the chat: %q", slowdown, visitor.JS(`window.__long.join(", ")`), without)
}

func slow(t *testing.T, tab *world.Tab) {
	t.Helper()
	require.NoError(t, proto.EmulationSetCPUThrottlingRate{Rate: slowdown}.Call(tab.Page))
}
