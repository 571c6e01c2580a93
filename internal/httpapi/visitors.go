package httpapi

import (
	"encoding/json"
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// maxPageBody bounds what a page of the site may send, in bytes.
const maxPageBody = 16 << 10

// visitorRoutes are those that a watched site and its panel use. Requests of
// the loader come from the site's own origin and carry no cookie.
func (s *server) visitorRoutes(r chi.Router) {
	r.Use(notStored)
	r.Options("/widget/{key}/pulse", s.allowSite)
	r.Post("/widget/{key}/pulse", s.pulse)
	r.Post("/widget/{key}/leave", s.leave)
	r.Get("/panel/{key}", s.panel)
	r.With(sameOriginOnly).Post("/widget/{key}/admit", s.admit)
	r.With(sameOriginOnly).Post("/widget/{key}/chats/{chat}/files", s.visitorUpload)
}

// siteWidget returns the widget that a request from a site's page names, and
// lets the page read the answer.
func (s *server) siteWidget(w http.ResponseWriter, r *http.Request) (store.Widget, bool) {
	origin := r.Header.Get("Origin")
	widget, err := s.App.WidgetFor(r.Context(), chi.URLParam(r, "key"), origin)
	w.Header().Add("Vary", "Origin")
	if origin != "" {
		// A refusal may be read too, so that the loader can say what is wrong.
		w.Header().Set("Access-Control-Allow-Origin", origin)
	}
	if err != nil {
		s.fail(w, r, err)
		return widget, false
	}
	return widget, true
}

func (s *server) allowSite(w http.ResponseWriter, r *http.Request) {
	if _, ok := s.siteWidget(w, r); ok {
		w.Header().Set("Access-Control-Allow-Methods", "POST")
		w.Header().Set("Access-Control-Allow-Headers", "Content-Type")
		w.Header().Set("Access-Control-Max-Age", "86400")
		w.WriteHeader(http.StatusNoContent)
	}
}

// pageStream lets a site's page read the stream of its widget's state.
func (s *server) pageStream(stream http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if _, ok := s.siteWidget(w, r); ok {
			stream.ServeHTTP(w, r)
		}
	})
}

// WidgetOf implements live.Door.
func (s *server) WidgetOf(r *http.Request) (string, error) {
	widget, err := s.App.WidgetFor(r.Context(), chi.URLParam(r, "key"), r.Header.Get("Origin"))
	return widget.ID, err
}

// pulse takes note of an open page and answers with the widget as it is now.
func (s *server) pulse(w http.ResponseWriter, r *http.Request) {
	widget, ok := s.siteWidget(w, r)
	if !ok {
		return
	}
	page, ok := readPage(w, r)
	if !ok {
		return
	}
	if !s.entering(w, r, "") {
		return
	}
	page.UserAgent, page.Address = r.UserAgent(), addressOf(r)
	if err := s.App.Pulse(r.Context(), widget, page); err != nil {
		s.fail(w, r, err)
		return
	}
	view, err := s.App.View(r.Context(), widget)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	writeJSON(w, http.StatusOK, view)
}

// leave takes note of a closed page. Browsers send it while the page goes
// away, so nobody reads the answer.
func (s *server) leave(w http.ResponseWriter, r *http.Request) {
	widget, ok := s.siteWidget(w, r)
	if !ok {
		return
	}
	page, ok := readPage(w, r)
	if !ok {
		return
	}
	if err := s.App.Leave(r.Context(), widget, page.VisitID); err != nil {
		s.fail(w, r, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

func readPage(w http.ResponseWriter, r *http.Request) (app.Page, bool) {
	var page app.Page
	// The content type is not asked for: a page that is going away can only
	// send text.
	err := json.NewDecoder(http.MaxBytesReader(w, r.Body, maxPageBody)).Decode(&page)
	if err == nil {
		err = uuid.Validate(page.VisitID)
	}
	if err != nil {
		writeProblem(w, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must be a JSON object with a visitId (a UUID)."))
		return page, false
	}
	return page, true
}

// Admission is what the panel gets to begin with.
type Admission struct {
	Token  string         `json:"token" doc:"Proves who the visitor is; the panel keeps it"`
	Widget app.WidgetView `json:"widget"`
	app.Resumed
}

// admit lets a visitor in: the one whose token the panel kept, or a new one.
func (s *server) admit(w http.ResponseWriter, r *http.Request) {
	var in struct {
		Token string `json:"token"`
		Back  string `json:"back"`
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, maxPageBody)).Decode(&in); err != nil {
		writeProblem(w, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must be a JSON object."))
		return
	}
	widget, err := s.App.Widget(r.Context(), chi.URLParam(r, "key"))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	known := ""
	if v, err := s.VisitorOf(in.Token); err == nil && v.WidgetID == widget.ID {
		known = v.ID
	}
	if in.Back != "" {
		// A link from a mail leads its reader back, on whatever device.
		if v, err := s.App.Returning(r.Context(), in.Back); err == nil && v.WidgetID == widget.ID {
			known = v.ID
		}
	}
	if !s.entering(w, r, known) {
		return
	}
	visitor, err := s.App.Admit(r.Context(), widget, known, addressOf(r))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	out := Admission{}
	if out.Token, err = s.tokenFor(visitor); err == nil {
		out.Widget, err = s.App.View(r.Context(), widget)
	}
	if err == nil {
		out.Resumed, err = s.App.Resume(r.Context(), visitor, "", 0)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	writeJSON(w, http.StatusOK, out)
}

func (s *server) fail(w http.ResponseWriter, r *http.Request, err error) {
	p := problem.From(err)
	var known *problem.Problem
	if p.IsOurs() && !errors.As(err, &known) {
		s.Log.Error("a request failed", "path", r.URL.Path, "error", err)
	}
	writeProblem(w, p)
}

func writeProblem(w http.ResponseWriter, p *problem.Problem) {
	w.Header().Set("Content-Type", p.ContentType(""))
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the reader has gone if this fails
}

func writeJSON(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v) // the reader has gone if this fails
}
