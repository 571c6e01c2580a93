package demo

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"stoop/internal/standin/booking"
)

// trips are the pages of the site on which one books: they change what lies in the
// line's booking system. Nothing but the id of a trip is kept in a browser.
type trips struct {
	booking *booking.System
	show    func(w http.ResponseWriter, q *http.Request, p Page, data map[string]any)
}

// The pages on the way to an order number.
var (
	sailingsPage = Page{"/book/sailings", "Choose your sailings", "sailings", false, ""}
	payPage      = Page{"/book/pay", "Pay for your trip", "pay", false, ""}
	bookedPage   = Page{"/book/done", "Thank you", "booked", false, ""}
)

const tripCookie = "trip"

func (s *trips) routes(mux *http.ServeMux) {
	own := http.NewCrossOriginProtection().Handler
	mux.HandleFunc("GET /book/sailings", s.sailings)
	mux.Handle("POST /book/sailings", own(http.HandlerFunc(s.add)))
	mux.HandleFunc("GET /book/pay", s.pay)
	mux.Handle("POST /book/remove", own(http.HandlerFunc(s.remove)))
	mux.Handle("POST /book/pay", own(http.HandlerFunc(s.book)))
	mux.Handle("POST /book/card", own(http.HandlerFunc(s.card)))
	mux.HandleFunc("GET /book/done", func(w http.ResponseWriter, q *http.Request) {
		s.show(w, q, bookedPage, map[string]any{"Number": q.URL.Query().Get("number"), "Booked": true})
	})
}

// trip returns the trip of a browser; one without anything if there is none.
func (s *trips) trip(q *http.Request) booking.Trip {
	if c, err := q.Cookie(tripCookie); err == nil {
		if t, err := s.booking.Trip(c.Value); err == nil {
			return t
		}
	}
	return booking.Trip{}
}

// started returns the trip of a browser, which is begun if there is none.
func (s *trips) started(w http.ResponseWriter, q *http.Request) booking.Trip {
	t := s.trip(q)
	if t.ID == "" {
		t = s.booking.Begin()
		http.SetCookie(w, &http.Cookie{Name: tripCookie, Value: t.ID, Path: "/", HttpOnly: true, SameSite: http.SameSiteLaxMode, MaxAge: 7 * 24 * 3600})
	}
	return t
}

// basket returns a trip as stoop.basket takes it: prices in whole units.
func basket(t booking.Trip) map[string]any {
	lines := make([]map[string]any, len(t.Lines))
	for i, l := range t.Lines {
		lines[i] = map[string]any{"text": l.Text, "price": json.Number(euros(l.Cents))}
	}
	return map[string]any{"currency": "EUR", "lines": lines}
}

func euros(cents int64) string {
	sign := ""
	if cents < 0 {
		sign, cents = "-", -cents
	}
	return fmt.Sprintf("%s%d.%02d", sign, cents/100, cents%100)
}

// wish is what somebody looks for.
type wish struct {
	From, To, Vehicle string
	Day               time.Time
	Adults            int
}

func (s *trips) wish(values url.Values) wish {
	now := s.booking.Now().In(s.booking.Zone)
	day, err := time.ParseInLocation("2006-01-02", values.Get("day"), s.booking.Zone)
	if err != nil || day.Before(now.AddDate(0, 0, -1)) || day.After(now.AddDate(1, 0, 0)) {
		day = now.AddDate(0, 0, 1)
	}
	adults, err := strconv.Atoi(values.Get("adults"))
	if err != nil || adults < 1 {
		adults = 1
	}
	return wish{From: values.Get("from"), To: values.Get("to"), Vehicle: values.Get("vehicle"), Day: day, Adults: min(adults, 40)}
}

func (s *trips) sailings(w http.ResponseWriter, q *http.Request) {
	wanted := s.wish(q.URL.Query())
	s.show(w, q, sailingsPage, map[string]any{"Wish": wanted, "Sailings": s.booking.Sailings(wanted.From, wanted.To, wanted.Day)})
}

