// Package booking stands in for a ferry line's booking system: customers with their
// tiers and account managers, sailings, prices, discounts, trips that are being put
// together, bookings. It is a small HTTP service of its own, for Stoop and for the
// line's site; all is kept in memory.
package booking

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
)

// Customer of the line.
type Customer struct {
	ID       string
	Name     string
	Email    string
	Phone    string
	Tier     string // none, silver, gold
	Manager  string // their account manager; empty for most
	Since    time.Time
	Bookings int // before those that are kept here
}

// Discount that can be had.
type Discount struct {
	Code    string
	Title   string
	Percent int64
	Until   string
}

// Booking is a trip that was booked.
type Booking struct {
	Number string    `json:"number"`
	Name   string    `json:"name"`
	Email  string    `json:"email"`
	Trip   Trip      `json:"trip"`
	MadeAt time.Time `json:"madeAt"`
	State  string    `json:"state"`
}

// Trip is what somebody puts together: the basket.
type Trip struct {
	ID       string `json:"id"`
	Legs     []Leg  `json:"legs"`
	Discount string `json:"discount,omitempty"` // its code
	Lines    []Line `json:"lines"`
	Cents    int64  `json:"cents"`
}

// Leg is a sailing with who and what goes on it.
type Leg struct {
	Sailing Sailing `json:"sailing"`
	Adults  int     `json:"adults"`
	Vehicle string  `json:"vehicle,omitempty"`
	Cabin   bool    `json:"cabin,omitempty"`
}

// Line is a price with what it is for.
type Line struct {
	Text  string `json:"text"`
	Cents int64  `json:"cents"`
}

// Refusals of the system.
var (
	ErrUnknown = errors.New("there is no such thing")
	ErrRefused = errors.New("that cannot be booked")
)

// Limits of the system.
const (
	legsMost   = 8
	adultsMost = 40
	tripsKept  = 5000
	cabin      = 3800
	groupOf    = 10 // from so many adults on the group fare holds
	groupShare = 10 // percent
)

// System is the line's booking system. It is safe for concurrent use.
type System struct {
	Zone *time.Location
	Now  func() time.Time
	// Site is the address of the line's site, Records that of the system's own pages.
	Site, Records string

	mu        sync.Mutex
	customers []*Customer
	bookings  []*Booking
	trips     map[string]*Trip
	oldest    []string // trips, the oldest first
	number    int
}

// Discounts that the line gives.
var Discounts = []Discount{
	{"WINTER10", "Winter crossings", 10, "31 March"},
	{"ISLANDER", "Island card", 50, "all year, for those who live on Brae or Little Fenna"},
	{"EARLY5", "Booked two weeks ahead", 5, "all year"},
}

// New returns the system with the customers and bookings of Kelpwick Ferries.
func New(zone *time.Location, now func() time.Time) *System {
	s := &System{Zone: zone, Now: now, trips: map[string]*Trip{}, number: 20_416}
	s.seed()
	return s
}

// day returns the beginning of the day that is so many days from now.
func (s *System) day(ahead int) time.Time {
	n := s.Now().In(s.Zone)
	return time.Date(n.Year(), n.Month(), n.Day()+ahead, 0, 0, 0, 0, s.Zone)
}

// Sailings returns those between two ports on a day that have not left; an empty port
// is any.
func (s *System) Sailings(from, to string, day time.Time) []Sailing {
	now := s.Now()
	return slices.DeleteFunc(sailings(day.In(s.Zone)), func(one Sailing) bool {
		return from != "" && one.From != from || to != "" && one.To != to || !one.Departs.After(now)
	})
}

// Sailing returns a sailing that has not left.
func (s *System) Sailing(id string) (Sailing, error) {
	at := strings.LastIndex(strings.TrimRight(id, "0123456789"), "-")
	if at < 9 {
		return Sailing{}, ErrUnknown
	}
	day, err := time.ParseInLocation("20060102", id[at-8:at], s.Zone)
	if err != nil {
		return Sailing{}, ErrUnknown
	}
	for _, one := range s.Sailings("", "", day) {
		if one.ID == id {
			return one, nil
		}
	}
	return Sailing{}, ErrUnknown
}

