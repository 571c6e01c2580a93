package setup

import (
	"math"
	"slices"
	"strings"
	"time"

	"stoop/core/replay"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
)

// compare fills in what the replays show.
func (p *past) compare(out *DryRun, inForce, draft *settings.Settings, now, then []replay.Result) {
	happened := make([]replay.Result, len(p.came))
	for i, c := range p.came {
		happened[i] = happenedTo(c)
	}
	columns := func(keep func(replay.Result) bool) ReplayColumns {
		some := func(of []replay.Result) ReplayFigures {
			return figuresOf(slices.DeleteFunc(slices.Clone(of), func(r replay.Result) bool { return !keep(r) }))
		}
		c := ReplayColumns{Happened: some(happened), InForce: some(now)}
		if then != nil {
			f := some(then)
			c.Draft = &f
		}
		return c
	}
	out.All = columns(func(replay.Result) bool { return true })
	names := map[string]string{}
	for _, s := range []*settings.Settings{inForce, draft} {
		if s != nil {
			for id, d := range s.Departments {
				names[id] = d.Name
			}
		}
	}
	for _, id := range sortedBy(names, func(name string) string { return name }) {
		d := ReplayedDepartment{ID: id, Name: names[id], ReplayColumns: columns(func(r replay.Result) bool { return r.Department == id })}
		if d.Happened.any() || d.InForce.any() || d.Draft != nil && d.Draft.any() {
			out.Departments = append(out.Departments, d)
		}
	}
	for hour := range 24 {
		h := ReplayedHour{Hour: hour, ReplayColumns: columns(func(r replay.Result) bool { return r.At.In(p.room.Zone).Hour() == hour })}
		out.Hours = append(out.Hours, h)
	}
	p.operators(out, inForce, happened, now, then)
	moved := map[[2]string]int{}
	for i := range then {
		if a, b := now[i].Department, then[i].Department; a != b {
			moved[[2]string{names[a], names[b]}]++
		}
	}
	for way, n := range moved {
		out.Moved = append(out.Moved, MovedChats{way[0], way[1], n})
	}
	slices.SortFunc(out.Moved, func(a, b MovedChats) int {
		if a.Chats != b.Chats {
			return b.Chats - a.Chats
		}
		return strings.Compare(a.From+a.To, b.From+b.To)
	})
}

func (p *past) operators(out *DryRun, s *settings.Settings, happened, now, then []replay.Result) {
	before, inForce, draft := replay.Loads(happened, p.here), replay.Loads(now, p.here), replay.Loads(then, p.here)
	load := func(l replay.Load) ReplayedLoad {
		v := ReplayedLoad{Chats: l.Chats}
		if l.Present > 0 {
			held := math.Round(100*l.Held.Seconds()/l.Present.Seconds()) / 100
			v.Held = &held
		}
		return v
	}
	for _, id := range sortedBy(s.Operators, func(o settings.Operator) string { return o.Name }) {
		if before[id] == (replay.Load{}) && inForce[id] == (replay.Load{}) && draft[id] == (replay.Load{}) {
			continue
		}
		one := ReplayedOperator{Name: s.Operators[id].Name, Happened: load(before[id]), InForce: load(inForce[id])}
		if then != nil {
			l := load(draft[id])
			one.Draft = &l
		}
		out.Operators = append(out.Operators, one)
	}
}

// happenedTo returns what became of a chat in earnest.
func happenedTo(c facts.Came) replay.Result {
	r := replay.Result{ID: c.ChatID, At: c.At, Department: c.Department, Operator: c.Owner, InTarget: c.InTarget, Held: time.Duration(c.Held) * time.Second}
	switch {
	case c.Ending == "message":
		r.End = replay.Message
	case c.Ending == "missed" || c.Wait == nil:
		r.End, r.Wait = replay.Missed, time.Duration(c.Waited)*time.Second
	default:
		r.End, r.Wait = replay.Taken, time.Duration(*c.Wait)*time.Second
	}
	return r
}

func figuresOf(results []replay.Result) ReplayFigures {
	f := replay.Of(results)
	number := func(x float64) *float64 {
		if math.IsNaN(x) {
			return nil
		}
		x = math.Round(10*x) / 10
		return &x
	}
	return ReplayFigures{f.Chats, f.Missed, f.Messages, f.InTarget, number(f.Median), number(f.P90), number(f.Mean)}
}

func (f ReplayFigures) any() bool { return f.Chats+f.Messages > 0 }

// notes tells what to bear in mind.
func (p *past) notes(draft, inForce *settings.Settings) []DryRunNote {
	notes := []DryRunNote{}
	if p.guessed {
		notes = append(notes, DryRunNote{Code: "patience-guessed"})
	}
	unknown := []string{}
	for _, s := range []*settings.Settings{inForce, draft} {
		if s == nil {
			continue
		}
		for _, field := range s.Rules.Fields() {
			if !replay.Knows(field) && !slices.Contains(unknown, field) {
				unknown = append(unknown, field)
				notes = append(notes, DryRunNote{Code: "field-unknown", Value: field})
			}
		}
	}
	gone := map[string]bool{}
	for _, h := range p.here {
		if o, there := inForce.Operators[h.Operator]; there && !o.Active {
			gone[o.Name] = true
		}
	}
	for _, name := range sortedBy(gone, func(bool) string { return "" }) {
		notes = append(notes, DryRunNote{Code: "team-changed", Value: name})
	}
	return notes
}
