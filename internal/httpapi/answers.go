package httpapi

import (
	"encoding/json"
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"

	"stoop/internal/problem"
)

// maxJSON bounds what ReadJSON reads, in bytes.
const maxJSON = 16 << 10

// ReadJSON reads the body of a request that is no typed operation; a refusal it
// has answered already.
func ReadJSON(w http.ResponseWriter, r *http.Request, into any) bool {
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, maxJSON)).Decode(into); err != nil {
		WriteProblem(w, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must be a JSON object."))
		return false
	}
	return true
}

// Write answers with a result as JSON, or with the problem of an error.
func (s *server) Write(w http.ResponseWriter, r *http.Request, result any, err error) {
	if err != nil {
		s.Fail(w, r, err)
		return
	}
	writeJSON(w, http.StatusOK, result)
}

// Fail answers with the problem of an error; of trouble of our own the log is
// told.
func (s *server) Fail(w http.ResponseWriter, r *http.Request, err error) {
	p := problem.From(err)
	var known *problem.Problem
	if p.IsOurs() && !errors.As(err, &known) {
		s.Log.Error("a request failed", "path", r.URL.Path, "error", err)
	}
	WriteProblem(w, p)
}

// WriteProblem answers with a problem document.
func WriteProblem(w http.ResponseWriter, p *problem.Problem) {
	w.Header().Set("Content-Type", p.ContentType(""))
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the reader has gone if this fails
}

func writeJSON(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v) // the reader has gone if this fails
}

// AddressOf is where a request comes from, as bans know it.
func AddressOf(r *http.Request) string { return middleware.GetClientIP(r.Context()) }
