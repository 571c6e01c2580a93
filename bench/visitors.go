package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/centrifugal/centrifuge"
	"github.com/golang-jwt/jwt/v5"
	"github.com/google/uuid"

	"stoop/e2e/process"
	"stoop/internal/demo"
	"stoop/internal/site"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
)

const (
	barePagesCommand = "be-bare-pages"
	changesPageEvery = 30 * time.Second
	watchedFor       = 45 * time.Second
)

// crowdSizes are how many visitors there are, so that growth is seen.
var crowdSizes = []int{1000, 3000, 10_000}

func init() {
	if n, err := strconv.Atoi(os.Getenv("STOOP_BENCH_VISITORS")); err == nil && n > 0 {
		crowdSizes = []int{n} // that size alone
	}
}

// watchedSite measures what it costs to watch a site: visitors who hold a stream and
// change page every thirty seconds, and a console that looks on. The floor is as many
// bare connections of the same kind, which only ping.
func watchedSite(ctx context.Context, databaseURL string, data *store.Store) (rows []row, err error) {
	for _, n := range crowdSizes {
		bare, err := barePages(ctx, n)
		if err != nil {
			return rows, fmt.Errorf("%d bare connections: %w", n, err)
		}
		ours, err := watchedCrowd(ctx, databaseURL, data, n)
		if err != nil {
			return rows, fmt.Errorf("%d visitors: %w", n, err)
		}
		aim := func(text string) string {
			if n == crowdSizes[len(crowdSizes)-1] {
				return text
			}
			return ""
		}
		rows = append(rows,
			row{fmt.Sprintf("a visitor on the site, of %d: memory", n), fmt.Sprintf("%.0f kB", ours.memory), fmt.Sprintf("%.0f kB", bare), fmt.Sprintf("%.1f ×", ours.memory/bare), aim("≤ 2 ×")},
			row{fmt.Sprintf("%d visitors, each on another page every 30 s: processor", n), fmt.Sprintf("%.0f %% of a core", 100*ours.processor), "", "", aim("< 50 %")},
			row{fmt.Sprintf("%d visitors: a change seen by a console, p50 and p99", n), fmt.Sprintf("%.0f ms, %.0f ms", ours.p50, ours.p99), "", "", aim("p99 ≤ 2,000 ms")},
		)
	}
	return rows, nil
}

type crowdCost struct {
	memory    float64 // kB a visitor
	processor float64 // of a core
	p50, p99  float64 // ms
}

func watchedCrowd(ctx context.Context, databaseURL string, data *store.Store, n int) (cost crowdCost, err error) {
	dir, err := os.MkdirTemp("", "stoop-bench-visitors-*")
	if err != nil {
		return cost, err
	}
	defer os.RemoveAll(dir)
	server, err := process.New(ctx, dir, databaseURL, "STOOP_VISITOR_REQUESTS_PER_MINUTE=100000000", "STOOP_DATABASE_CONNECTIONS=10")
	if err != nil {
		return cost, err
	}
	if err := server.Start(ctx); err != nil {
		return cost, err
	}
	defer server.Kill() // nothing of it is needed
	console, err := newWatcher(ctx, server.URL)
	if err != nil {
		return cost, err
	}
	defer console.o.Close()
	empty, err := memoryOf(server.PID())
	if err != nil {
		return cost, err
	}
	ctx, leave := context.WithCancel(ctx)
	defer leave()
	pages := make([]*talker.Page, n)
	failed := make(chan error, n)
	if err := each(n, 32, func(i int) error {
		p := talker.NewPage(server.URL, demo.WidgetKey, siteAddress, siteAddress+"/fares", "Fares")
		pages[i] = p
		if _, err := p.Pulse(ctx); err != nil {
			return err
		}
		return followTab(ctx, server.URL, p.Now.Tab)
	}); err != nil {
		return cost, err
	}
	for i, p := range pages {
		go changePages(ctx, p, i, n, failed)
	}
	if err := pause(ctx, failed, changesPageEvery); err != nil {
		return cost, err
	}
	before, err := spent(ctx, server.PID(), data)
	if err != nil {
		return cost, err
	}
	began := time.Now()
	waits, err := console.changes(ctx, pages[0], watchedFor, failed)
	if err != nil {
		return cost, err
	}
	after, err := spent(ctx, server.PID(), data)
	if err != nil {
		return cost, err
	}
	full, err := memoryOf(server.PID())
	if err != nil {
		return cost, err
	}
	slices.Sort(waits)
	cost = crowdCost{
		memory: float64(full-empty) / float64(n), processor: (after.processor - before.processor) / time.Since(began).Seconds(),
		p50: inMilliseconds(waits[len(waits)/2]), p99: inMilliseconds(waits[min(len(waits)-1, len(waits)*99/100)]),
	}
	return cost, nil
}

