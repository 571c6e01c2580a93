package main

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/e2e/process"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
)

const (
	idlePanels = 2000 // panels with a live connection, of which nobody writes
	openPages  = 2000 // pages of the site that pulse and follow whether the team is in
	pulseEvery = 25 * time.Second
	// siteAddress is the site that the widget of the bench may stand on.
	siteAddress = "http://127.0.0.1"
	settlesFor  = 65 * time.Second
	idleFor     = 50 * time.Second // two pulses of each page
)

// idleCrowd measures what a server of its own costs while 2,000 panels are connected
// and 2,000 pages are open, and nobody says anything: memory of each, processor time
// and statements.
func idleCrowd(ctx context.Context, databaseURL string, data *store.Store) ([]row, error) {
	dir, err := os.MkdirTemp("", "stoop-bench-idle-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	server, err := process.New(ctx, dir, databaseURL, "STOOP_VISITOR_REQUESTS_PER_MINUTE=1000000", "STOOP_DATABASE_CONNECTIONS=10")
	if err != nil {
		return nil, err
	}
	if err := server.Start(ctx); err != nil {
		return nil, err
	}
	defer server.Kill() // nothing of it is needed
	empty, err := memoryOf(server.PID())
	if err != nil {
		return nil, err
	}

	panels := make([]*talker.Visitor, 0, idlePanels)
	defer func() {
		for _, p := range panels {
			p.Close()
		}
	}()
	for i := range idlePanels {
		// From several addresses: one may not connect so often.
		from := net.IPv4(127, 0, 1, byte(1+i/200))
		p, err := talker.HookedVisitor(ctx, server.URL, demo.WidgetKey, talker.Hooks{From: from})
		if err != nil {
			return nil, err
		}
		panels = append(panels, p)
	}
	withPanels, err := memoryOf(server.PID())
	if err != nil {
		return nil, err
	}

	open, closePages := context.WithCancel(ctx)
	defer closePages()
	failed := make(chan error, openPages)
	for i := range openPages {
		visit := uuid.NewString()
		if err := pulse(open, server.URL, visit); err != nil {
			return nil, err
		}
		if err := follow(open, server.URL); err != nil {
			return nil, err
		}
		go func() {
			// Spread over the time between two pulses, as visitors come.
			next := time.NewTimer(pulseEvery * time.Duration(i) / openPages)
			defer next.Stop()
			for {
				select {
				case <-open.Done():
					return
				case <-next.C:
				}
				if err := pulse(open, server.URL, visit); err != nil && open.Err() == nil {
					failed <- err
					return
				}
				next.Reset(pulseEvery)
			}
		}()
	}
	withPages, err := memoryOf(server.PID())
	if err != nil {
		return nil, err
	}

	// PostgreSQL counts what an idle connection did up to a minute later.
	if err := pause(ctx, failed, settlesFor); err != nil {
		return nil, err
	}
	before, err := spent(ctx, server.PID(), data)
	if err != nil {
		return nil, err
	}
	began := time.Now()
	if err := pause(ctx, failed, idleFor); err != nil {
		return nil, err
	}
	after, err := spent(ctx, server.PID(), data)
	if err != nil {
		return nil, err
	}
	seconds := time.Since(began).Seconds()
	return []row{
		{"an idle panel with a live connection, of 2,000", fmt.Sprintf("%.0f kB", float64(withPanels-empty)/idlePanels), "", "", ""},
		{"an open page that pulses, of 2,000", fmt.Sprintf("%.0f kB", float64(withPages-withPanels)/openPages), "", "", ""},
		{"both at once: processor", fmt.Sprintf("%.0f %% of a core", 100*(after.processor-before.processor)/seconds), "", "", ""},
		{"both at once: transactions", fmt.Sprintf("%.0f a second", (after.transactions-before.transactions)/seconds), fmt.Sprintf("%.0f pulses a second", openPages/pulseEvery.Seconds()), fmt.Sprintf("%.1f ×", (after.transactions-before.transactions)/seconds/(openPages/pulseEvery.Seconds())), ""},
	}, nil
}

// pause waits, unless something fails.
func pause(ctx context.Context, failed <-chan error, pause time.Duration) error {
	over := time.NewTimer(pause)
	defer over.Stop()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
		return ctx.Err()
	case <-over.C:
		return nil
	}
}

// pulse says that a page is open.
func pulse(ctx context.Context, base, visit string) error {
	page := fmt.Sprintf(`{"tab":%q,"url":"http://127.0.0.1/fares","title":"Fares","language":"en"}`, visit)
	answer, err := fromSite(ctx, http.MethodPost, base+"/widget/"+demo.WidgetKey+"/pulse", strings.NewReader(page))
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	said, _ := io.ReadAll(answer.Body) // for the words below
	if answer.StatusCode != http.StatusOK {
		return fmt.Errorf("a pulse was answered with %s: %s", answer.Status, said)
	}
	return nil
}

// follow keeps a page's stream open until the context ends.
func follow(ctx context.Context, base string) error {
	address := base + "/live/page/" + demo.WidgetKey + "?cf_connect=" + url.QueryEscape(`{"id":1,"connect":{}}`)
	answer, err := fromSite(ctx, http.MethodGet, address, nil)
	if err != nil {
		return err
	}
	if answer.StatusCode != http.StatusOK {
		answer.Body.Close()
		return fmt.Errorf("a page's stream was answered with %s", answer.Status)
	}
	go func() {
		defer answer.Body.Close()
		_, _ = io.Copy(io.Discard, answer.Body) // ends with the context
	}()
	return nil
}

// fromSite asks as a page of the demo site does.
func fromSite(ctx context.Context, method, address string, body io.Reader) (*http.Response, error) {
	request, err := http.NewRequestWithContext(ctx, method, address, body)
	if err != nil {
		return nil, err
	}
	request.Header.Set("Origin", siteAddress)
	return http.DefaultClient.Do(request)
}

// cost is what a process has spent so far.
type cost struct {
	processor    float64 // seconds
	transactions float64
}

func spent(ctx context.Context, pid int, data *store.Store) (cost, error) {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return cost{}, err
	}
	// After the name in brackets: user and system time are the 14th and 15th of all,
	// in hundredths of a second (proc(5)).
	fields := strings.Fields(string(stat[bytes.LastIndexByte(stat, ')')+1:]))
	user, err := strconv.ParseFloat(fields[11], 64)
	if err != nil {
		return cost{}, err
	}
	system, err := strconv.ParseFloat(fields[12], 64)
	if err != nil {
		return cost{}, err
	}
	var transactions float64
	err = data.DB.WithContext(ctx).Raw("select xact_commit + xact_rollback from pg_stat_database where datname = current_database()").Scan(&transactions).Error
	return cost{processor: (user + system) / 100, transactions: transactions}, err
}

// memoryOf returns how many kB of memory a process has resident.
func memoryOf(pid int) (int, error) {
	status, err := os.Open(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0, err
	}
	defer status.Close()
	lines := bufio.NewScanner(status)
	for lines.Scan() {
		if kB, is := strings.CutPrefix(lines.Text(), "VmRSS:"); is {
			return strconv.Atoi(strings.TrimSpace(strings.TrimSuffix(kB, "kB")))
		}
	}
	return 0, fmt.Errorf("process %d tells no memory: %w", pid, lines.Err())
}
