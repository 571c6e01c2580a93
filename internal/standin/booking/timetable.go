package booking

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// Sailing is one crossing on one day.
type Sailing struct {
	ID       string    `json:"id"`
	From     string    `json:"from"`
	To       string    `json:"to"`
	Ship     string    `json:"ship"`
	Departs  time.Time `json:"departs"`
	Arrives  time.Time `json:"arrives"`
	Fares    Fares     `json:"fares"`
	FreeCars int       `json:"freeCars"`
}

// Fares are single fares in cents.
type Fares struct {
	Adult   int64 `json:"adult"`
	Bicycle int64 `json:"bicycle"`
	Car     int64 `json:"car"`
	Minibus int64 `json:"minibus,omitempty"` // none: the ship takes no minibus
}

// Of returns what a vehicle costs, and whether the ship takes it.
func (f Fares) Of(vehicle string) (cents int64, takes bool) {
	switch vehicle {
	case "":
		return 0, true
	case Bicycle:
		return f.Bicycle, true
	case Car:
		return f.Car, true
	case Minibus:
		return f.Minibus, f.Minibus > 0
	}
	return 0, false
}

// The vehicles that ships take.
const (
	Car     = "car"
	Minibus = "minibus"
	Bicycle = "bicycle"
)

// route is sailed on each day at the same times.
type route struct {
	from, to, ship string
	takes          time.Duration
	at             []string
	saturdays      []string // besides
	fares          Fares
	cars           int
}

var (
	braeFares      = Fares{1400, 300, 3200, 4600}
	sandryFares    = Fares{1100, 300, 2800, 4100}
	northholmFares = Fares{1950, 400, 4400, 6300}
	fennaFares     = Fares{900, 200, 2400, 0}
)

// routes are the winter timetable that the site's page shows.
var routes = []route{
	{"Kelpwick", "Isle of Brae", "MV Curlew", 55 * time.Minute, []string{"07:30", "10:50", "14:10", "18:40"}, nil, braeFares, 38},
	{"Isle of Brae", "Kelpwick", "MV Curlew", 55 * time.Minute, []string{"09:05", "12:25", "16:30", "20:10"}, nil, braeFares, 38},
	{"Kelpwick", "Sandry", "MV Sandpiper", 80 * time.Minute, []string{"08:05", "11:45", "15:25", "19:05"}, nil, sandryFares, 24},
	{"Sandry", "Kelpwick", "MV Sandpiper", 80 * time.Minute, []string{"09:30", "13:20", "17:00", "20:40"}, nil, sandryFares, 24},
	{"Kelpwick", "Northholm", "MV Dunlin", 125 * time.Minute, []string{"06:10", "11:00", "16:00"}, nil, northholmFares, 90},
	{"Aldermouth", "Kelpwick", "MV Dunlin", 70 * time.Minute, []string{"08:40", "13:35"}, nil, sandryFares, 90},
	{"Kelpwick", "Little Fenna", "MV Sandpiper", 40 * time.Minute, []string{"13:15"}, []string{"20:30"}, fennaFares, 24},
}

// Ports are those that ships call at.
func Ports() []string {
	var ports []string
	for _, r := range routes {
		for _, port := range []string{r.from, r.to} {
			if !slices.Contains(ports, port) {
				ports = append(ports, port)
			}
		}
	}
	return ports
}

// sailings returns those of a day in the line's zone, in the order of their departure.
func sailings(day time.Time) []Sailing {
	var list []Sailing
	for _, r := range routes {
		times := r.at
		if day.Weekday() == time.Saturday {
			times = append(slices.Clone(times), r.saturdays...)
		}
		for _, at := range times {
			clock, err := time.Parse("15:04", at)
			if err != nil {
				panic("the timetable has a time that is none: " + at) // it stands above
			}
			departs := time.Date(day.Year(), day.Month(), day.Day(), clock.Hour(), clock.Minute(), 0, 0, day.Location())
			list = append(list, Sailing{
				ID:   fmt.Sprintf("%s-%s-%s", slug(r.from), slug(r.to), departs.Format("20060102-1504")),
				From: r.from, To: r.to, Ship: r.ship, Departs: departs, Arrives: departs.Add(r.takes), Fares: r.fares, FreeCars: r.cars,
			})
		}
	}
	slices.SortStableFunc(list, func(a, b Sailing) int { return a.Departs.Compare(b.Departs) })
	return list
}

func slug(port string) string { return strings.ToLower(strings.ReplaceAll(port, " ", "")) }
