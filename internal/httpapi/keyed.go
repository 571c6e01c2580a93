package httpapi

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/httprate"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/internal/buckets"
	"stoop/internal/problem"
)

// Scope is what a key may read.
type Scope string

// The scopes.
const (
	ReadTranscripts Scope = "transcripts"
	ReadContacts    Scope = "contacts"
	ReadReports     Scope = "reports"
)

// Scopes are all of them.
var Scopes = []Scope{ReadContacts, ReadReports, ReadTranscripts}

// Keys is where keys are checked.
type Keys interface {
	// Check returns who reads with a key, and what they may; an error is a problem with words.
	Check(ctx context.Context, key string) (access.Actor, []Scope, error)
}

// How often is asked: with one key, and from one address with keys that are none.
const (
	asksPerMinute    = 120
	guessesPerMinute = 20
	guessersKept     = 10_000
)

// openPath is where the interface for other programs begins. It only grows: what a program reads
// today it can read tomorrow.
const openPath = "/api/v1"

type keyHolder struct {
	actor  access.Actor
	scopes []Scope
}

type keyHolderKey struct{}

// keyed serves the interface for other programs, each request by a key.
func (s *server) keyed(router chi.Router) huma.API {
	group := router.With(notStored, s.byKey, httprate.LimitBy(asksPerMinute, time.Minute, func(q *http.Request) (string, error) {
		holder, _ := q.Context().Value(keyHolderKey{}).(keyHolder)
		return holder.actor.ID, nil
	}, tooMany("too-fast")))
	return openAPI(group, router)
}

// openAPI returns the API of other programs, whose document anybody may read.
func openAPI(group, open chi.Router) huma.API {
	config := huma.DefaultConfig("Stoop for other programs", "1")
	config.OpenAPIPath, config.DocsPath, config.SchemasPath = "", "", ""
	config.CreateHooks = nil
	config.Info.Description = "Reading transcripts, contacts and reports. Every request carries a key that an admin made: Authorization: Bearer stoop_… One key may ask 120 times a minute."
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"key": {Type: "http", Scheme: "bearer", Description: "A key from Setup, API keys"}}
	api := humachi.New(group, config)
	open.Get(openPath+"/openapi.json", func(w http.ResponseWriter, _ *http.Request) {
		document, err := api.OpenAPI().MarshalJSON()
		if err != nil {
			WriteProblem(w, problem.From(err))
			return
		}
		w.Header().Set("Content-Type", "application/json")
		_, _ = w.Write(document) // whoever is gone needs none
	})
	return api
}

// byKey lets in whoever has a key. Guessing is bounded by address.
func (s *server) byKey(next http.Handler) http.Handler {
	guesses := buckets.New(guessersKept)
	return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		key, _ := strings.CutPrefix(q.Header.Get("Authorization"), "Bearer ")
		address, _ := byAddress(q)
		guess := guesses.Of(address, rate.Every(time.Minute/guessesPerMinute), guessesPerMinute)
		if guess.Tokens() < 1 {
			p := problem.New(http.StatusTooManyRequests, "too-fast", "Too many keys that are not valid", "Wait a minute, then try again with one that is.")
			p.Retry = true
			WriteProblem(w, p)
			return
		}
		actor, scopes, err := s.Keys.Check(q.Context(), key)
		var p *problem.Problem
		if errors.As(err, &p) && p.Status == http.StatusUnauthorized {
			guess.Allow()
			w.Header().Set("WWW-Authenticate", "Bearer")
		}
		if err != nil {
			s.Fail(w, q, err)
			return
		}
		next.ServeHTTP(w, q.WithContext(context.WithValue(q.Context(), keyHolderKey{}, keyHolder{actor, scopes})))
	})
}

// Keyed adds an operation for other programs, of a scope. Example is a query that shows what can
// be asked, as it stands behind the path.
func Keyed[I, T any](r *Routes, scope Scope, path, id, summary, example string, do func(context.Context, access.Actor, *I) (T, error)) {
	op := huma.Operation{
		OperationID: id, Method: http.MethodGet, Path: openPath + path, Summary: summary, Tags: []string{string(scope)},
		Description: "The key needs the scope " + string(scope) + ".",
		Security:    []map[string][]string{{"key": {}}},
		Errors:      []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusUnprocessableEntity, http.StatusTooManyRequests, http.StatusServiceUnavailable},
		Extensions: map[string]any{"x-codeSamples": []map[string]string{{
			"lang": "Shell", "source": "curl -H \"Authorization: Bearer $STOOP_KEY\" \"https://chat.example.com" + openPath + path + example + "\"",
		}}},
	}
	huma.Register(r.open, op, func(ctx context.Context, in *I) (*Body[T], error) {
		holder, _ := ctx.Value(keyHolderKey{}).(keyHolder)
		if !slices.Contains(holder.scopes, scope) {
			return nil, problem.New(http.StatusForbidden, "key-scope", "This key may not read that", "It needs the scope "+string(scope)+": an admin can make one that has it.")
		}
		out, err := do(ctx, holder.actor, in)
		if err == nil {
			return &Body[T]{Body: out}, nil
		}
		p := problem.From(err)
		if p.IsOurs() && !errors.Is(err, context.Canceled) {
			r.log.Error("an operation failed", "operation", id, "error", err)
		}
		return nil, p
	})
}
