// Package phone stands in for the telephone system of the world outside: asked to ring a number,
// it shows on its page that it rings, and somebody there answers or lets it ring. Text messages
// come to its telephones, and can be written on them.
package phone

import (
	"embed"
	"encoding/json"
	"html/template"
	"log/slog"
	"net/http"
	"strconv"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
)

//go:embed *.html
var pages embed.FS

var shown = template.Must(template.ParseFS(pages, "*.html"))

// callsKept bounds how many calls are remembered: the latest ones.
const callsKept = 50

// Call is a call that was asked for.
type Call struct {
	Number int // 1, 2, 3 …
	To     string
	By     string
	About  string
	At     time.Time
	State  string // ringing, answered, unanswered
}

// Phone keeps calls in memory. It is safe for concurrent use.
type Phone struct {
	key string
	log *slog.Logger
	// Lines are Stoop's numbers, and Own is the one that the page writes from at first.
	Lines []string
	Own   string

	mu    sync.Mutex
	calls []Call // the latest first
	count int
	texts []Text // the latest last
	stoop string
}

// New returns a telephone system that rings for whoever sends a key.
func New(key string, log *slog.Logger) *Phone { return &Phone{key: key, log: log} }

// Calls returns the calls, the latest first.
func (p *Phone) Calls() []Call {
	p.mu.Lock()
	defer p.mu.Unlock()
	return append([]Call{}, p.calls...)
}

// Handler answers by the interfaces that docs/guide describes, at /ring to tickets.md and at /send
// to channels.md, and shows the pages.
func (p *Phone) Handler() http.Handler {
	router := chi.NewRouter()
	router.Post("/ring", p.ring)
	router.Get("/", p.show)
	router.Post("/send", p.sendText)
	router.Get("/texts", p.showTexts)
	router.Get("/texts/messages", p.showMessages)
	router.With(http.NewCrossOriginProtection().Handler).Post("/texts", p.write)
	router.With(http.NewCrossOriginProtection().Handler).Post("/calls/{number}/{state}", p.pick)
	return router
}

func (p *Phone) ring(w http.ResponseWriter, q *http.Request) {
	if q.Header.Get("Authorization") != "Bearer "+p.key {
		http.Error(w, "wrong key", http.StatusUnauthorized)
		return
	}
	var in struct{ To, By, About string }
	if err := json.NewDecoder(http.MaxBytesReader(w, q.Body, 1<<20)).Decode(&in); err != nil || in.To == "" {
		http.Error(w, "this is no number", http.StatusBadRequest)
		return
	}
	p.mu.Lock()
	p.count++
	p.calls = append([]Call{{Number: p.count, To: in.To, By: in.By, About: in.About, At: time.Now(), State: "ringing"}}, p.calls...)
	p.calls = p.calls[:min(len(p.calls), callsKept)]
	p.mu.Unlock()
	w.Header().Set("Content-Type", "application/json")
	if err := json.NewEncoder(w).Encode(map[string]bool{"ringing": true}); err != nil {
		p.log.Warn("that it rings could not be said", "error", err)
	}
}

func (p *Phone) pick(w http.ResponseWriter, q *http.Request) {
	p.mu.Lock()
	for i := range p.calls {
		if chi.URLParam(q, "number") == strconv.Itoa(p.calls[i].Number) && p.calls[i].State == "ringing" {
			p.calls[i].State = map[string]string{"answer": "answered", "leave": "unanswered"}[chi.URLParam(q, "state")]
		}
	}
	p.mu.Unlock()
	http.Redirect(w, q, "/", http.StatusSeeOther)
}

func (p *Phone) show(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	if err := shown.ExecuteTemplate(w, "page.html", p.Calls()); err != nil {
		p.log.Warn("the telephone's page could not be shown", "error", err)
	}
}
