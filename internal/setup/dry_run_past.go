package setup

import (
	"cmp"
	"context"
	"slices"
	"time"

	"stoop/core/channel"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/measure"
	"stoop/core/replay"
	"stoop/core/routing"
	"stoop/core/staffing"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// past is a period of the past, ready to happen again.
type past struct {
	room     *Room
	from, to time.Time
	came     []facts.Came
	arrivals []replay.Arrival // without what depends on the set-up
	widgets  map[string]string
	here     []replay.Presence
	owners   []string // account owners, by arrival
	reaction map[string]time.Duration
	guessed  bool
}

func (room *Room) past(ctx context.Context, s *settings.Settings, from, to time.Time) (*past, error) {
	p := &past{room: room, from: from, to: to, widgets: map[string]string{}, reaction: map[string]time.Duration{}}
	reader := room.Replica.Reader() // all of it is of the past
	reading := facts.On(reader)
	var err error
	if p.came, err = reading.CameBetween(ctx, from, to, dryRunChats+1); err != nil {
		return nil, err
	}
	if len(p.came) > dryRunChats {
		return nil, form.Refuse([]form.Wrong{{Field: "to", Words: "There are more than 20,000 chats in this period. Choose a shorter one."}})
	}
	held, err := reading.HeldBetween(ctx, from.Add(-24*time.Hour), to)
	if err != nil {
		return nil, err
	}
	by := map[string][]replay.Presence{}
	for _, h := range held {
		by[h.Operator] = append(by[h.Operator], replay.Presence{Operator: h.Operator, From: h.From, To: h.To})
	}
	p.here = replay.Here(by, hereAround, hereGap)
	slices.SortFunc(p.here, func(a, b replay.Presence) int { return a.From.Compare(b.From) })
	if err := p.arrive(ctx, reader, s); err != nil {
		return nil, err
	}
	return p, nil
}

// arrive makes arrivals of the chats that came.
func (p *past) arrive(ctx context.Context, reader *store.Store, s *settings.Settings) error {
	waited, gaveUp := 0.0, int64(0)
	handling, waits := map[string][]time.Duration{}, map[string][]int{}
	for _, c := range p.came {
		if c.Ending != "message" {
			waited += float64(c.Waited)
		}
		if c.Ending == "missed" {
			gaveUp++
		}
		if c.Wait != nil && c.Ending != "message" {
			handling[c.Department] = append(handling[c.Department], time.Duration(c.Held)*time.Second)
			waits[c.Department] = append(waits[c.Department], *c.Wait)
		}
	}
	mean, guessed := staffing.PatienceOf(waited, gaveUp)
	p.guessed = guessed
	for id, list := range waits {
		// Of those who waited least, somebody was free: what is left is the moment of taking.
		p.reaction[id] = min(reactionMost, time.Duration(measure.Percentile(list, 0.25))*time.Second)
	}
	last := map[string]string{}
	for some := range slices.Chunk(p.came, askedAtOnce) {
		ids, visitors := make([]string, len(some)), make([]string, len(some))
		for i, c := range some {
			ids[i], visitors[i] = c.ChatID, c.VisitorID
		}
		begun, err := chatlog.On(reader).Beginnings(ctx, ids)
		if err != nil {
			return err
		}
		known, err := register.On(reader).LookedUp(ctx, visitors)
		if err != nil {
			return err
		}
		for _, c := range some {
			b, k := begun[c.ChatID], known[c.VisitorID]
			a := replay.Arrival{ID: c.ChatID, At: c.At, Widget: c.WidgetID, Visitor: c.VisitorID, Last: last[c.VisitorID], Language: c.Language}
			a.Facts = routing.Facts{
				PageURL: b.Intro.PageURL, PageTitle: c.PageTitle, Country: c.Country, Source: c.Source, Language: c.Language, Widget: s.Widgets[c.WidgetID].Key, Channel: string(cmp.Or(b.Intro.Channel, channel.Site)),
				Hour: c.At.In(p.room.Zone).Hour(), Form: b.Answers, Outside: k.Outside, LastOperator: a.Last,
				Contact: map[string]string{"name": b.Name, "email": b.Email, "phone": b.Phone},
			}
			if a.Facts.PageURL == "" {
				a.Facts.PageURL = c.Page // the transcript is deleted
			}
			for _, f := range s.Widgets[c.WidgetID].Form {
				if f.Kind == form.Department {
					a.Facts.Department = b.Answers[f.Name]
				}
			}
			p.owners = append(p.owners, k.AccountOwner)
			patience := time.Duration(mean * float64(time.Second))
			switch {
			case c.Ending == "missed":
				a.Patience = max(time.Second, time.Duration(c.Waited)*time.Second)
			case c.Wait != nil && c.Ending != "message":
				a.Patience = replay.StillPatient(c.ChatID, time.Duration(*c.Wait)*time.Second, patience)
			default:
				a.Patience = replay.StillPatient(c.ChatID, 0, patience)
			}
			if a.Handling = time.Duration(c.Held) * time.Second; c.Wait == nil || c.Ending == "message" {
				a.Handling = replay.OneOf(c.ChatID, handling[c.Department], 5*time.Minute)
			}
			p.arrivals = append(p.arrivals, a)
			if c.Owner != "" {
				last[c.VisitorID] = c.Owner
			}
		}
	}
	return nil
}

// run lets the period happen under a set-up.
func (p *past) run(s *settings.Settings) []replay.Result {
	setUp := replay.SetUp{Rules: s.Rules, HeadStart: s.HeadStart(), WidgetOpen: p.opens(func(id string) *string { return s.Widgets[id].HoursID }, s)}
	departmentOpen := p.opens(func(id string) *string { return s.Departments[id].HoursID }, s)
	for _, d := range s.InUse {
		one := replay.Department{Department: settings.CoreDepartment(d, true), Target: time.Duration(d.TargetSeconds) * time.Second}
		id := d.ID
		one.OpenAt = func(at time.Time) bool { return departmentOpen(id, at) }
		var measured bool
		if one.Reaction, measured = p.reaction[d.ID]; !measured {
			one.Reaction = reactionUsual
		}
		if d.HandOut == routing.Assign {
			one.Reaction = 0 // it is theirs at once
		}
		setUp.Departments = append(setUp.Departments, one)
	}
	for _, o := range s.Team {
		one := routing.Staff{ID: o.ID, Name: o.Name, Percent: o.CapacityPercent, Languages: o.Languages}
		if o.Capacity != nil {
			one.Capacity = *o.Capacity
		}
		setUp.Staff = append(setUp.Staff, one)
	}
	arrivals := slices.Clone(p.arrivals)
	for i := range arrivals {
		owner := p.owners[i]
		arrivals[i].Places = s.Places(s.Widgets[arrivals[i].Widget], &owner)
	}
	return replay.Run(arrivals, p.here, setUp)
}

// opens tells of things with hours, by their ids, whether they are open at a time of the
// period.
func (p *past) opens(hoursOf func(id string) *string, s *settings.Settings) func(id string, at time.Time) bool {
	known := map[string]func(time.Time) bool{}
	return func(id string, at time.Time) bool {
		hoursID := hoursOf(id)
		if hoursID == nil {
			return true
		}
		open, there := known[*hoursID]
		if !there {
			h, ok := s.Hours[*hoursID]
			if !ok {
				return false
			}
			// A day more: who waits at the end is waited for.
			intervals := h.Schedule().Between(p.from, p.to.Add(24*time.Hour))
			open = func(at time.Time) bool {
				n, found := slices.BinarySearchFunc(intervals, at, func(i hours.Interval, at time.Time) int { return i.From.Compare(at) })
				return found || n > 0 && at.Before(intervals[n-1].To)
			}
			known[*hoursID] = open
		}
		return open(at)
	}
}