// Begin returns a trip with nothing in it. The oldest are forgotten.
func (s *System) Begin() Trip {
	s.mu.Lock()
	defer s.mu.Unlock()
	t := &Trip{ID: uuid.NewString(), Legs: []Leg{}, Lines: []Line{}}
	s.trips[t.ID] = t
	s.oldest = append(s.oldest, t.ID)
	if len(s.oldest) > tripsKept {
		delete(s.trips, s.oldest[0])
		s.oldest = s.oldest[1:]
	}
	return *t
}

// Trip returns a trip as it is.
func (s *System) Trip(id string) (Trip, error) { return s.change(id, func(*Trip) error { return nil }) }

// Add puts a sailing into a trip.
func (s *System) Add(id, sailing string, adults int, vehicle string, withCabin bool) (Trip, error) {
	one, err := s.Sailing(sailing)
	if err != nil {
		return Trip{}, err
	}
	return s.change(id, func(t *Trip) error {
		_, takes := one.Fares.Of(vehicle)
		switch {
		case adults < 1 || adults > adultsMost:
			return fmt.Errorf("%w: 1 to %d adults can travel together", ErrRefused, adultsMost)
		case len(t.Legs) >= legsMost:
			return fmt.Errorf("%w: a trip has %d crossings at most", ErrRefused, legsMost)
		case !takes:
			return fmt.Errorf("%w: %s does not take this vehicle to %s", ErrRefused, one.Ship, one.To)
		case withCabin && one.Ship != "MV Dunlin":
			return fmt.Errorf("%w: there are cabins on MV Dunlin only", ErrRefused)
		}
		t.Legs = append(t.Legs, Leg{one, adults, vehicle, withCabin})
		return nil
	})
}

// Remove takes a crossing out of a trip.
func (s *System) Remove(id string, leg int) (Trip, error) {
	return s.change(id, func(t *Trip) error {
		if leg < 0 || leg >= len(t.Legs) {
			return ErrUnknown
		}
		t.Legs = slices.Delete(slices.Clone(t.Legs), leg, leg+1)
		return nil
	})
}

// Reduce lets a discount hold for a trip.
func (s *System) Reduce(id, code string) (Trip, error) {
	return s.change(id, func(t *Trip) error {
		d, err := discount(code)
		if err != nil {
			return fmt.Errorf("%w: there is no discount with the code %s", ErrRefused, code)
		}
		t.Discount = d.Code
		return nil
	})
}

func discount(code string) (Discount, error) {
	for _, d := range Discounts {
		if strings.EqualFold(d.Code, strings.TrimSpace(code)) {
			return d, nil
		}
	}
	return Discount{}, ErrUnknown
}

func (s *System) change(id string, how func(*Trip) error) (Trip, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	t := s.trips[id]
	if t == nil {
		return Trip{}, ErrUnknown
	}
	after := *t
	if err := how(&after); err != nil {
		return *t, err
	}
	after.price()
	*t = after
	return after, nil
}

// price writes down what a trip costs.
func (t *Trip) price() {
	t.Lines, t.Cents = []Line{}, 0
	add := func(cents int64, format string, values ...any) {
		t.Lines = append(t.Lines, Line{fmt.Sprintf(format, values...), cents})
		t.Cents += cents
	}
	for _, l := range t.Legs {
		people := "1 adult"
		if l.Adults > 1 {
			people = fmt.Sprintf("%d adults", l.Adults)
		}
		add(int64(l.Adults)*l.Sailing.Fares.Adult, "%s, %s to %s, %s", people, l.Sailing.From, l.Sailing.To, l.Sailing.Departs.Format("2 Jan 15:04"))
		if l.Adults >= groupOf {
			add(-int64(l.Adults)*l.Sailing.Fares.Adult*groupShare/100, "Group fare")
		}
		if cents, _ := l.Sailing.Fares.Of(l.Vehicle); cents > 0 {
			add(cents, "%s", map[string]string{Car: "Car to 5 m", Minibus: "Minibus to 7 m", Bicycle: "Bicycle"}[l.Vehicle])
		}
		if l.Cabin {
			add(cabin, "Cabin, two berths")
		}
	}
	if d, err := discount(t.Discount); err == nil && t.Cents > 0 {
		add(-t.Cents*d.Percent/100, "%s, %d %%", d.Title, d.Percent)
	}
}

