package demo

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"stoop/internal/staffing"
	"stoop/internal/store"
)

// rosterDays is for how many days the demo's roster is made.
const rosterDays = 28

// seedRoster says who is there in the coming weeks: early or late, five days of seven,
// which is not always enough.
func seedRoster(ctx context.Context, s *store.Store, operators []string, now time.Time) error {
	zone, err := time.LoadLocation(TimeZone)
	if err != nil {
		return err
	}
	today := now.In(zone)
	var shifts []staffing.Shift
	for day := range rosterDays {
		for i, operator := range operators {
			if (day+2*i)%7 >= 5 {
				continue
			}
			from, to := 6, 14
			if (day/7+i)%2 == 1 {
				from, to = 13, 22
			}
			at := func(hour int) time.Time {
				return time.Date(today.Year(), today.Month(), today.Day()+day, hour, 0, 0, 0, zone).UTC()
			}
			shifts = append(shifts, staffing.Shift{ID: uuid.NewString(), OperatorID: operator, StartsAt: at(from), EndsAt: at(to)})
		}
	}
	if err := staffing.On(s).DB.WithContext(ctx).Create(&shifts).Error; err != nil {
		return fmt.Errorf("storing the demo's roster: %w", err)
	}
	return nil
}
