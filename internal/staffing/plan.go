package staffing

import (
	"context"
	"time"

	"stoop/core/access"
	core "stoop/core/staffing"
	"stoop/internal/facts"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// What a plan is made of.
const (
	slotLength = 30 * time.Minute
	learnt     = 8 * 7 * 24 * time.Hour // how far back handling and patience are looked up
)

// Slot is half an hour of a day.
type Slot struct {
	At       time.Time `json:"at"`
	Chats    float64   `json:"chats" doc:"Live chats that are to be expected"`
	Low      float64   `json:"low" doc:"With high: four of five such days lie between"`
	High     float64   `json:"high"`
	Days     int       `json:"days" doc:"Of the past that it is made of"`
	Needed   int       `json:"needed" doc:"People with whom the target is met"`
	Rostered int       `json:"rostered" doc:"People of the roster, for at least half of the time"`
	Shared   int       `json:"shared" doc:"Of these, who are there for other departments too"`
	Load     float64   `json:"load" doc:"Chats under way at once, on average, with who is rostered; with who is needed, if nobody is"`
	AtOnce   float64   `json:"atOnce" doc:"Chats that each holds on average"`
	Within   float64   `json:"within" doc:"Share that is taken within the target, with who is rostered"`
	Waits    float64   `json:"waits" doc:"Share that does not find somebody free, with who is rostered"`
	Abandon  float64   `json:"abandon" doc:"Share that gives up, with who is rostered"`
}

// StaffingPlan is how many people a day needs in a department.
type StaffingPlan struct {
	DepartmentID string  `json:"departmentId"`
	Day          string  `json:"day"`
	Zone         string  `json:"zone"`
	Holiday      string  `json:"holiday,omitempty" doc:"Name of the exception of its hours that rules the day"`
	HolidayDays  int     `json:"holidayDays" doc:"Such days of the past that the forecast is made of; 0: of usual ones"`
	Target       int     `json:"target" doc:"Seconds"`
	Share        float64 `json:"share" doc:"Of visitors who are to be taken within it"`
	Capacity     int     `json:"capacity" doc:"Chats that one person holds at most"`
	Alone        float64 `json:"alone" doc:"Seconds that a chat takes which is held by itself"`
	Grows        float64 `json:"grows" doc:"By what part of that it takes longer for each further chat held beside it"`
	Learnt       int     `json:"learnt" doc:"Chats that this was learnt from"`
	Patience     float64 `json:"patience" doc:"Seconds after which a visitor gives up, in the mean"`
	Guessed      bool    `json:"guessed" doc:"Too few gave up to tell: the patience is a guess"`
	Slots        []Slot  `json:"slots" doc:"While the department is open"`
}

// Asked says for what a plan is wanted.
type Asked struct {
	DepartmentID string  `query:"department" format:"uuid" required:"true"`
	Day          string  `query:"day" maxLength:"10" doc:"As 2026-11-28; empty: tomorrow"`
	Share        float64 `query:"share" minimum:"0.1" maximum:"0.99" default:"0.8" doc:"Of visitors who are to be taken within the target"`
	Target       int     `query:"target" minimum:"0" maximum:"3600" doc:"Seconds; 0: the department's"`
}

// Plan returns how many people a day needs in a department, beside those of the roster.
func (room *Room) Plan(ctx context.Context, o access.Actor, in Asked) (StaffingPlan, error) {
	if !o.May(access.SeeReports) {
		return StaffingPlan{}, access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return StaffingPlan{}, err
	}
	d, known := s.Departments[in.DepartmentID]
	if !known {
		return StaffingPlan{}, store.ErrNotFound
	}
	zone := room.Zone
	if d.HoursID != nil {
		if own, err := time.LoadLocation(s.Hours[*d.HoursID].Zone); err == nil {
			zone = own
		}
	}
	if in.Day == "" {
		in.Day = room.Now().In(zone).AddDate(0, 0, 1).Format(time.DateOnly)
	}
	begin, end, err := facts.Days(in.Day, in.Day, zone)
	if err != nil {
		return StaffingPlan{}, err
	}
	if begin.After(room.Now().AddDate(1, 0, 0)) {
		return StaffingPlan{}, problem.New(422, "too-far", "This day is too far away", "Plan a day of the coming year.")
	}
	p := StaffingPlan{DepartmentID: d.ID, Day: in.Day, Zone: zone.String(), Target: in.Target, Share: in.Share, Capacity: d.Capacity, Slots: []Slot{}}
	if p.Target == 0 {
		p.Target = d.TargetSeconds
	}
	team, err := room.team(ctx, d, &p)
	if err != nil {
		return p, err
	}
	usual, err := room.history(ctx, s, d, begin, zone, &p)
	if err != nil {
		return p, err
	}
	shifts, err := room.Tables.Between(ctx, begin, end)
	if err != nil {
		return p, err
	}
	for at := begin; at.Before(end); at = at.Add(slotLength) {
		if !openIn(s, d, at) {
			continue
		}
		slot := Slot{At: at}
		slot.Rostered, slot.Shared = present(s, d, shifts, at)
		f := core.Expect(usual[clockOf(at.In(zone))])
		slot.Chats, slot.Low, slot.High, slot.Days = f.Chats, f.Low, f.High, f.Days
		perHour := f.Chats * float64(time.Hour/slotLength)
		slot.Needed = team.Needed(perHour, core.Target{Seconds: float64(p.Target), Share: p.Share})
		people := slot.Rostered
		if people == 0 {
			people = slot.Needed
		}
		e := team.With(perHour, people, float64(p.Target))
		slot.Load, slot.AtOnce = e.Load, e.AtOnce
		if slot.Rostered == 0 {
			e = team.With(perHour, 0, float64(p.Target))
		}
		slot.Within, slot.Waits, slot.Abandon = e.Within, e.Waits, e.Abandon
		p.Slots = append(p.Slots, slot)
	}
	return p, nil
}

// openIn reports whether a department is open in the middle of half an hour.
func openIn(s *settings.Settings, d settings.Department, at time.Time) bool {
	return s.Open(d, at.Add(slotLength/2))
}

// clockOf is the half hour of the day in which a time lies, as the clock shows it.
func clockOf(local time.Time) int { return local.Hour()*2 + local.Minute()/30 }

// team learns from the log how long chats take and how patient visitors are.
func (room *Room) team(ctx context.Context, d settings.Department, p *StaffingPlan) (core.Team, error) {
	since := room.Now().Add(-learnt)
	holdings, err := room.reading().Holdings(ctx, d.ID, since)
	if err != nil {
		return core.Team{}, err
	}
	held := make([]core.Held, len(holdings))
	for i, h := range holdings {
		held[i] = core.Held(h)
	}
	handling := core.HandlingOf(held)
	patience, err := room.reading().PatienceOf(ctx, d.ID, since)
	if err != nil {
		return core.Team{}, err
	}
	p.Alone, p.Grows, p.Learnt = handling.Alone, handling.Grows, len(held)
	p.Patience, p.Guessed = core.PatienceOf(patience.WaitedS, patience.GaveUp)
	return core.Team{Handling: handling, Capacity: max(d.Capacity, 1), Patience: p.Patience}, nil
}

// history returns what came on days of the past that are like a day, by the half hours of
// the clock.
func (room *Room) history(ctx context.Context, s *settings.Settings, d settings.Department, day time.Time, zone *time.Location, p *StaffingPlan) (map[int][]core.Past, error) {
	p.Holiday = holidayOn(s, d, day)
	first, err := room.reading().First(ctx, d.ID)
	if err != nil || first.IsZero() {
		return nil, err
	}
	today := facts.Midnight(room.Now(), zone)
	days := core.DaysLike(civil(day.In(zone)), civil(today.In(zone)), civil(first.In(zone)), func(date time.Time) string {
		y, m, d1 := date.Date()
		return holidayOn(s, d, time.Date(y, m, d1, 0, 0, 0, 0, zone))
	})
	if p.Holiday != "" && len(days) > 0 && days[0].Holiday {
		p.HolidayDays = len(days)
	}
	counts := map[string]map[int]float64{}
	oldest := day
	for _, like := range days {
		text := like.Date.Format(time.DateOnly)
		counts[text] = map[int]float64{}
		if at, _, err := facts.Days(text, "", zone); err == nil && at.Before(oldest) {
			oldest = at
		}
	}
	arrivals, err := room.reading().ArrivalsOf(ctx, d.ID, oldest, today)
	if err != nil {
		return nil, err
	}
	for _, a := range arrivals {
		local := a.At.In(zone)
		if of := counts[local.Format(time.DateOnly)]; of != nil {
			of[clockOf(local)] += float64(a.Chats)
		}
	}
	past := map[int][]core.Past{}
	for slot := range 48 {
		for _, like := range days {
			past[slot] = append(past[slot], core.Past{WeeksAgo: like.WeeksAgo, Chats: counts[like.Date.Format(time.DateOnly)][slot]})
		}
	}
	return past, nil
}

// civil is the date of a time where it is told, apart from any zone.
func civil(at time.Time) time.Time {
	y, m, d := at.Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// holidayOn names the exception of a department's hours that rules a day.
func holidayOn(s *settings.Settings, d settings.Department, day time.Time) string {
	if d.HoursID == nil {
		return ""
	}
	return s.Hours[*d.HoursID].Schedule().At(day.Add(12 * time.Hour)).Holiday
}

// present counts who of the roster is there for a department for at least half of half an
// hour, and who of them may be busy for others.
func present(s *settings.Settings, d settings.Department, shifts []Shift, at time.Time) (people, shared int) {
	theirs := map[string]time.Duration{}
	others := map[string]bool{}
	for _, shift := range shifts {
		if shift.DepartmentID != nil && *shift.DepartmentID != d.ID || shift.DepartmentID == nil && !s.IsMember(shift.OperatorID, d.ID) {
			continue
		}
		from, to := shift.StartsAt, shift.EndsAt
		if from.Before(at) {
			from = at
		}
		if end := at.Add(slotLength); to.After(end) {
			to = end
		}
		if to.After(from) {
			theirs[shift.OperatorID] += to.Sub(from)
			others[shift.OperatorID] = others[shift.OperatorID] || shift.DepartmentID == nil && len(s.Actor(shift.OperatorID).Departments) > 1
		}
	}
	for id, long := range theirs {
		if long >= slotLength/2 {
			people++
			if others[id] {
				shared++
			}
		}
	}
	return people, shared
}
