// Package history invents the past of Kelpwick Ferries: a year of chats by weekday,
// hour and season, with days of storm, growth, moods, hand-ons, ratings, and words that
// can be searched for. The same seed gives the same past.
package history

import (
	"iter"
	"math"
	"math/rand/v2"
	"time"

	"github.com/google/uuid"

	"stoop/core/chat"
)

// Department is one of the three, in the order of the constants Help, Bookings, Freight.
type Department struct {
	ID, Name string
	Target   int // seconds
}

// Member is somebody who answered chats.
type Member struct {
	ID, Name    string
	Departments []int
	Capacity    int
	Pace        float64 // of their replies; below 1 is faster than others
	Warmth      float64 // what they add to a rating
	From, To    time.Time
}

// works reports whether somebody was in the team at a time.
func (m Member) works(at time.Time) bool {
	return (m.From.IsZero() || !at.Before(m.From)) && (m.To.IsZero() || at.Before(m.To))
}

func (m Member) in(department int) bool {
	for _, d := range m.Departments {
		if d == department {
			return true
		}
	}
	return false
}

// Config says what past to invent.
type Config struct {
	Seed        uint64
	Chats       int
	From, Until time.Time // the days of both are counted in Zone; Until is not part of it
	Zone        *time.Location
	Site        string // address of the site, for pages
	WidgetID    string
	Departments [3]Department
	Team        []Member
	Invitations []string // ids of invitation rules
}

// Chat is one chat of the past.
type Chat struct {
	ID, VisitorID      string
	Name, Email        string
	Language, WidgetID string
	Log                []chat.Event
}

type weighted[T any] struct {
	value  T
	weight float64
}

func choose[T any](random *rand.Rand, list []weighted[T]) T {
	sum := 0.0
	for _, w := range list {
		sum += w.weight
	}
	at := random.Float64() * sum
	for _, w := range list {
		if at -= w.weight; at < 0 {
			return w.value
		}
	}
	return list[len(list)-1].value
}

func pick[T any](random *rand.Rand, list []T) T { return list[random.IntN(len(list))] }

// lognormal returns a positive number of which half are above the median.
func lognormal(random *rand.Rand, median, spread float64) float64 {
	return median * math.Exp(random.NormFloat64()*spread)
}

// day is a day of the past.
type day struct {
	begin  time.Time // midnight
	weight float64
	storm  bool
	hours  [24]float64
}

// The shape of a year, from experience with ferries: invented.
var (
	weekdays = [7]float64{0.75, 1.02, 0.92, 0.9, 1.0, 1.3, 1.15} // from Sunday
	months   = [12]float64{0.7, 0.72, 0.82, 0.98, 1.08, 1.25, 1.55, 1.4, 1.0, 0.88, 0.74, 0.8}
	workday  = [24]float64{0.2, 0.1, 0.1, 0.1, 0.2, 0.6, 2, 3.5, 5.5, 7, 7.6, 7.2, 6.4, 6.6, 7.4, 7.2, 6.4, 5.6, 5, 4.6, 3.8, 2.6, 1.2, 0.5}
	weekend  = [24]float64{0.2, 0.1, 0.1, 0.1, 0.1, 0.4, 1.2, 2.6, 5, 7.6, 8.6, 8, 6.8, 6, 5.6, 5.6, 5.6, 5.4, 5, 4.4, 3.4, 2.2, 1, 0.4}
)

const (
	growth    = 0.35 // over the whole time
	stormDays = 14.0 / 365
)

func (c Config) days() []day {
	random := rand.New(rand.NewPCG(c.Seed, 1))
	var list []day
	from, until := c.From.In(c.Zone), c.Until.In(c.Zone)
	begin := time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, c.Zone)
	length := until.Sub(begin)
	for d := begin; d.Before(until); d = time.Date(d.Year(), d.Month(), d.Day()+1, 0, 0, 0, 0, c.Zone) {
		one := day{begin: d, hours: workday}
		if wd := d.Weekday(); wd == time.Saturday || wd == time.Sunday {
			one.hours = weekend
		}
		one.weight = weekdays[d.Weekday()] * months[d.Month()-1] * (1 + growth*float64(d.Sub(begin))/float64(length)) * (0.85 + 0.3*random.Float64())
		winter := d.Month() >= time.October || d.Month() <= time.March
		if storms := random.Float64(); winter && storms < 2*stormDays {
			one.storm, one.weight = true, one.weight*2.1
		}
		if d.Month() == time.December && (d.Day() == 25 || d.Day() == 24) || d.Month() == time.January && d.Day() == 1 {
			one.weight *= 0.25
		}
		list = append(list, one)
	}
	return list
}

// arrival is when somebody asks.
type arrival struct {
	at    time.Time
	storm bool
}

// arrivals returns when the chats begin, in order.
func (c Config) arrivals() []arrival {
	random := rand.New(rand.NewPCG(c.Seed, 2))
	all := c.days()
	sum := 0.0
	for _, d := range all {
		sum += d.weight
	}
	list := make([]arrival, 0, c.Chats)
	before, reached := 0, 0.0
	for _, d := range all {
		reached += d.weight
		upTo := int(math.Round(reached / sum * float64(c.Chats)))
		hours := make([]weighted[int], 24)
		for h := range hours {
			hours[h] = weighted[int]{h, d.hours[h]}
		}
		counts := [24 * 60]int{}
		for range upTo - before {
			counts[choose(random, hours)*60+random.IntN(60)]++
		}
		for minute, n := range counts {
			at := time.Date(d.begin.Year(), d.begin.Month(), d.begin.Day(), 0, minute, 0, 0, c.Zone)
			for i := range n { // of one minute, spread over it
				list = append(list, arrival{at.Add(time.Duration(i) * time.Minute / time.Duration(n)), d.storm})
			}
		}
		before = upTo
	}
	return list
}

// All returns the chats, in the order in which they began, but for who waits in the
// queue of the team all by themselves.
func (c Config) All() iter.Seq2[Chat, error] {
	return func(yield func(Chat, error) bool) {
		desk := newDesk(c)
		for i, a := range c.arrivals() {
			p := player{c: c, random: rand.New(rand.NewPCG(c.Seed, uint64(i)+100)), desk: desk}
			made, err := p.play(a)
			if !yield(made, err) || err != nil {
				return
			}
		}
	}
}

// newID returns an id that sorts by time and is the same for the same random.
func newID(random *rand.Rand, at time.Time) string {
	var u uuid.UUID
	ms := uint64(at.UnixMilli())
	for i := range 6 {
		u[i] = byte(ms >> (40 - 8*i))
	}
	a, b := random.Uint64(), random.Uint64()
	for i := range 8 {
		u[8+i] = byte(a >> (8 * i))
	}
	u[6], u[7] = 0x70|byte(b&0x0f), byte(b>>8)
	u[8] = 0x80 | u[8]&0x3f
	return u.String()
}