// each does something so many times, some of them at once.
func each(n, atOnce int, do func(int) error) error {
	var all sync.WaitGroup
	slots := make(chan struct{}, atOnce)
	errs := make(chan error, n)
	for i := range n {
		slots <- struct{}{}
		all.Go(func() {
			defer func() { <-slots }()
			errs <- do(i)
		})
	}
	all.Wait()
	close(errs)
	for err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// changePages goes to another page every thirty seconds, each visitor at a time of
// their own.
func changePages(ctx context.Context, p *talker.Page, i, n int, failed chan<- error) {
	if i == 0 {
		return // the one that is measured
	}
	next := time.NewTimer(changesPageEvery * time.Duration(i) / time.Duration(n))
	defer next.Stop()
	for step := 0; ; step++ {
		select {
		case <-ctx.Done():
			return
		case <-next.C:
		}
		path := demo.Pages[(i+step)%len(demo.Pages)]
		if err := p.Go(ctx, siteAddress+path.Path, path.Title); err != nil && ctx.Err() == nil {
			failed <- err
			return
		}
		next.Reset(changesPageEvery)
	}
}

// followTab holds a page's stream until the context ends.
func followTab(ctx context.Context, base, tab string) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, base+"/live/page/"+demo.WidgetKey+"?tab="+tab+"&cf_connect=%7B%22id%22%3A1%2C%22connect%22%3A%7B%7D%7D", nil)
	if err != nil {
		return err
	}
	request.Header.Set("Origin", siteAddress)
	return hold(request)
}

// hold sends a request and reads its answer until it ends.
func hold(request *http.Request) error {
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return err
	}
	if answer.StatusCode != http.StatusOK {
		answer.Body.Close()
		return fmt.Errorf("a stream was answered with %s", answer.Status)
	}
	go func() {
		defer answer.Body.Close()
		_, _ = io.Copy(io.Discard, answer.Body) // ends with the context
	}()
	return nil
}

// watcher is a console that looks at all visitors, grouped by page.
type watcher struct {
	o    *talker.Operator
	mu   sync.Mutex
	seen map[string]time.Time // titles of the one that is measured
}

func newWatcher(ctx context.Context, base string) (*watcher, error) {
	w := &watcher{seen: map[string]time.Time{}}
	o, err := talker.NewOperator(ctx, base, demo.Logins[0].Email, demo.Password, func(message []byte) {
		var moved site.SiteMoved
		if !strings.Contains(string(message), `"type":"site"`) || json.Unmarshal(message, &moved) != nil || moved.Open == nil {
			return
		}
		w.mu.Lock()
		defer w.mu.Unlock()
		if _, before := w.seen[moved.Open.Guest.PageTitle]; !before {
			w.seen[moved.Open.Guest.PageTitle] = time.Now()
		}
	})
	w.o = o
	return w, err
}

