package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"

	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/server"
	"stoop/internal/standin/booking"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
)

// The console that looks at everybody as the row says: 10,000 visitors, of whom some
// change page all the time.
const (
	watchedByConsole = 10_000
	pageChanges      = 330 // a second: each of them every thirty seconds
	pagesTraced      = 20
)

// scrolls scrolls an element as a wheel does and returns how long each frame took.
const scrolls = `async (selector) => {
	const box = document.querySelector(selector), frames = [];
	let before = await new Promise(requestAnimationFrame);
	const until = before + 6000;
	for (let down = 1; before < until; ) {
		box.scrollTop += 40 * down;
		if (box.scrollTop + box.clientHeight >= box.scrollHeight - 100) down = -1;
		if (box.scrollTop < 100) down = 1;
		const now = await new Promise(requestAnimationFrame);
		frames.push(now - before);
		before = now;
	}
	return frames;
}`

// inBrowser runs what looks through a real browser.
func inBrowser(ctx context.Context, look func(*rod.Browser)) error {
	l := launcher.New().Bin("/usr/bin/chromium").Leakless(false).Headless(true).NoSandbox(os.Getuid() == 0).
		Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").Set("disable-gpu").
		Set("user-agent", "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Safari/537.36")
	address, err := l.Launch()
	if err != nil {
		return err
	}
	defer l.Cleanup()
	defer l.Kill()
	browser := rod.New().ControlURL(address).Context(ctx)
	if err := browser.Connect(); err != nil {
		return err
	}
	defer browser.Close()
	return rod.Try(func() { look(browser.Timeout(5 * time.Minute)) })
}

// watchingConsole measures the Visitors screen with 10,000 in view, who move. The
// floor is a plain list of as many lines, and an empty page with a field.
func watchingConsole(ctx context.Context, url string, cluster *devpg.Cluster, log *slog.Logger) (rows []row, err error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	ctx, leave := context.WithCancel(ctx)
	var moving sync.WaitGroup
	defer moving.Wait()
	defer leave()
	pages := make([]*talker.Page, watchedByConsole)
	if err := each(len(pages), 32, func(i int) error {
		pages[i] = talker.NewPage(s.URL, demo.WidgetKey, siteAddress, siteAddress+"/fares", "Fares")
		_, err := pages[i].Pulse(ctx)
		return err
	}); err != nil {
		return nil, err
	}
	var failed atomic.Int64
	moving.Go(func() {
		tick := time.NewTicker(time.Second / pageChanges)
		defer tick.Stop()
		for i := 0; ; i++ {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
			p := pages[i%len(pages)]
			if err := p.Go(ctx, fmt.Sprintf("%s/page/%d", siteAddress, i%40), fmt.Sprintf("Page %d", i%40)); err != nil && ctx.Err() == nil {
				failed.Add(1)
			}
		}
	})
	// The server, its visitors and the database give way to the browser, as it has a
	// machine of its own.
	err = inBrowser(ctx, func(b *rod.Browser) {
		must(giveWay(cluster))
		rows = measureWatching(b, s)
	})
	if err == nil && failed.Load() > 0 {
		err = fmt.Errorf("%d changes of page failed", failed.Load())
	}
	return rows, err
}

func measureWatching(b *rod.Browser, s *server.Server) []row {
	bare := b.MustPage("data:text/html,<input autofocus><div id=list style='height:700px;overflow:auto'></div>")
	bare.MustSetViewport(1280, 800, 1, false)
	bare.MustEval(fmt.Sprintf(`() => { document.querySelector("#list").innerHTML = "<p>Visitor, Kelpwick, Fares, 0:12</p>".repeat(%d); }`, watchedByConsole))
	floorFrames := frames(bare, "#list")
	bare.MustElement("input").MustFocus()
	bare.MustEval(timeKeys)
	floorKeys := pressKeys(bare, 60)

	page := b.MustPage(s.URL + "/visitors")
	page.MustSetViewport(1280, 800, 1, false)
	page.MustElement("input[name=email]").MustInput(demo.Logins[3].Email)
	page.MustElement("input[name=password]").MustInput(demo.Password)
	page.MustElement("button[type=submit]").MustClick()
	page.MustWait(fmt.Sprintf(`() => Number((document.querySelector(".visitors header p")?.innerText ?? "").replace(/\D.*$/, "").replace(",", "")) > 9 && (document.querySelector(".visitors header p")?.innerText ?? "").replace(/[^0-9].*/, "") !== "" && Number(document.querySelector(".visitors header p").innerText.replace(/,/g, "").match(/\d+/)[0]) >= %d`, watchedByConsole*9/10))
	page.MustElementR(".grouping label", "None").MustClick()
	page.MustWait(`() => document.querySelectorAll(".guest-table .line:not(.group)").length > 10`)
	ours := frames(page, page.MustEval(`() => {
		const inner = [...document.querySelectorAll(".guest-table, .guest-table *")].find((e) => e.scrollHeight > 50000 && getComputedStyle(e).overflowY !== "visible");
		inner.id = "scrolled";
		return "#scrolled";
	}`).Str())
	page.MustElement(".filters input[type=search]").MustFocus()
	page.MustEval(timeKeys)
	keys := pressKeys(page, 60)
	slices.Sort(keys)
	slices.Sort(floorKeys)
	p95 := func(list []time.Duration) time.Duration { return list[len(list)*95/100] }
	return []row{
		{"console with 10,000 visitors who move: frames dropped while scrolling at 2,400 px a second", share(ours), share(floorFrames) + ", a plain list of 10,000", "", "< 1 %"},
		{"the same: key to paint in the search, p95", milliseconds(p95(keys)), milliseconds(p95(floorKeys)) + ", an empty page with a field", ratio(p95(keys), p95(floorKeys)), "< 50 ms"},
	}
}

