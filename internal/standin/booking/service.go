package booking

import (
	"crypto/subtle"
	"embed"
	"encoding/json"
	"errors"
	"html/template"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"stoop/internal/outside"
)

//go:embed record.html
var pages embed.FS

var page = template.Must(template.ParseFS(pages, "record.html"))

// Serve serves the system's own interface, which wants a key, and the pages of its
// records for the staff. Close what it returns.
func (s *System) Serve(listener net.Listener, key string, log *slog.Logger) *http.Server {
	s.Records = "http://" + listener.Addr().String()
	server := &http.Server{Handler: s.Handler(key), ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			log.Error("the booking system stopped", "error", err)
		}
	}()
	return server
}

// Handler answers what is asked of the system.
func (s *System) Handler(key string) http.Handler {
	router := chi.NewRouter()
	router.Get("/customers/{id}", s.recordPage)
	router.Route("/api", func(r chi.Router) {
		r.Use(func(next http.Handler) http.Handler {
			return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
				given := strings.TrimPrefix(q.Header.Get("Authorization"), "Bearer ")
				if subtle.ConstantTimeCompare([]byte(given), []byte(key)) != 1 {
					http.Error(w, "the key is wrong", http.StatusUnauthorized)
					return
				}
				next.ServeHTTP(w, q)
			})
		})
		r.Get("/records", s.getRecord)
		r.Post("/records", s.addRecord)
		r.Get("/cards", func(w http.ResponseWriter, q *http.Request) {
			write(w, map[string]any{"cards": s.cards(q.URL.Query().Get("words"))}, nil)
		})
		r.Get("/cards/{kind}/{id}", func(w http.ResponseWriter, q *http.Request) {
			c, err := s.card(chi.URLParam(q, "kind"), chi.URLParam(q, "id"))
			write(w, c, err)
		})
		r.Post("/lookup", func(w http.ResponseWriter, q *http.Request) {
			var in struct{ Number, Name string }
			if !read(w, q, &in) {
				return
			}
			b, err := s.Booking(in.Number, in.Name)
			if err != nil {
				write(w, nil, err)
				return
			}
			write(w, s.bookingCard(b), nil)
		})
	})
	return router
}

func (s *System) getRecord(w http.ResponseWriter, q *http.Request) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, c := range s.customers {
		if strings.EqualFold(c.Email, q.URL.Query().Get("email")) {
			write(w, s.record(c), nil)
			return
		}
	}
	write(w, nil, ErrUnknown)
}

func (s *System) addRecord(w http.ResponseWriter, q *http.Request) {
	var in outside.Person
	if !read(w, q, &in) {
		return
	}
	if !strings.Contains(in.Email, "@") {
		http.Error(w, "a customer needs an email", http.StatusUnprocessableEntity)
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	write(w, s.record(s.customer(in.Name, in.Email, in.Phone)), nil)
}

// recordPage is where the line's own staff reads a record.
func (s *System) recordPage(w http.ResponseWriter, q *http.Request) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, c := range s.customers {
		if c.ID != chi.URLParam(q, "id") {
			continue
		}
		var bookings []*Booking
		for _, b := range s.bookings {
			if strings.EqualFold(b.Email, c.Email) {
				bookings = append(bookings, b)
			}
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		if err := page.Execute(w, map[string]any{"Customer": c, "Record": s.record(c), "Bookings": bookings}); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
		}
		return
	}
	http.NotFound(w, q)
}

func read(w http.ResponseWriter, q *http.Request, into any) bool {
	if err := json.NewDecoder(http.MaxBytesReader(w, q.Body, 64<<10)).Decode(into); err != nil {
		http.Error(w, "the request is no JSON of the agreed kind: "+err.Error(), http.StatusBadRequest)
		return false
	}
	return true
}

func write(w http.ResponseWriter, value any, err error) {
	switch {
	case errors.Is(err, ErrUnknown):
		http.Error(w, err.Error(), http.StatusNotFound)
	case err != nil:
		http.Error(w, err.Error(), http.StatusUnprocessableEntity)
	default:
		w.Header().Set("Content-Type", "application/json")
		if err := json.NewEncoder(w).Encode(value); err != nil {
			slog.Debug("nobody waited for an answer of the booking system", "error", err)
		}
	}
}
