package desk

import (
	"context"
	"maps"
	"slices"
	"time"
)

// Figures are those of the status strip that the line itself does not tell.
type Figures struct {
	OnSite        int64 `json:"onSite" doc:"Visitors with a page open"`
	TodayWithin   int64 `json:"todayWithin" doc:"Chats of today that were taken within the answer target"`
	TodayDecided  int64 `json:"todayDecided" doc:"Chats of today that were taken, missed, or have waited beyond the target"`
	TargetSeconds int   `json:"targetSeconds" doc:"The answer target, when all departments have the same one; else 0"`
}

// Figures returns the figures of the status strip.
func (room *Room) Figures(ctx context.Context) (Figures, error) {
	now := room.Now()
	day := now.In(room.Zone)
	midnight := time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, room.Zone)
	var f Figures
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return f, err
	}
	if f.TodayWithin, f.TodayDecided, err = room.Tables.Today(ctx, midnight, now, s.Targets()); err != nil {
		return f, err
	}
	f.OnSite = room.Visits.OnSite()
	for i, d := range s.InUse {
		if i == 0 {
			f.TargetSeconds = d.TargetSeconds
		} else if f.TargetSeconds != d.TargetSeconds {
			f.TargetSeconds = 0
		}
	}
	return f, err
}

// Today counts the chats that arrived since a time: how many are decided against
// the answer target of their department, and how many of those were taken within
// it. A chat is decided when it was taken, missed, or has waited beyond the
// target. Targets are in seconds, by the department's id; that of chats without
// one stands under their widget's.
func (s Tables) Today(ctx context.Context, since, now time.Time, targets map[string]int) (within, decided int64, err error) {
	ids := slices.Collect(maps.Keys(targets))
	seconds := make([]int, len(ids))
	for i, id := range ids {
		seconds[i] = targets[id]
	}
	err = s.Pool().QueryRow(ctx, `
		select count(*) filter (where c.taken_at - c.started_at <= make_interval(secs => t.seconds)),
		       count(*) filter (where c.taken_at is not null or c.phase = 'ended' or $1::timestamptz - c.started_at > make_interval(secs => t.seconds))
		from chats c join unnest($3::uuid[], $4::int[]) as t(id, seconds) on t.id = coalesce(c.department_id, c.widget_id)
		where c.started_at >= $2 and not c.message`, now, since, ids, seconds).Scan(&within, &decided)
	return within, decided, err
}
