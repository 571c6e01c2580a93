package demo

import (
	"context"
	"time"

	"github.com/google/uuid"

	"stoop/core/hours"
	"stoop/core/routing"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// The departments of Kelpwick Ferries.
const (
	TravelHelp = "Travel help"
	Bookings   = "Bookings"
	Freight    = "Freight"
)

// house is the demo's departments by name, and its rules.
type house struct {
	departments map[string]string
	rules       []settings.Rule
}

// decide returns where a chat of the history went, by the page it began on.
func (h house) decide(page string) routing.Decision {
	name, rule := TravelHelp, ""
	switch page {
	case "Freight":
		name, rule = Freight, "Freight pages"
	case "Fares", "Pay for your trip", "My booking":
		name, rule = Bookings, "Booking pages"
	}
	d := routing.Decision{Department: h.departments[name]}
	if rule == "" {
		d.Reasons = []routing.Reason{{Code: routing.ByDefault, Values: map[string]string{"department": name}}}
	} else {
		d.Reasons = []routing.Reason{{Code: routing.ByRule, Values: map[string]string{"rule": rule}}}
	}
	return d
}

// seedSettings stores hours, departments, rules and contacts. Travel help is
// open around the clock, so that the demo works at any hour.
func seedSettings(ctx context.Context, s *store.Store, operators []string, now time.Time) (house, error) {
	h := house{departments: map[string]string{}}
	desk, office := deskHours(now), officeHours(now)
	for _, one := range []settings.Hours{desk, office} {
		if err := settings.On(s).SaveHours(ctx, one); err != nil {
			return h, err
		}
	}
	first, err := settings.On(s).Departments(ctx)
	if err != nil {
		return h, err
	}
	idris, tove, sunniva, maren, ansel := operators[0], operators[1], operators[2], operators[3], operators[4]
	// The department that every installation begins with becomes Travel help.
	help := first[0]
	help.Name, help.HandOut, help.Choice, help.LastFirst, help.Capacity = TravelHelp, routing.Pick, routing.Fewest, false, 4
	help.SilentRemind, help.SilentEnd = 300, 300
	help.Members = members([]string{idris, tove, sunniva, maren}, ansel)
	bookings := settings.Department{
		ID: uuid.NewString(), Name: Bookings, HoursID: &desk.ID, HandOut: routing.Offer, Choice: routing.Share, LastFirst: true, LanguagesFirst: true,
		Capacity: 3, TargetSeconds: 60, OfferSeconds: 20, PassLimit: 3, HandOnSeconds: 60, AlertWaiting: 5, AlertWaitSeconds: 180, AlertNobodySeconds: 300, AlertRatings: true,
		OverflowTo: []string{help.ID}, OverflowAfter: 90, OverflowLength: 6, OverflowClosed: true, CreatedAt: now,
		Members: members([]string{idris, tove}, maren),
	}
	freight := settings.Department{
		ID: uuid.NewString(), Name: Freight, HoursID: &office.ID, HandOut: routing.Assign, Choice: routing.Turn, LastFirst: true,
		Capacity: 2, TargetSeconds: 120, OfferSeconds: 30, PassLimit: 3, HandOnSeconds: 90, AlertWaiting: 4, AlertWaitSeconds: 360, AlertNobodySeconds: 300, AlertRatings: true, WrapUpSeconds: 30, WrapUpRequired: true, SilentRemind: 600,
		OverflowTo: []string{help.ID}, OverflowAfter: 120, OverflowClosed: true, CreatedAt: now,
		Members: members([]string{sunniva}, tove),
	}
	for _, d := range []settings.Department{help, bookings, freight} {
		if err := settings.On(s).SaveDepartment(ctx, d); err != nil {
			return h, err
		}
		h.departments[d.Name] = d.ID
	}
	_, version, err := settings.On(s).Rules(ctx)
	if err != nil {
		return h, err
	}
	h.rules = rules(h.departments)
	if err := settings.On(s).SaveRules(ctx, h.rules, version); err != nil {
		return h, err
	}
	for _, c := range contacts(sunniva, tove, now) {
		if _, err := register.On(s).SaveContact(ctx, c); err != nil {
			return h, err
		}
	}
	return h, nil
}

func members(primary []string, backup ...string) []settings.Member {
	var list []settings.Member
	for _, id := range primary {
		list = append(list, settings.Member{OperatorID: id})
	}
	for _, id := range backup {
		list = append(list, settings.Member{OperatorID: id, Backup: true})
	}
	return list
}

func deskHours(now time.Time) settings.Hours {
	h := settings.Hours{ID: uuid.NewString(), Name: "Ferry desk", Zone: TimeZone, CreatedAt: now, Exceptions: []hours.Exception{
		{Date: hours.Date{Year: 2025, Month: time.December, Day: 24}, Name: "Christmas Eve", Yearly: true, Spans: []hours.Span{{From: 7 * 60, To: 13 * 60}}},
		{Date: hours.Date{Year: 2025, Month: time.December, Day: 25}, Name: "Christmas Day", Yearly: true},
		{Date: hours.Date{Year: 2026, Month: time.January, Day: 1}, Name: "New Year's Day", Yearly: true},
	}}
	for day := time.Sunday; day <= time.Saturday; day++ {
		h.Weekly = append(h.Weekly, hours.Period{Day: day, Span: hours.Span{From: 6 * 60, To: 22*60 + 30}})
	}
	return h
}

func officeHours(now time.Time) settings.Hours {
	h := settings.Hours{ID: uuid.NewString(), Name: "Freight office", Zone: TimeZone, CreatedAt: now, Exceptions: []hours.Exception{}}
	for day := time.Monday; day <= time.Friday; day++ {
		h.Weekly = append(h.Weekly,
			hours.Period{Day: day, Span: hours.Span{From: 5 * 60, To: 12 * 60}},
			hours.Period{Day: day, Span: hours.Span{From: 13 * 60, To: 18 * 60}})
	}
	h.Weekly = append(h.Weekly, hours.Period{Day: time.Saturday, Span: hours.Span{From: 6 * 60, To: 12 * 60}})
	return h
}

func rules(departments map[string]string) []settings.Rule {
	rule := func(name string, conditions ...routing.Condition) settings.Rule {
		return settings.Rule{ID: uuid.NewString(), Name: name, IsOn: true, Match: routing.All, Conditions: conditions}
	}
	gold := rule("Gold travellers", routing.Condition{Field: "outside.tier", Operator: routing.Equals, Value: "gold"})
	gold.DepartmentID, gold.AccountOwner, gold.Priority = departments[Bookings], true, 3
	freight := rule("Freight pages", routing.Condition{Field: "page.url", Operator: routing.Contains, Value: "/freight"})
	freight.DepartmentID = departments[Freight]
	booking := rule("Booking pages",
		routing.Condition{Field: "page.url", Operator: routing.Contains, Value: "/book"},
		routing.Condition{Field: "page.url", Operator: routing.Contains, Value: "/my-booking"})
	booking.Match, booking.DepartmentID = routing.Any, departments[Bookings]
	return []settings.Rule{gold, freight, booking}
}

func contacts(sunniva, tove string, now time.Time) []register.Contact {
	contact := func(name, email, owner string, outside map[string]string) register.Contact {
		c := register.Contact{ID: uuid.NewString(), Name: name, Email: &email, Outside: outside, CreatedAt: now}
		if owner != "" {
			c.AccountOwnerID = &owner
		}
		return c
	}
	return []register.Contact{
		contact("Mirren Tolliver", "mirren.tolliver@example.org", tove, map[string]string{"tier": "gold", "bookings": "31", "basket": "412.80"}),
		contact("Jory Penhale", "jory.penhale@example.org", sunniva, map[string]string{"tier": "gold", "bookings": "18"}),
		contact("Petra Quill", "petra.quill@example.org", "", map[string]string{"tier": "silver", "bookings": "6"}),
		contact("Wren Castellane", "wren.castellane@example.com", "", map[string]string{"tier": "none", "bookings": "2", "basket": "182.00"}),
	}
}