// changes lets one visitor go from page to page, and returns how long each change took
// to be seen.
func (w *watcher) changes(ctx context.Context, p *talker.Page, for_ time.Duration, failed <-chan error) (waits []time.Duration, err error) {
	look := site.Look{ID: "bench", Group: "page", Sort: "interest", To: 60, Map: true, Open: subjectOf(p.Now.Token)}
	if err := w.o.Call(ctx, "look", look, nil); err != nil {
		return nil, err
	}
	for until := time.Now().Add(for_); time.Now().Before(until); {
		title := uuid.NewString()
		said := time.Now()
		if err := p.Go(ctx, siteAddress+"/fares/"+title, title); err != nil {
			return nil, err
		}
		if err := pause(ctx, failed, 700*time.Millisecond+time.Duration(len(waits)%10)*31*time.Millisecond); err != nil {
			return nil, err
		}
		wait := 30 * time.Second // not seen in time
		for range 100 {
			w.mu.Lock()
			at, seen := w.seen[title]
			w.mu.Unlock()
			if seen {
				wait = at.Sub(said)
				break
			}
			if err := pause(ctx, failed, 50*time.Millisecond); err != nil {
				return nil, err
			}
		}
		waits = append(waits, wait)
	}
	return waits, nil
}

// barePages measures the memory of bare connections of the same kind, in kB each, in a
// process of their own.
func barePages(ctx context.Context, n int) (float64, error) {
	self, err := os.Executable()
	if err != nil {
		return 0, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	address := listener.Addr().String()
	if err := listener.Close(); err != nil {
		return 0, err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	server := exec.CommandContext(ctx, self, barePagesCommand, address, "0")
	server.Stderr = os.Stderr
	if err := server.Start(); err != nil {
		return 0, err
	}
	defer func() {
		stop()
		_ = server.Wait() // it was killed
	}()
	if err := untilListens(ctx, address); err != nil {
		return 0, err
	}
	empty, err := memoryOf(server.Process.Pid)
	if err != nil {
		return 0, err
	}
	if err := each(n, 32, func(int) error {
		request, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+address+"/?cf_connect=%7B%22id%22%3A1%2C%22connect%22%3A%7B%7D%7D", nil)
		if err != nil {
			return err
		}
		return hold(request)
	}); err != nil {
		return 0, err
	}
	if err := pause(ctx, nil, changesPageEvery); err != nil {
		return 0, err
	}
	full, err := memoryOf(server.Process.Pid)
	return float64(full-empty) / float64(n), err
}

func untilListens(ctx context.Context, address string) error {
	for range 100 {
		c, err := net.Dial("tcp", address)
		if err == nil {
			return c.Close()
		}
		if err := pause(ctx, nil, 50*time.Millisecond); err != nil {
			return err
		}
	}
	return errors.New("the bare server does not listen")
}

// beBarePages serves streams of a bare centrifuge that ping, and nothing else.
func beBarePages(ctx context.Context, address string) error {
	node, err := centrifuge.New(centrifuge.Config{LogLevel: centrifuge.LogLevelError, LogHandler: func(e centrifuge.LogEntry) { slog.Error(e.Message) }})
	if err != nil {
		return err
	}
	node.OnConnecting(func(context.Context, centrifuge.ConnectEvent) (centrifuge.ConnectReply, error) {
		return centrifuge.ConnectReply{
			Credentials:   &centrifuge.Credentials{UserID: ""},
			Subscriptions: map[string]centrifuge.SubscribeOptions{"widget:" + strconv.Itoa(1): {}, "page:" + uuid.NewString(): {}},
		}, nil
	})
	if err := node.Run(); err != nil {
		return err
	}
	handler := centrifuge.NewSSEHandler(node, centrifuge.SSEConfig{PingPongConfig: centrifuge.PingPongConfig{PingInterval: 25 * time.Second, PongTimeout: -1}})
	server := &http.Server{Addr: address, Handler: handler, ReadHeaderTimeout: 10 * time.Second}
	return server.ListenAndServe()
}

// subjectOf reads whose token it is.
func subjectOf(token string) string {
	var claims jwt.RegisteredClaims
	_, _, _ = jwt.NewParser().ParseUnverified(token, &claims) // it is ours
	return claims.Subject
}

func inMilliseconds(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }
