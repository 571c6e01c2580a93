package library

import (
	"context"
	"time"

	"stoop/core/access"
)

// usesFor is how long the counts of uses are remembered: they order
// suggestions, and need not be exact.
const usesFor = 10 * time.Second

// uses are counts of uses by response, of each operator and of all.
type uses struct {
	read time.Time
	of   map[string]map[string]float64
	all  map[string]int64
}

func (room *Room) cannedUses(ctx context.Context) (uses, error) {
	room.mu.Lock()
	kept := room.uses
	room.mu.Unlock()
	if kept.of != nil && time.Since(kept.read) < usesFor {
		return kept, nil
	}
	rows, err := room.Tables.CannedUses(ctx)
	if err != nil {
		return kept, err
	}
	fresh := uses{read: time.Now(), of: map[string]map[string]float64{}, all: map[string]int64{}}
	for _, r := range rows {
		if fresh.of[r.OperatorID] == nil {
			fresh.of[r.OperatorID] = map[string]float64{}
		}
		fresh.of[r.OperatorID][r.ResponseID] = float64(r.Uses)
		fresh.all[r.ResponseID] += r.Uses
	}
	room.mu.Lock()
	room.uses = fresh
	room.mu.Unlock()
	return fresh, nil
}

// UseCanned counts a use; it happens beside a message and must not hold it up.
func (room *Room) UseCanned(ctx context.Context, o access.Actor, id string) error {
	return room.Tables.UseCanned(ctx, id, o.ID, room.Now())
}

// ForgetUses makes the next look at the counts of uses read them anew.
func (room *Room) ForgetUses() {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.uses = uses{}
}
