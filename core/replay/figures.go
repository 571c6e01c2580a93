package replay

import (
	"time"

	"stoop/core/measure"
)

// Figures are what some chats come to. Waits are in seconds, of the chats that were
// taken; NaN of none.
type Figures struct {
	Chats    int // live ones: taken or missed
	Taken    int
	Missed   int
	Messages int
	InTarget int
	Median   float64
	P90      float64
	Mean     float64
}

// Of returns the figures of some results.
func Of(results []Result) Figures {
	var f Figures
	waits := []int{}
	for _, r := range results {
		switch r.End {
		case Taken:
			f.Taken++
			waits = append(waits, int(r.Wait/time.Second))
			if r.InTarget {
				f.InTarget++
			}
		case Missed:
			f.Missed++
		case Message:
			f.Messages++
		}
	}
	f.Chats = f.Taken + f.Missed
	d := measure.DistributionOf(waits)
	f.Median, f.P90, f.Mean = d.Percentile(0.5), d.Percentile(0.9), d.Mean()
	return f
}

// Load is what somebody of the team had to do.
type Load struct {
	Chats   int
	Held    time.Duration // of all chats, together
	Present time.Duration
}

// Loads returns what each operator had to do.
func Loads(results []Result, presences []Presence) map[string]Load {
	loads := map[string]Load{}
	for _, r := range results {
		if r.End == Taken {
			l := loads[r.Operator]
			l.Chats++
			l.Held += r.Held
			loads[r.Operator] = l
		}
	}
	for _, p := range presences {
		l := loads[p.Operator]
		l.Present += p.To.Sub(p.From)
		loads[p.Operator] = l
	}
	return loads
}

// Here returns when operators were there, by when they held chats: from a while before
// each to a while after, and over the gaps between them that are no longer than another.
// Each list must be in the order of time.
func Here(held map[string][]Presence, around, gap time.Duration) []Presence {
	var out []Presence
	for _, list := range held {
		var now Presence
		for _, h := range list {
			h.From, h.To = h.From.Add(-around), h.To.Add(around)
			if now.Operator != "" && h.From.Sub(now.To) <= gap {
				if h.To.After(now.To) {
					now.To = h.To
				}
				continue
			}
			if now.Operator != "" {
				out = append(out, now)
			}
			now = h
		}
		if now.Operator != "" {
			out = append(out, now)
		}
	}
	return out
}
