package desk

import (
	"context"
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
	var f Figures
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return f, err
	}
	if f.TodayWithin, f.TodayDecided, err = room.Floor.Within(ctx); err != nil {
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
