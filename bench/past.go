package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/url"
	"os"
	"runtime"
	"slices"
	"strconv"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"stoop/core/access"
	"stoop/core/search"
	"stoop/internal/demo"
	"stoop/internal/demo/history"
	"stoop/internal/devpg"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/transcripts"
)

// pastSizes are how many chats the past has, one after the other.
func pastSizes() []int {
	if n, err := strconv.Atoi(os.Getenv("STOOP_BENCH_PAST")); err == nil {
		return []int{n}
	}
	return []int{10_000, 100_000, 1_000_000}
}

// lookedBack measures searches and reports with a growing past, each beside the bare
// statements that it puts to the same database.
func lookedBack(ctx context.Context, cluster *devpg.Cluster, quiet *slog.Logger) (rows []row, err error) {
	for _, chats := range pastSizes() {
		more, err := lookedBackAt(ctx, cluster, chats, quiet)
		if err != nil {
			return nil, fmt.Errorf("with %d chats: %w", chats, err)
		}
		rows = append(rows, more...)
	}
	return rows, nil
}

func lookedBackAt(ctx context.Context, cluster *devpg.Cluster, chats int, quiet *slog.Logger) ([]row, error) {
	name := fmt.Sprintf("past%d", chats)
	if err := cluster.Create(ctx, name); err != nil {
		return nil, err
	}
	data, err := store.Open(cluster.URL(name), connections)
	if err != nil {
		return nil, err
	}
	defer data.Close()
	if err := data.Migrate(ctx); err != nil {
		return nil, err
	}
	if err := demo.Seed(ctx, data, []string{"http://127.0.0.1"}, time.Now()); err != nil {
		return nil, err
	}
	s, err := startServer(ctx, cluster.URL(name), quiet)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	began := time.Now()
	if err := loadPast(ctx, data, chats); err != nil {
		return nil, err
	}
	loaded := time.Since(began)
	lead, err := talker.NewOperator(ctx, s.URL, demo.Logins[3].Email, demo.Password, func([]byte) {})
	if err != nil {
		return nil, err
	}
	defer lead.Close()
	var messages int64
	if err := data.Pool().QueryRow(ctx, "select sum(visitor_lines + team_lines) from fact_chats").Scan(&messages); err != nil {
		return nil, err
	}
	of := fmt.Sprintf("%d chats, %d messages", chats, messages)
	rows := []row{{what: "taken in: " + of, ours: loaded.Round(time.Second).String(), aim: "minutes for 1,000,000"}}
	searched, err := searches(ctx, data, lead, of)
	if err != nil {
		return nil, err
	}
	reported, err := reportsOf(ctx, data, lead, of)
	if err != nil {
		return nil, err
	}
	exported, err := exportOf(ctx, lead, of)
	return append(append(append(rows, searched), reported...), exported), err
}

// exportOf measures how long an export of all chats takes, and by how much the heap of the
// server, which is this process, grows meanwhile at most.
func exportOf(ctx context.Context, lead *talker.Operator, of string) (row, error) {
	runtime.GC()
	heap := func() uint64 {
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return m.HeapAlloc
	}
	before, most := heap(), uint64(0)
	began := time.Now()
	if err := lead.Post(ctx, "/api/exports?format=jsonl&notes=true", nil, nil); err != nil {
		return row{}, err
	}
	for looks := 0; ; looks++ {
		most = max(most, heap())
		time.Sleep(20 * time.Millisecond)
		if looks%25 != 0 {
			continue
		}
		var list []transcripts.Export
		if err := lead.Get(ctx, "/api/exports", &list); err != nil {
			return row{}, err
		}
		switch list[0].State {
		case "done":
			grown := float64(max(most, before)-before) / (1 << 20)
			return row{what: "export of all: " + of, ours: fmt.Sprintf("%.1f s, %.0f MB", time.Since(began).Seconds(), grown), aim: "the same memory at any size"}, nil
		case "failed":
			return row{}, errors.New("the export failed")
		}
	}
}

