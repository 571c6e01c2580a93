package demo

import (
	"context"
	"fmt"
	"strings"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/chatlog"
	"stoop/internal/demo/history"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/transcripts"
)

// PastChats is how many chats of the last year the demo has.
const PastChats = 20_000

// former are colleagues who have left since.
var former = []Login{
	{access.Operator, "Hedda Lunde", "hedda@example.com", []string{"en", "da"}},
	{access.Operator, "Kasper Eide", "kasper@example.com", []string{"en", "no"}},
}

// PastConfig returns the past of the demo that is in a database: a year until the last
// midnight. The same day gives the same past.
func PastConfig(ctx context.Context, s *store.Store, site string, chats int, now time.Time) (history.Config, error) {
	zone, err := time.LoadLocation(TimeZone)
	if err != nil {
		return history.Config{}, err
	}
	local := now.In(zone)
	until := time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, zone)
	c := history.Config{
		Seed: 7, Chats: chats, From: until.AddDate(-1, 0, 0), Until: until, Zone: zone, Site: site,
		Invitations: []string{"5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0001", "5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0002"},
	}
	widget, err := settings.On(s).WidgetByKey(ctx, WidgetKey)
	if err != nil {
		return c, err
	}
	c.WidgetID = widget.ID
	departments, err := settings.On(s).Departments(ctx)
	if err != nil {
		return c, err
	}
	for i, name := range []string{TravelHelp, Bookings, Freight} {
		for _, d := range departments {
			if d.Name == name {
				c.Departments[i] = history.Department{ID: d.ID, Name: d.Name, Target: d.TargetSeconds}
			}
		}
	}
	if err := addFormer(ctx, s, c.From); err != nil {
		return c, err
	}
	team, err := settings.On(s).Operators(ctx)
	if err != nil {
		return c, err
	}
	byEmail := map[string]settings.Operator{}
	for _, o := range team {
		byEmail[o.Email] = o
	}
	help, book, fright := history.Help, history.Bookings, history.Freight
	for _, m := range []struct {
		email        string
		departments  []int
		capacity     int
		pace, warmth float64
		from, to     time.Time
	}{
		{"maren@example.com", []int{help, book}, 3, 0.85, 0.25, time.Time{}, time.Time{}},
		{"idris@example.com", []int{help, book}, 4, 0.95, 0.1, time.Time{}, time.Time{}},
		{"tove@example.com", []int{help, book, fright}, 4, 1.05, 0, c.From.AddDate(0, 1, 0), time.Time{}},
		{"sunniva@example.com", []int{help, fright}, 3, 1.2, -0.1, time.Time{}, time.Time{}},
		{"hedda@example.com", []int{help, book}, 3, 1.0, 0.05, time.Time{}, c.From.AddDate(0, 5, 12)},
		{"kasper@example.com", []int{fright, help}, 2, 1.4, -0.35, time.Time{}, c.From.AddDate(0, 8, 3)},
	} {
		o := byEmail[m.email]
		c.Team = append(c.Team, history.Member{ID: o.ID, Name: o.Name, Departments: m.departments, Capacity: m.capacity, Pace: m.pace, Warmth: m.warmth, From: m.from, To: m.to})
	}
	return c, nil
}

// addFormer adds the colleagues who have left, if they are not there.
func addFormer(ctx context.Context, s *store.Store, since time.Time) error {
	tables := settings.On(s)
	for _, l := range former {
		if _, err := tables.OperatorByEmail(ctx, l.Email); err == nil {
			continue
		}
		id := uuid.NewString()
		left := settings.Operator{ID: id, Email: l.Email, Name: l.Name, Role: l.Role, PasswordHash: "-", CreatedAt: since, Languages: l.Languages}
		if err := tables.SaveOperator(ctx, left, nil); err != nil {
			return fmt.Errorf("storing a former colleague: %w", err)
		}
	}
	return nil
}

// pastAtOnce is how many chats are stored in one transaction.
const pastAtOnce = 1000

// pastKey is the setting in which it stands how far the demo's past is: the day before
// which it ends, and whether all of it is there.
const pastKey = "demo_past"

// SeedPast gives a demo its past, and tells how far it is. One that was cut off goes on
// where it was.
func SeedPast(ctx context.Context, s *store.Store, site string, chats int, now time.Time, progress func(facts.Loading)) error {
	begun := now.Format(time.DateOnly)
	before, err := s.Setting(ctx, pastKey, begun)
	if err != nil || strings.HasPrefix(before, "done ") {
		return err
	}
	day, err := time.Parse(time.DateOnly, before)
	if err != nil {
		return fmt.Errorf("reading how far the demo's past is: %w", err)
	}
	c, err := PastConfig(ctx, s, site, chats, day.Add(12*time.Hour))
	if err != nil {
		return err
	}
	if err := LoadPast(ctx, s, c, progress); err != nil {
		return err
	}
	return settings.On(s).SaveSetting(ctx, pastKey, before, "done "+before)
}

