package booking

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"stoop/core/chat"
	"stoop/internal/outside"
)

const (
	cardsMost = 20
	daysAhead = 4
)

// record returns what Stoop is told of a customer.
func (s *System) record(c *Customer) outside.Record {
	bookings, next := c.Bookings, ""
	for _, b := range s.bookings {
		if !strings.EqualFold(b.Email, c.Email) {
			continue
		}
		bookings++
		if leg := b.Trip.Legs[0].Sailing; leg.Departs.After(s.Now()) {
			next = fmt.Sprintf("%s to %s, %s (%s)", leg.From, leg.To, leg.Departs.In(s.Zone).Format("2 Jan 15:04"), b.Number)
		}
	}
	return outside.Record{ID: c.ID, Name: c.Name, Link: s.Records + "/customers/" + c.ID, Fields: []outside.RecordField{
		{Name: "customer", Label: "Customer", Value: c.ID},
		{Name: "tier", Label: "Tier", Value: c.Tier},
		{Name: "bookings", Label: "Bookings", Value: strconv.Itoa(bookings)},
		{Name: "next", Label: "Next crossing", Value: next},
		{Name: "manager", Label: "Account manager", Value: c.Manager},
		{Name: "since", Label: "Customer since", Value: c.Since.In(s.Zone).Format("January 2006")},
	}}
}

func money(cents int64) *chat.Money { return &chat.Money{Cents: cents, Currency: "EUR"} }

func (s *System) sailingCard(one Sailing) chat.Card {
	departs := one.Departs.In(s.Zone)
	return chat.Card{
		Kind: "sailing", ID: one.ID, Title: one.From + " to " + one.To, Price: money(one.Fares.Adult), Basket: true,
		Lines: []string{
			departs.Format("Monday 2 January, 15:04") + " to " + one.Arrives.In(s.Zone).Format("15:04"),
			fmt.Sprintf("%s, room for %d cars; fare for one adult", one.Ship, one.FreeCars),
		},
		Link: fmt.Sprintf("%s/book/sailings?from=%s&to=%s&day=%s", s.Site, strings.ReplaceAll(one.From, " ", "+"), strings.ReplaceAll(one.To, " ", "+"), departs.Format("2006-01-02")),
	}
}

func (s *System) discountCard(d Discount) chat.Card {
	return chat.Card{
		Kind: "discount", ID: d.Code, Title: fmt.Sprintf("%s: %d %% off", d.Title, d.Percent), Basket: true,
		Lines: []string{"Code " + d.Code, "Until " + d.Until}, Link: s.Site + "/book/pay?discount=" + d.Code,
	}
}

func (s *System) bookingCard(b Booking) chat.Card {
	c := chat.Card{Kind: "booking", ID: b.Number, Title: "Booking " + b.Number, Lines: []string{b.State + ", for " + b.Name}, Price: money(b.Trip.Cents), Link: s.Site + "/my-booking?number=" + b.Number}
	for _, l := range b.Trip.Legs {
		c.Lines = append(c.Lines, fmt.Sprintf("%s to %s, %s", l.Sailing.From, l.Sailing.To, l.Sailing.Departs.In(s.Zone).Format("Monday 2 January, 15:04")))
	}
	return c
}

// cards returns what has all of some words: bookings, discounts, then sailings in the
// order in which they leave.
func (s *System) cards(words string) []chat.Card {
	wanted := strings.Fields(strings.ToLower(words))
	var list []chat.Card
	add := func(c chat.Card, also string) {
		text := strings.ToLower(c.Kind + " " + c.Words() + " " + also)
		if len(list) < cardsMost && !slices.ContainsFunc(wanted, func(w string) bool { return !strings.Contains(text, w) }) {
			list = append(list, c)
		}
	}
	if len(wanted) > 0 { // bookings are somebody's: none is shown unasked
		s.mu.Lock()
		bookings := slices.Clone(s.bookings)
		s.mu.Unlock()
		for _, b := range slices.Backward(bookings) {
			add(s.bookingCard(*b), b.Email)
		}
	}
	for _, d := range Discounts {
		add(s.discountCard(d), "")
	}
	for ahead := range daysAhead {
		for _, one := range s.Sailings("", "", s.day(ahead)) {
			add(s.sailingCard(one), map[int]string{0: "today", 1: "tomorrow"}[ahead])
		}
	}
	return list
}

// card returns one thing.
func (s *System) card(kind, id string) (chat.Card, error) {
	switch kind {
	case "sailing":
		one, err := s.Sailing(id)
		return s.sailingCard(one), err
	case "discount":
		d, err := discount(id)
		return s.discountCard(d), err
	case "booking":
		s.mu.Lock()
		defer s.mu.Unlock()
		for _, b := range s.bookings {
			if b.Number == id {
				return s.bookingCard(*b), nil
			}
		}
	}
	return chat.Card{}, ErrUnknown
}
