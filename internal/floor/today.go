package floor

import (
	"context"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/alert"
)

// Within is how many chats of today were taken within the answer target.
type Within struct {
	Within  int64 // taken within the target
	Decided int64 // taken, missed, or waiting beyond the target
}

// Within returns how many chats of today are decided against the answer target, and how
// many of these were taken within it.
func (room *Room) Within(ctx context.Context) (within, decided int64, err error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return 0, 0, err
	}
	now := room.Now()
	today, err := room.Tables.Today(ctx, room.midnight(now), now, s.Targets())
	for _, w := range today {
		within += w.Within
		decided += w.Decided
	}
	return within, decided, err
}

// midnight returns when the team's day began.
func (room *Room) midnight(now time.Time) time.Time {
	day := now.In(room.Zone)
	return time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, room.Zone)
}

// Today counts the chats that arrived since a time, by what their target stands under: how
// many are decided against the answer target of their department, and how many of those
// were taken within it. A chat is decided when it was taken, missed, or has waited beyond
// the target. Targets are in seconds, by the department's id; that of chats without one
// stands under their widget's.
func (s Tables) Today(ctx context.Context, since, now time.Time, targets map[string]int) (map[string]Within, error) {
	ids := slices.Collect(maps.Keys(targets))
	seconds := make([]int, len(ids))
	for i, id := range ids {
		seconds[i] = targets[id]
	}
	rows, err := s.Pool().Query(ctx, `
		select t.id::text, count(*) filter (where c.taken_at - c.started_at <= make_interval(secs => t.seconds)),
		       count(*) filter (where c.taken_at is not null or c.phase = 'ended' or $1::timestamptz - c.started_at > make_interval(secs => t.seconds))
		from chats c join unnest($3::uuid[], $4::int[]) as t(id, seconds) on t.id = coalesce(c.department_id, c.widget_id)
		where c.started_at >= $2 and not c.message group by t.id`, now, since, ids, seconds)
	if err != nil {
		return nil, err
	}
	out := map[string]Within{}
	var id string
	var w Within
	_, err = pgx.ForEachRow(rows, []any{&id, &w.Within, &w.Decided}, func() error {
		out[id] = w
		return nil
	})
	return out, err
}

// Seen returns how each department stands, for who calls its leads.
func (room *Room) Seen(ctx context.Context) (map[string]alert.Seen, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	now := room.Now()
	team, err := room.Team(ctx)
	if err != nil {
		return nil, err
	}
	queues, err := room.Tables.queues(ctx)
	if err != nil {
		return nil, err
	}
	available := map[string]bool{}
	for _, o := range team {
		available[o.ID] = o.State == "available"
	}
	out := map[string]alert.Seen{}
	for _, d := range s.InUse {
		seen := alert.Seen{Waiting: queues[d.ID].waiting, HoursOpen: s.Open(d, now)}
		if since := queues[d.ID].since; since != nil {
			seen.Longest = max(0, now.Sub(*since))
		}
		for _, m := range d.Members {
			if available[m.OperatorID] {
				seen.Available++
			}
		}
		out[d.ID] = seen
	}
	return out, nil
}

// queued is who waits for a department.
type queued struct {
	waiting int
	since   *time.Time // who waits longest
}

func (s Tables) queues(ctx context.Context) (map[string]queued, error) {
	rows, err := s.Pool().Query(ctx, "select seeking_id::text, count(*), min(since) filter (where phase = 'waiting') from chats where seeking_id is not null group by 1")
	if err != nil {
		return nil, err
	}
	out := map[string]queued{}
	var id string
	var q queued
	_, err = pgx.ForEachRow(rows, []any{&id, &q.waiting, &q.since}, func() error {
		out[id] = q
		return nil
	})
	return out, err
}
