// Command bench measures Stoop, each figure beside its floor in the same run:
// what the machine itself does with the least that the task needs. It prints a
// table; ratios mean something on any machine, absolute figures only on yours.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"runtime"
	"runtime/pprof"
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
	if err := run(context.Background()); err != nil {
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
	server.CollectLessOften() // as a server does
	quiet := slog.New(slog.DiscardHandler)
	if path := os.Getenv("STOOP_BENCH_PROFILE"); path != "" {
		stop, err := profileTo(path)
		if err != nil {
			return err
		}
		defer stop()
	}

	var rows []row
	if len(os.Args) > 1 && os.Args[1] == "desk" {
		rows = everyKey()
		desk, err := busyDesk(ctx, url, data, quiet)
		if err != nil {
			return err
		}
		return show(append(rows, desk...))
	}
	if len(os.Args) > 1 && os.Args[1] == "idle" {
		rows, err := idleCrowd(ctx, url, data)
		if err != nil {
			return err
		}
		return show(rows)
	}
	if len(os.Args) > 1 && os.Args[1] == "kill" {
		rows, err := afterKills(ctx, url, data)
		if err != nil {
			return err
		}
		return show(rows)
	}
	if len(os.Args) > 1 && os.Args[1] == "offers" {
		offers, err := routingOverTheServer(ctx, url, data, quiet)
		if err != nil {
			return err
		}
		return show(offers)
	}
	if len(os.Args) > 1 && os.Args[1] == "throughput" {
		throughput, err := durableMessages(ctx, data, quiet)
		if err != nil {
			return err
		}
		return show([]row{throughput})
	}
	if len(os.Args) > 1 && os.Args[1] == "messages" {
		throughput, err := durableMessages(ctx, data, quiet)
		if err != nil {
			return err
		}
		latency, err := oneMessage(ctx, url, data, quiet)
		if err != nil {
			return err
		}
		rows = append(rows, oneArrival()...)
		offers, err := routingOverTheServer(ctx, url, data, quiet)
		if err != nil {
			return err
		}
		return show(append(append([]row{throughput, latency}, rows...), offers...))
	}
	throughput, err := durableMessages(ctx, data, quiet)
	if err != nil {
		return err
	}
	latency, err := oneMessage(ctx, url, data, quiet)
	if err != nil {
		return err
	}
	rows = append(rows, throughput, latency)
	rows = append(rows, oneArrival()...)
	overServer, err := routingOverTheServer(ctx, url, data, quiet)
	if err != nil {
		return err
	}
	rows = append(rows, overServer...)
	busy, err := busyChats(ctx, url, data, quiet)
	if err != nil {
		return err
	}
	rows = append(rows, busy...)
	after, err := afterKills(ctx, url, data)
	if err != nil {
		return err
	}
	rows = append(rows, after...)
	rows = append(rows, everyKey()...)
	desk, err := busyDesk(ctx, url, data, quiet)
	if err != nil {
		return err
	}
	rows = append(rows, desk...)
	idle, err := idleCrowd(ctx, url, data)
	if err != nil {
		return err
	}
	rows = append(rows, idle...)
	all, err := weights.Of()
	if err != nil {
		return err
	}
	for _, w := range all {
		rows = append(rows, row{w.Part, fmt.Sprintf("%.1f kB gzipped", float64(w.Bytes)/1000), "", "", fmt.Sprintf("≤ %g kB", float64(w.Limit)/1000)})
	}
	return show(rows)
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