// Book books a trip for somebody and returns its number. The trip is empty then.
func (s *System) Book(id, name, email string) (Booking, error) {
	name, email = strings.TrimSpace(name), strings.TrimSpace(email)
	var made Booking
	_, err := s.change(id, func(t *Trip) error {
		switch {
		case len(t.Legs) == 0:
			return fmt.Errorf("%w: there is nothing in the trip", ErrRefused)
		case name == "" || !strings.Contains(email, "@"):
			return fmt.Errorf("%w: a name and an email are needed", ErrRefused)
		case slices.ContainsFunc(t.Legs, func(l Leg) bool { return !l.Sailing.Departs.After(s.Now()) }):
			return fmt.Errorf("%w: one of the sailings has left", ErrRefused)
		}
		s.number++
		made = Booking{Number: fmt.Sprintf("KF-%05d", s.number), Name: name, Email: email, Trip: *t, MadeAt: s.Now(), State: "Confirmed"}
		s.bookings = append(s.bookings, &made)
		s.customer(name, email, "")
		t.Legs, t.Discount = []Leg{}, ""
		return nil
	})
	return made, err
}

// Booking returns the booking with a number, if it is in somebody's family name, or in
// their whole name.
func (s *System) Booking(number, name string) (Booking, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	number, name = strings.ToUpper(strings.TrimSpace(number)), strings.Join(strings.Fields(name), " ")
	if number != "" && !strings.HasPrefix(number, "KF-") {
		number = "KF-" + strings.TrimPrefix(number, "KF")
	}
	for _, b := range s.bookings {
		words := strings.Fields(b.Name)
		if b.Number == number && len(words) > 0 && (strings.EqualFold(b.Name, name) || strings.EqualFold(words[len(words)-1], name)) {
			return *b, nil
		}
	}
	return Booking{}, ErrUnknown
}

// customer returns the customer with an email, or makes one; the lock is held.
func (s *System) customer(name, email, phone string) *Customer {
	for _, c := range s.customers {
		if strings.EqualFold(c.Email, email) {
			return c
		}
	}
	c := &Customer{ID: fmt.Sprintf("C-%04d", 1001+len(s.customers)), Name: cmp.Or(name, email), Email: email, Phone: phone, Tier: "none", Since: s.Now()}
	s.customers = append(s.customers, c)
	return c
}

// seed makes the customers and bookings that there are in the beginning.
func (s *System) seed() {
	since := func(years int) time.Time { return s.day(0).AddDate(-years, -years, 0) }
	for _, c := range []Customer{
		{Name: "Mirren Tolliver", Email: "mirren.tolliver@example.org", Phone: "+45 00 11 22 31", Tier: "gold", Manager: "Tove Sandmark", Since: since(9), Bookings: 31},
		{Name: "Jory Penhale", Email: "jory.penhale@example.org", Tier: "gold", Manager: "Sunniva Rask", Since: since(6), Bookings: 18},
		{Name: "Petra Quill", Email: "petra.quill@example.org", Tier: "silver", Since: since(3), Bookings: 6},
		{Name: "Wren Castellane", Email: "wren.castellane@example.com", Tier: "none", Since: since(1), Bookings: 1},
	} {
		made := s.customer(c.Name, c.Email, c.Phone)
		c.ID = made.ID
		*made = c
	}
	for _, b := range []struct {
		name, email, from, to, vehicle string
		ahead, adults                  int
	}{
		{"Wren Castellane", "wren.castellane@example.com", "Kelpwick", "Isle of Brae", Car, 3, 2},
		{"Mirren Tolliver", "mirren.tolliver@example.org", "Kelpwick", "Northholm", Minibus, 5, 6},
		{"Petra Quill", "petra.quill@example.org", "Kelpwick", "Sandry", Bicycle, 2, 1},
		{"Jory Penhale", "jory.penhale@example.org", "Aldermouth", "Kelpwick", Car, 9, 3},
	} {
		t := s.Begin()
		_, err := s.Add(t.ID, s.Sailings(b.from, b.to, s.day(b.ahead))[0].ID, b.adults, b.vehicle, false)
		if err == nil {
			_, err = s.Book(t.ID, b.name, b.email)
		}
		if err != nil {
			panic("the demo's own bookings are refused: " + err.Error()) // they stand above
		}
	}
}
