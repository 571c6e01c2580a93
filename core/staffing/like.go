package staffing

import "time"

// How far back days are looked for that are like another.
const (
	weeksBack    = 12  // usual days of the same weekday
	weeksLooked  = 84  // among so many weeks: the day may be a year ahead, and holidays are passed over
	holidaysBack = 800 // days: the same holiday of the last two years, also one that moves
)

// Like is a day of the past that is like one that is planned.
type Like struct {
	Date     time.Time // midnight UTC stands for the date
	WeeksAgo int       // weighs it; 0 for holidays, which all weigh the same
	Holiday  bool      // the same as on the day that is planned
}

// DaysLike returns the days before today that are like a day, the latest first: a holiday
// is like those of the same name; a usual day, and a holiday that never was before, like
// those of the same weekday that were none. Dates are told as midnight UTC; first is the
// first of which anything is known, and holiday names what a date is, if anything.
func DaysLike(day, today, first time.Time, holiday func(date time.Time) string) []Like {
	var days []Like
	if name := holiday(day); name != "" {
		for back := 1; back <= holidaysBack; back++ {
			past := day.AddDate(0, 0, -back)
			if past.Before(first) {
				break
			}
			if past.Before(today) && holiday(past) == name {
				days = append(days, Like{Date: past, Holiday: true})
			}
		}
	}
	if len(days) > 0 {
		return days
	}
	for back := 1; len(days) < weeksBack && back <= weeksLooked; back++ {
		past := day.AddDate(0, 0, -7*back)
		if past.Before(first) {
			break
		}
		if past.Before(today) && holiday(past) == "" {
			const week = 7 * 24 * time.Hour
			days = append(days, Like{Date: past, WeeksAgo: int((today.Sub(past) + week/2) / week)})
		}
	}
	return days
}
