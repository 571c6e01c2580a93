package reports

import (
	"context"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"stoop/internal/facts"
)

// byHour are the cuts that hours tell, with the key of an hour.
var byHour = map[By]func(h facts.Hour, local time.Time, unit string) string{
	"":        func(facts.Hour, time.Time, string) string { return "" },
	ByDate:    func(_ facts.Hour, local time.Time, unit string) string { return begins(noon(local), unit) },
	ByHour:    func(_ facts.Hour, local time.Time, _ string) string { return local.Format("15") },
	ByWeekday: func(_ facts.Hour, local time.Time, _ string) string { return weekday(local) },
	ByHeat:    func(_ facts.Hour, local time.Time, _ string) string { return weekday(local) + " " + local.Format("15") },
	ByWidget:  func(h facts.Hour, _ time.Time, _ string) string { return h.Widget },
	ByDepartment: func(h facts.Hour, _ time.Time, _ string) string {
		if strings.HasPrefix(h.Department, "00000000-0000-0000-0000-00000000000") {
			return facts.Unset
		}
		return h.Department
	},
}

// weekday is a day of the week as ISO 8601 counts: 1 is Monday.
func weekday(local time.Time) string { return string(rune('1' + (int(local.Weekday())+6)%7)) }

// counted counts the chats that are meant: from the hours, where these tell all that is
// asked for, and otherwise from each chat.
func (room *Room) counted(ctx context.Context, f facts.Filter, by By, unit string, c cut) (parted, error) {
	key, told := byHour[by]
	if !told || !f.ByHours() {
		return room.parts(ctx, f, c)
	}
	zone, err := time.LoadLocation(f.Zone)
	if err != nil {
		return parted{}, err
	}
	p := parted{spread: make([][]measured, len(times))}
	work, ctx := errgroup.WithContext(ctx)
	work.Go(func() error {
		sum := hourSum{counts: map[string][]int64{}, spread: map[string][3]map[int32]int64{}}
		err := room.reading().Hours(ctx, f, func(h facts.Hour) {
			local := h.At.In(zone)
			if f.Weekday != nil && weekday(local) != string(rune('0'+*f.Weekday)) || f.Hour != nil && local.Hour() != *f.Hour {
				return
			}
			sum.add(key(h, local, unit), h)
		})
		p.counts, p.spread = sum.counted(), sum.measured()
		return err
	})
	work.Go(func() error { return room.sales(ctx, f, c, &p.sales) })
	return p, work.Wait()
}

// hourSum adds hours up by the keys of a cut.
type hourSum struct {
	counts map[string][]int64
	spread map[string][3]map[int32]int64
}

func (s hourSum) add(key string, h facts.Hour) {
	counts, known := s.counts[key]
	if !known {
		counts = make([]int64, len(facts.Counted))
		s.counts[key] = counts
		s.spread[key] = [3]map[int32]int64{{}, {}, {}}
	}
	for i, n := range h.Counts {
		counts[i] += n
	}
	for i, values := range [][]int32{h.Waits, h.Firsts, h.Laters} {
		of := s.spread[key][i]
		for _, v := range values {
			of[v]++
		}
	}
}

func (s hourSum) counted() []counted {
	list := make([]counted, 0, len(s.counts))
	for key, n := range s.counts {
		list = append(list, countedOf(key, n))
	}
	slices.SortFunc(list, func(a, b counted) int { return strings.Compare(a.Key, b.Key) })
	return list
}

// countedOf reads counts in the order of facts.Counted.
func countedOf(key string, n []int64) counted {
	c := counted{Key: key}
	for i, into := range []*int64{
		&c.Chats, &c.Answered, &c.Missed, &c.Messages, &c.Kept, &c.InTarget, &c.InTargetOf, &c.Replies, &c.OnTime, &c.HandledS, &c.Handled, &c.HandedOn, &c.HandOns, &c.Asked,
		&c.Rated1, &c.Rated2, &c.Rated3, &c.Rated4, &c.Rated5, &c.Invited, &c.Sold, &c.Helped, &c.WithHelper, &c.HelperMissed,
	} {
		*into = n[i]
	}
	return c
}

func (s hourSum) measured() [][]measured {
	all := make([][]measured, len(times))
	for key, spread := range s.spread {
		for i, values := range spread {
			for value, n := range values {
				all[i] = append(all[i], measured{key, int(value), n})
			}
		}
	}
	for i := range all {
		slices.SortFunc(all[i], func(a, b measured) int { return a.Value - b.Value })
	}
	return all
}