// LoadPast stores a past, with all that follows from it, and tells how far it is. What
// of it is there already is left as it is.
func LoadPast(ctx context.Context, s *store.Store, c history.Config, progress func(facts.Loading)) error {
	all, err := settings.On(s).Departments(ctx)
	if err != nil {
		return err
	}
	rules := facts.Rules(&settings.Settings{Departments: byID(all)})
	batches := make(chan []history.Chat, 2)
	work, ctxOfWork := errgroup.WithContext(ctx)
	work.Go(func() error {
		defer close(batches)
		return makePast(ctxOfWork, c, batches)
	})
	total := int64(c.Chats)
	var done atomic.Int64
	for range storedBeside {
		work.Go(func() error {
			for batch := range batches {
				if err := storeOnce(ctxOfWork, s, rules, batch); err != nil {
					return fmt.Errorf("storing the past: %w", err)
				}
				progress(facts.Loading{Done: min(done.Add(int64(len(batch))), total-1), Total: total})
			}
			return nil
		})
	}
	if err := work.Wait(); err != nil {
		return err
	}
	if err := facts.On(s).RecountAll(ctx); err != nil {
		return err
	}
	// What the database expects of the tables decides how it searches them.
	for _, table := range []string{"chats", "events", "fact_chats", "fact_operators", "fact_quarters", "fact_busy", "chat_search"} {
		if _, err := s.Pool().Exec(ctx, "analyze "+table); err != nil {
			return err
		}
	}
	progress(facts.Loading{Done: total, Total: total})
	return nil
}

func byID(list []settings.Department) map[string]settings.Department {
	found := map[string]settings.Department{}
	for _, d := range list {
		found[d.ID] = d
	}
	return found
}

func makePast(ctx context.Context, c history.Config, batches chan<- []history.Chat) error {
	var batch []history.Chat
	send := func() error {
		select {
		case batches <- batch:
			batch = nil
			return nil
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	for one, err := range c.All() {
		if err != nil {
			return err
		}
		if batch = append(batch, one); len(batch) == pastAtOnce {
			if err := send(); err != nil {
				return err
			}
		}
	}
	return send()
}

// storedBeside is how many batches are stored beside each other.
const storedBeside = 2

// storeOnce stores some chats of the past, unless they are there.
func storeOnce(ctx context.Context, s *store.Store, rules measure.Rules, batch []history.Chat) error {
	if len(batch) == 0 {
		return nil
	}
	there, err := chatlog.On(s).Chats(ctx, []string{batch[0].ID})
	if err != nil || len(there) > 0 {
		return err
	}
	return pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error { return storePast(ctx, tx, rules, batch) })
}

// storePast stores some chats of the past with what follows from them.
func storePast(ctx context.Context, tx pgx.Tx, rules measure.Rules, batch []history.Chat) error {
	var visitors [][]any
	var past []chatlog.Past
	var logs []facts.Log
	words := make(map[string][]chat.Event, len(batch))
	for _, c := range batch {
		visitors = append(visitors, []any{c.VisitorID, c.WidgetID, c.Name, c.Email, c.Log[0].At})
		read := chat.Mark{Delivered: int64(len(c.Log)), Seen: int64(len(c.Log))}
		past = append(past, chatlog.Past{
			Chat:   chatlog.Chat{ID: c.ID, WidgetID: c.WidgetID, VisitorID: c.VisitorID, StartClientID: "past", Name: c.Name, Email: c.Email, Language: c.Language},
			Events: c.Log, Marks: chat.Marks{ByVisitor: read, ByTeam: read},
		})
		logs = append(logs, facts.Log{Of: facts.Of{ChatID: c.ID, WidgetID: c.WidgetID, VisitorID: c.VisitorID, Language: c.Language}, Events: c.Log})
		words[c.ID] = c.Log
	}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"visitors"}, []string{"id", "widget_id", "name", "email", "created_at"}, pgx.CopyFromRows(visitors)); err != nil {
		return err
	}
	if err := chatlog.AddPast(ctx, tx, past); err != nil {
		return err
	}
	if err := facts.AddPast(ctx, tx, rules, logs); err != nil {
		return err
	}
	return transcripts.AddPast(ctx, tx, words)
}