// loadPast fills a database with a past of a team as large as the chats want.
func loadPast(ctx context.Context, data *store.Store, chats int) error {
	now := time.Now()
	c, err := demo.PastConfig(ctx, data, "http://127.0.0.1", chats, now)
	if err != nil {
		return err
	}
	for i := range chats / 12_000 {
		o := settings.Operator{ID: uuid.NewString(), Email: fmt.Sprintf("bench%d@example.com", i), Name: fmt.Sprintf("Bench %d", i), Role: access.Operator, PasswordHash: "-"}
		if err := settings.On(data).AddOperator(ctx, o); err != nil {
			return err
		}
		c.Team = append(c.Team, history.Member{ID: o.ID, Name: o.Name, Departments: []int{history.Help, history.Bookings, history.Freight}, Capacity: 4, Pace: 1})
	}
	last := time.Now()
	return demo.LoadPast(ctx, data, c, func(l facts.Loading) {
		if time.Since(last) > 15*time.Second {
			last = time.Now()
			fmt.Fprintf(os.Stderr, "bench: %d of %d chats\n", l.Done, l.Total)
		}
	})
}

// looked are searches as people type them: rare words and common ones, phrases, names.
var looked = []string{"minibus", "group minibus", `"group fare"`, "KF-20417", "kelpwick", "castellane", "wren*", "refund -ill", "wheelchair OR kennel", "gas cylinders", "storm", "thank you", `"lorry deck"`, "sørvig", "caravan northholm"}

func percentile(list []time.Duration, p float64) time.Duration {
	slices.Sort(list)
	return list[int(p*float64(len(list)-1)+0.5)]
}

// askedRounds is how often each search and report is asked.
const askedRounds = 12

func searches(ctx context.Context, data *store.Store, lead *talker.Operator, of string) (row, error) {
	var ours, floor []time.Duration
	ask := func(words string) error {
		began := time.Now()
		if err := lead.Get(ctx, "/api/transcripts?words="+url.QueryEscape(words), nil); err != nil {
			return err
		}
		ours = append(ours, time.Since(began))
		return nil
	}
	bare := func(words string) error {
		q, err := search.Parse(words)
		if err != nil {
			return err
		}
		began := time.Now()
		if err := bareSearch(ctx, data, q.TSQuery()); err != nil {
			return err
		}
		floor = append(floor, time.Since(began))
		return nil
	}
	random := rand.New(rand.NewPCG(1, 1))
	for i := range askedRounds + 1 {
		if i == 1 {
			ours, floor = nil, nil // the first round warms up
		}
		for _, at := range random.Perm(len(looked)) {
			if err := ask(looked[at]); err != nil {
				return row{}, err
			}
			if err := bare(looked[at]); err != nil {
				return row{}, err
			}
		}
	}
	a, b := percentile(ours, 0.95), percentile(floor, 0.95)
	return row{"search, p95: " + of, ms(a), ms(b), ratio(a, b), "≤ 1.3 ×"}, nil
}

// bareSearch puts the statements of a search to the database, and reads all rows.
func bareSearch(ctx context.Context, data *store.Store, query string) error {
	const found = "from fact_chats f join chat_search w on w.chat_id = f.chat_id and w.words @@ $1::text::tsquery where not f.gone"
	ids, err := data.IDs(ctx, "select f.chat_id::text "+found+" order by f.arrived_at desc, f.chat_id desc limit 51", query)
	if err != nil {
		return err
	}
	for _, statement := range []string{
		"select * from chats left join marks on marks.chat_id = chats.id where id = any($1::uuid[])",
		`select chat_id, number, kind, at, side, party_id, text, up_to, detail from (select *, row_number() over (partition by chat_id order by number) as nth from events
			where chat_id = any($1::uuid[]) and kind in ('said', 'shared', 'corrected', 'withdrawn', 'refused', 'noted', 'summarised', 'rated')) e where nth <= 400 order by chat_id, number`,
	} {
		if err := drain(ctx, data, statement, ids); err != nil {
			return err
		}
	}
	return drain(ctx, data, "select count(*) from (select 1 "+found+" limit 10001) part", query)
}

