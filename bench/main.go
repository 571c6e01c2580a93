// Command bench measures Stoop, each figure beside its floor in the same run:
// what the machine itself does with the least that the task needs. It prints a
// table; ratios mean something on any machine, absolute figures only on yours.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"os"
	"runtime"
	"runtime/pprof"
	"slices"
	"strconv"
	"strings"
	"text/tabwriter"
	"time"

	"stoop/bench/weights"
	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/server"
	"stoop/internal/store"
)

// connections to the database, the same for Stoop and for the floor.
const connections = 20

type row struct{ what, ours, floor, ratio, aim string }

func main() {
	do := run
	if len(os.Args) == 4 && os.Args[1] == consolesCommand {
		do = func(ctx context.Context) error {
			count, err := strconv.Atoi(os.Args[3])
			if err != nil {
				return err
			}
			return beConsoles(ctx, os.Args[2], count)
		}
	}
	if len(os.Args) == 4 && os.Args[1] == barePagesCommand {
		do = func(ctx context.Context) error { return beBarePages(ctx, os.Args[2]) }
	}
	if err := do(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	dir, err := os.MkdirTemp("", "stoop-bench-*")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		return err
	}
	// As durable as in earnest: fsync and synchronous_commit are on.
	cluster, err := devpg.Start(ctx, dir, devpg.Options{})
	if err != nil {
		return err
	}
	defer cluster.Stop()
	if err := cluster.Create(ctx, "stoop"); err != nil {
		return err
	}
	url := cluster.URL("stoop")
	data, err := store.Open(url, connections)
	if err != nil {
		return err
	}
	defer data.Close()
	if err := data.Migrate(ctx); err != nil {
		return err
	}
	if err := demo.Seed(ctx, data, []string{"http://127.0.0.1"}, time.Now()); err != nil {
		return err
	}
	// Open at all hours, so that no figure depends on when it is taken.
	if err := data.DB.Exec("update departments set hours_id = null").Error; err != nil {
		return err
	}
	if err := data.DB.Exec("create table bench_floor (id uuid primary key, chat_id uuid not null, text text not null, at timestamptz not null)").Error; err != nil {
		return err
	}
	server.CollectLessOften(ctx) // as a server does
	quiet := slog.New(slog.DiscardHandler)
	if path := os.Getenv("STOOP_BENCH_PROFILE"); path != "" {
		stop, err := profileTo(path)
		if err != nil {
			return err
		}
		defer stop()
	}

	parts := map[string]func() ([]row, error){
		"throughput": func() ([]row, error) { return alone(durableMessages(ctx, data, quiet)) },
		"latency":    func() ([]row, error) { return alone(oneMessage(ctx, url, data, quiet)) },
		"arrival":    func() ([]row, error) { return oneArrival(), nil },
		"offers":     func() ([]row, error) { return routingOverTheServer(ctx, url, data, quiet) },
		"busy":       func() ([]row, error) { return busyChats(ctx, url, data, quiet) },
		"kill":       func() ([]row, error) { return afterKills(ctx, url, data) },
		"keys":       func() ([]row, error) { return everyKey(), nil },
		"articles":   func() ([]row, error) { return searchedArticles(ctx, cluster, quiet) },
		"helper":     func() ([]row, error) { return answeredQuestions(ctx, cluster) },
		"desk":       func() ([]row, error) { return busyDesk(ctx, url, data, quiet) },
		"idle":       func() ([]row, error) { return idleCrowd(ctx, url, data) },
		"visitors":   func() ([]row, error) { return watchedSite(ctx, url, data) },
		"watching":   func() ([]row, error) { return watchingConsole(ctx, url, cluster, quiet) },
		"reports":    func() ([]row, error) { return pageReports(ctx, url, cluster, data, quiet) },
		"past":       func() ([]row, error) { return lookedBack(ctx, cluster, quiet) },
		"weights":    weighed,
	}
	wanted := []string{"throughput", "latency", "offers", "arrival", "busy", "kill", "keys", "articles", "helper", "desk", "idle", "visitors", "watching", "reports", "past", "weights"}
	switch {
	case len(os.Args) > 1 && os.Args[1] == "messages":
		wanted = []string{"throughput", "latency", "offers", "arrival"}
	case len(os.Args) > 1:
		wanted = os.Args[1:]
	}
	var rows []row
	for _, name := range wanted {
		measure, known := parts[name]
		if !known {
			return fmt.Errorf("nothing to measure is called %q; there are: messages, %s", name, strings.Join(slices.Sorted(maps.Keys(parts)), ", "))
		}
		// What the part before left behind is not measured with this one: garbage, and
		// 250,000 messages that PostgreSQL would go on writing for minutes.
		runtime.GC()
		if err := data.DB.Exec("checkpoint").Error; err != nil {
			return err
		}
		more, err := measure()
		if err != nil {
			return fmt.Errorf("measuring %s: %w", name, err)
		}
		rows = append(rows, more...)
	}
	return show(rows)
}

func alone(r row, err error) ([]row, error) { return []row{r}, err }

func weighed() (rows []row, err error) {
	all, err := weights.Of()
	for _, w := range all {
		rows = append(rows, row{w.Part, fmt.Sprintf("%.1f kB gzipped", float64(w.Bytes)/1000), "", "", fmt.Sprintf("≤ %g kB", float64(w.Limit)/1000)})
	}
	return rows, err
}

// profileTo writes what Stoop's own code costs to a file that go tool pprof reads.
func profileTo(path string) (stop func(), err error) {
	file, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	if err := pprof.StartCPUProfile(file); err != nil {
		return nil, errors.Join(err, file.Close())
	}
	return func() {
		pprof.StopCPUProfile()
		if err := file.Close(); err != nil {
			fmt.Fprintln(os.Stderr, "bench: the profile is not whole:", err)
		}
	}, nil
}

func show(rows []row) error {
	fmt.Printf("%d cores, %s, PostgreSQL on loopback with %d connections, fsync on\n\n", runtime.NumCPU(), runtime.Version(), connections)
	table := tabwriter.NewWriter(os.Stdout, 0, 0, 3, ' ', 0)
	fmt.Fprintln(table, "what\tStoop\tfloor in the same run\tratio\taim")
	for _, r := range rows {
		fmt.Fprintf(table, "%s\t%s\t%s\t%s\t%s\n", r.what, r.ours, r.floor, r.ratio, r.aim)
	}
	return table.Flush()
}
