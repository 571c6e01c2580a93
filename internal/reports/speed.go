package reports

import (
	"context"

	"stoop/core/access"
	"stoop/core/measure"
	"stoop/internal/facts"
)

// Bin is how many chats took a time of some length.
type Bin struct {
	From int   `json:"from" doc:"Seconds; they are part of it"`
	To   int   `json:"to" doc:"They are not; 0: no bound"`
	N    int64 `json:"n"`
}

// Spread is how a measure of time is distributed.
type Spread struct {
	N           int64              `json:"n"`
	Bins        []Bin              `json:"bins"`
	Percentiles map[string]float64 `json:"percentiles" doc:"In seconds, by 50, 75, 90, 95, 99"`
	Mean        *float64           `json:"mean,omitempty"`
}

// binBounds are where bins begin, in seconds: fine where a target may lie.
var binBounds = []int{0, 5, 10, 15, 20, 30, 45, 60, 90, 120, 180, 300, 600, 1200}

var percentiles = map[string]float64{"50": 0.5, "75": 0.75, "90": 0.9, "95": 0.95, "99": 0.99}

func spreadOf(d measure.Distribution) Spread {
	s := Spread{N: d.N(), Mean: known(d.Mean()), Bins: make([]Bin, len(binBounds)), Percentiles: map[string]float64{}}
	for i, from := range binBounds {
		s.Bins[i].From = from
		if i+1 < len(binBounds) {
			s.Bins[i].To = binBounds[i+1]
		}
	}
	for _, c := range d {
		at := len(binBounds) - 1
		for at > 0 && c.Value < binBounds[at] {
			at--
		}
		s.Bins[at].N += c.N
	}
	if s.N > 0 {
		for name, p := range percentiles {
			s.Percentiles[name] = d.Percentile(p)
		}
	}
	return s
}

// Speed is how fast visitors were answered.
type Speed struct {
	Period Period `json:"period"`
	Wait   Spread `json:"wait"`
	First  Spread `json:"first"`
	Later  Spread `json:"later"`
	// Targets of the departments that are meant, in seconds, to draw them in.
	Targets []int `json:"targets"`
}

// Speed returns how fast the visitors of a period were answered.
func (room *Room) Speed(ctx context.Context, o access.Actor, in facts.Asked) (Speed, error) {
	a, err := room.ready(o, in)
	if err != nil {
		return Speed{}, err
	}
	s := Speed{Period: a.period, Targets: []int{}}
	for i, into := range []*Spread{&s.Wait, &s.First, &s.Later} {
		t := facts.Timed[i]
		var all []measured
		err := room.query(ctx, a.filter, whole).Select(t.Column + " as value, count(*) as n").
			Where(t.Column + " is not null and " + t.Of).Group("value").Order("value").Scan(&all).Error
		if err != nil {
			return s, err
		}
		*into = spreadOf(distributions(all)[""])
	}
	err = room.query(ctx, a.filter, whole).Select("distinct f.target_s").Where("f.target_s > 0").Order("1").Limit(10).Scan(&s.Targets).Error
	return s, err
}