func drain(ctx context.Context, data *store.Store, statement string, args ...any) error {
	rows, err := data.Pool().Query(ctx, statement, args...)
	if err != nil {
		return err
	}
	for rows.Next() {
		if _, err := rows.Values(); err != nil {
			return err
		}
	}
	return rows.Err()
}

// reportsOf measures the reports of a whole year: the one that is opened first, and the
// slowest.
func reportsOf(ctx context.Context, data *store.Store, lead *talker.Operator, of string) (rows []row, err error) {
	to := time.Now()
	year := "from=" + to.AddDate(-1, 0, -1).Format(time.DateOnly) + "&to=" + to.Format(time.DateOnly) + "&against=none"
	zone := "Europe/Copenhagen"
	for _, r := range []struct{ name, path, key string }{
		{"a year by week", "/api/reports?by=date&zone=" + zone + "&" + year, "to_char(date_trunc('week', (f.arrived_at at time zone '" + zone + "')), 'YYYY-MM-DD')"},
		{"a year by department", "/api/reports?by=department&" + year, "coalesce(f.department_id::text, '-')"},
		{"a year in one total", "/api/reports?" + year, "''"},
	} {
		var ours, floor []time.Duration
		for i := range askedRounds {
			began := time.Now()
			if err := lead.Get(ctx, r.path, nil); err != nil {
				return nil, err
			}
			middle := time.Now()
			if err := bareReport(ctx, data, r.key, to.AddDate(-1, 0, -1), to); err != nil {
				return nil, err
			}
			if i > 0 {
				ours, floor = append(ours, middle.Sub(began)), append(floor, time.Since(middle))
			}
		}
		a, b := percentile(ours, 0.5), percentile(floor, 0.5)
		rows = append(rows, row{"report, " + r.name + ": " + of, ms(a), ms(b), ratio(a, b), "≤ 1.3 ×, < 1 s"})
	}
	return rows, nil
}

// bareReport puts the statements of a report to the database, as many beside each other
// as the server does.
func bareReport(ctx context.Context, data *store.Store, key string, from, to time.Time) error {
	const counts = `count(*), count(*) filter (where f.ending = 'answered'), count(*) filter (where f.ending = 'missed'), count(*) filter (where f.ending = 'message'), count(f.kept_s) filter (where f.ending = 'message'),
		count(*) filter (where f.in_target), count(f.in_target), sum(f.replies), sum(f.on_time), sum(f.active_s + f.wrap_s), count(*) filter (where f.active_s > 0), count(*) filter (where f.hand_ons > 0), sum(f.hand_ons),
		count(*) filter (where f.surveyed), count(*) filter (where f.rating = 1), count(*) filter (where f.rating = 2), count(*) filter (where f.rating = 3), count(*) filter (where f.rating = 4), count(*) filter (where f.rating = 5),
		count(*) filter (where f.invited <> ''), count(f.sale_cents)`
	const within = " from fact_chats f where f.arrived_at >= $1 and f.arrived_at < $2"
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(3)
	statements := []string{
		"select " + key + " as key, " + counts + within + " group by key order by key",
		"select " + key + " as key, f.sale_currency, sum(f.sale_cents)" + within + " and f.sale_cents is not null group by key, f.sale_currency order by key",
	}
	for _, column := range []string{"f.wait_s", "f.first_s", "f.later_s"} {
		statements = append(statements, "select "+key+" as key, "+column+" as value, count(*)"+within+" and "+column+" is not null and f.ending <> 'message' group by key, value order by key, value")
	}
	for _, statement := range statements {
		work.Go(func() error { return drain(ctx, data, statement, from, to) })
	}
	return work.Wait()
}

func ms(d time.Duration) string { return fmt.Sprintf("%.1f ms", float64(d)/float64(time.Millisecond)) }