func (s *trips) add(w http.ResponseWriter, q *http.Request) {
	wanted := s.wish(sent(q))
	t := s.started(w, q)
	if _, err := s.booking.Add(t.ID, q.FormValue("sailing"), wanted.Adults, wanted.Vehicle, q.FormValue("cabin") != ""); err != nil {
		s.show(w, q, sailingsPage, map[string]any{"Wish": wanted, "Trouble": trouble(err), "Sailings": s.booking.Sailings(wanted.From, wanted.To, wanted.Day)})
		return
	}
	http.Redirect(w, q, payPage.Path, http.StatusSeeOther)
}

func (s *trips) remove(w http.ResponseWriter, q *http.Request) {
	leg, err := strconv.Atoi(sent(q).Get("leg"))
	if err == nil {
		_, err = s.booking.Remove(s.trip(q).ID, leg)
	}
	if err != nil {
		s.show(w, q, payPage, map[string]any{"Trouble": trouble(err)})
		return
	}
	http.Redirect(w, q, payPage.Path, http.StatusSeeOther)
}

func (s *trips) pay(w http.ResponseWriter, q *http.Request) {
	data := map[string]any{}
	if code := q.URL.Query().Get("discount"); code != "" {
		if _, err := s.booking.Reduce(s.started(w, q).ID, code); err != nil {
			data["Trouble"] = trouble(err)
		}
	}
	s.show(w, q, payPage, data)
}

func (s *trips) book(w http.ResponseWriter, q *http.Request) {
	values := sent(q)
	made, err := s.booking.Book(s.trip(q).ID, values.Get("name"), values.Get("email"))
	if err != nil {
		s.show(w, q, payPage, map[string]any{"Trouble": trouble(err), "Name": values.Get("name"), "Email": values.Get("email")})
		return
	}
	http.Redirect(w, q, bookedPage.Path+"?number="+url.QueryEscape(made.Number), http.StatusSeeOther)
}

// card puts into the trip what somebody took from a card in their chat, and answers
// with the basket.
func (s *trips) card(w http.ResponseWriter, q *http.Request) {
	var in struct{ Kind, ID string }
	err := json.NewDecoder(http.MaxBytesReader(w, q.Body, 4096)).Decode(&in)
	t := s.started(w, q)
	if err == nil {
		switch in.Kind {
		case "sailing":
			t, err = s.booking.Add(t.ID, in.ID, 1, "", false)
		case "discount":
			t, err = s.booking.Reduce(t.ID, in.ID)
		default:
			err = booking.ErrUnknown
		}
	}
	if err != nil {
		http.Error(w, trouble(err), http.StatusUnprocessableEntity)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	if err := json.NewEncoder(w).Encode(basket(t)); err != nil {
		return // the browser has gone
	}
}

// find is the page on which somebody looks for a booking of theirs.
func (s *trips) find(q *http.Request) map[string]any {
	number, name := q.URL.Query().Get("number"), q.URL.Query().Get("name")
	data := map[string]any{"Number": number, "Name": name}
	if number != "" && name != "" {
		found, err := s.booking.Booking(number, name)
		data["Found"], data["Missing"] = found, err != nil
	}
	return data
}

// sent reads what was sent; of what cannot be read there is nothing.
func sent(q *http.Request) url.Values {
	if err := q.ParseForm(); err != nil {
		return url.Values{}
	}
	return q.PostForm
}

// trouble puts a refusal of the booking system into words.
func trouble(err error) string {
	if errors.Is(err, booking.ErrRefused) {
		return "Sorry: " + strings.TrimPrefix(err.Error(), booking.ErrRefused.Error()+": ") + "."
	}
	return "Sorry: this is not there any more."
}

// tripWords are what pages need to write prices and times.
var tripWords = template.FuncMap{
	"euros": func(cents int64) string { return "€" + euros(cents) },
	"clock": func(t time.Time) string { return t.Format("15:04") },
	"date":  func(t time.Time) string { return t.Format("2006-01-02") },
}