func frames(page *rod.Page, selector string) (list []float64) {
	for _, f := range page.MustEval(scrolls, selector).Arr() {
		list = append(list, f.Num())
	}
	return list
}

// share returns what part of the frames of a scroll did not come, at sixty a second.
func share(list []float64) string {
	const frame = 1000.0 / 60
	due, dropped := 0.0, 0.0
	for _, f := range list {
		n := max(1, float64(int(f/frame+0.5)))
		due, dropped = due+n, dropped+n-1
	}
	return fmt.Sprintf("%.1f %%", 100*dropped/due)
}

// pageReports measures what a change of page costs the main thread of the site's page,
// by the browser's own tracing: all that runs of Stoop's scripts.
func pageReports(ctx context.Context, url string, cluster *devpg.Cluster, data *store.Store, log *slog.Logger) (rows []row, err error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	handler, err := demo.SiteHandler(s.URL, booking.New(time.UTC, time.Now), log)
	if err != nil {
		return nil, err
	}
	site := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = site.Serve(listener) }() // ends with the measure
	defer site.Close()
	if err := data.DB.Exec(`update widgets set sites = jsonb_build_array(?::text)`, demo.SiteURL(listener.Addr())).Error; err != nil {
		return nil, err
	}
	defer data.DB.Exec(`update widgets set sites = '["http://127.0.0.1"]'`)
	s.Settings.Forget()
	err = inBrowser(ctx, func(b *rod.Browser) {
		must(giveWay(cluster))
		page := b.MustPage(demo.SiteURL(listener.Addr()) + "/fares")
		page.MustWait(`() => [...document.querySelectorAll("stoop-chat")].some(d => d.shadowRoot?.querySelector("button"))`)
		costs := traced(page)
		rows = []row{{"a change of page, told to Stoop: main thread of the site's page, mean and most", fmt.Sprintf("%.2f ms, %.2f ms", mean(costs), slices.Max(costs)), "", "", "< 3 ms"}}
	})
	return rows, err
}

func mean(list []float64) float64 {
	sum := 0.0
	for _, v := range list {
		sum += v
	}
	return sum / float64(len(list))
}

// traced changes the page some times, as single-page sites do, and returns for each
// how many milliseconds Stoop's scripts ran.
func traced(page *rod.Page) []float64 {
	var mu sync.Mutex
	var starts []float64
	var runs []traceEvent
	done := make(chan struct{})
	stop := page.EachEvent(func(e *proto.TracingDataCollected) {
		mu.Lock()
		defer mu.Unlock()
		for _, raw := range e.Value {
			data, err := json.Marshal(raw)
			var t traceEvent
			if err != nil || json.Unmarshal(data, &t) != nil {
				continue
			}
			switch {
			case t.Name == "TimeStamp" && strings.HasPrefix(t.Args.Data.Message, "stoop-bench"):
				starts = append(starts, t.Start)
			case (t.Name == "FunctionCall" || t.Name == "EvaluateScript" || t.Name == "v8.callFunction") && strings.Contains(t.Args.Data.URL, "/stoop"):
				runs = append(runs, t)
			}
		}
	}, func(*proto.TracingTracingComplete) bool { close(done); return true })
	go stop()
	must(proto.TracingStart{Categories: "devtools.timeline,v8", TransferMode: proto.TracingStartTransferModeReportEvents}.Call(page))
	for i := range pagesTraced {
		page.MustEval(`(n) => { console.timeStamp("stoop-bench"); history.pushState({}, "", "/fares?" + n); document.title = "Fares " + n; }`, i)
		time.Sleep(1200 * time.Millisecond)
	}
	must(proto.TracingEnd{}.Call(page))
	<-done
	mu.Lock()
	defer mu.Unlock()
	slices.Sort(starts)
	costs := make([]float64, len(starts))
	for _, r := range runs {
		for i := len(starts) - 1; i >= 0; i-- {
			if r.Start >= starts[i] {
				costs[i] += r.Duration / 1000
				break
			}
		}
	}
	if len(costs) == 0 {
		panic("the browser's trace has no marks")
	}
	return costs
}

func must(err error) {
	if err != nil {
		panic(err)
	}
}

// traceEvent is one of the browser's trace; times are in microseconds.
type traceEvent struct {
	Name     string  `json:"name"`
	Start    float64 `json:"ts"`
	Duration float64 `json:"dur"`
	Args     struct {
		Data struct {
			URL     string `json:"url"`
			Message string `json:"message"`
		} `json:"data"`
	} `json:"args"`
}
