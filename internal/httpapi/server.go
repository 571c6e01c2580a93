// Package httpapi is what all routes share: the server with its limits and
// headers, typed operations and their OpenAPI document, sessions, visitors'
// tokens, problem documents, and the files of the interface. The routes
// themselves are in the rooms.
package httpapi

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"reflect"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"github.com/google/uuid"
	"github.com/prometheus/client_golang/prometheus"

	"stoop/core/access"
	"stoop/internal/live"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Room is something with routes.
type Room interface{ Routes(*Routes) }

// Config of a server.
type Config struct {
	Rooms    []Room
	Store    *store.Store
	Settings *settings.Cache
	Accounts Accounts
	// Keys checks those by which other programs read.
	Keys    Keys
	Log     *slog.Logger
	Metrics *prometheus.Registry
	// Live takes the live connections of those whom the door lets in.
	Live func(live.Door) (live.Endpoints, error)
	// Secret signs visitors' tokens.
	Secret []byte
	// SessionCookie names the operators' cookie; browsers do not tell ports of
	// one host apart, so two demos need two names.
	SessionCookie string
	// Secure marks cookies for TLS only.
	Secure bool
	// MetricsToken opens /metrics to others than the machine itself.
	MetricsToken string
	// TrustedProxies are the networks (CIDR) of proxies in front of the server.
	TrustedProxies []string
	// LoginsPerMinute bounds the tries from one address.
	LoginsPerMinute int
	// VisitorRequestsPerMinute bounds what one address may ask as a visitor.
	VisitorRequestsPerMinute int
}

type server struct {
	Config
	*Sessions
}

// Routes are where a room adds its own, with what all of them need.
type Routes struct {
	Sessions *Sessions
	// Team is for what the console asks beside typed operations, Site for what a
	// watched site and its panel ask, and Open for the rest.
	Team, Site, Open chi.Router

	api    huma.API
	open   huma.API // of other programs
	log    *slog.Logger
	server *server
}

// Operator returns who is logged in, or a problem that says to do so first.
func (r *Routes) Operator(ctx context.Context) (access.Actor, error) { return r.Sessions.Operator(ctx) }

// OperatorOf returns who is logged in on a route outside of Team.
func (r *Routes) OperatorOf(q *http.Request) (access.Actor, string, error) {
	return r.Sessions.OperatorOf(q)
}

// Visitor returns the visitor to whom a token was given.
func (r *Routes) Visitor(token string) (access.Visitor, error) { return r.server.VisitorOf(token) }

// Doorkeeper refuses visitors, and addresses, that are banned.
type Doorkeeper interface {
	MayEnter(ctx context.Context, visitorID, address string) error
}

// VisitorIn returns the visitor who asks something outside the live connection, at the
// widget whose key stands in the address: theirs is the token, and they are not banned.
func (r *Routes) VisitorIn(q *http.Request, cache *settings.Cache, token string, door Doorkeeper) (access.Visitor, error) {
	widget, err := cache.WidgetByKey(q.Context(), chi.URLParam(q, "key"))
	if err != nil {
		return access.Visitor{}, err
	}
	v, err := r.Visitor(token)
	if err != nil || v.WidgetID != widget.ID || uuid.Validate(v.ID) != nil {
		return access.Visitor{}, problem.New(http.StatusUnauthorized, "no-visitor", "It is not known who asks", "Reload the page.")
	}
	return v, door.MayEnter(q.Context(), v.ID, AddressOf(q))
}

// TokenFor returns the token by which a visitor proves who they are.
func (r *Routes) TokenFor(v access.Visitor) (string, error) { return r.server.TokenFor(v) }

// SiteWidget returns the widget that a request from a site's page names; a
// refusal it has answered already.
func (r *Routes) SiteWidget(w http.ResponseWriter, q *http.Request) (settings.Widget, bool) {
	return r.server.SiteWidget(w, q)
}

// Write answers with a result as JSON, or with the problem of an error.
func (r *Routes) Write(w http.ResponseWriter, q *http.Request, result any, err error) {
	r.server.Write(w, q, result, err)
}

// Fail answers with the problem of an error.
func (r *Routes) Fail(w http.ResponseWriter, q *http.Request, err error) { r.server.Fail(w, q, err) }

// New returns the handler of a whole Stoop server. Call stop when done.
func New(c Config) (handler http.Handler, stop func(), err error) {
	pool, err := c.Store.DB.DB()
	if err != nil {
		return nil, nil, err
	}
	sessionStore := postgresstore.NewWithCleanupInterval(pool, 10*time.Minute)
	s := &server{Config: c, Sessions: &Sessions{scs.New(), c.Accounts}}
	manager := s.Sessions.manager
	manager.Store = sessionStore
	manager.Lifetime = 30 * 24 * time.Hour
	manager.Cookie.Name = c.SessionCookie
	if c.Secure { // browsers then take it from this very host only, over TLS
		manager.Cookie.Name = "__Host-" + c.SessionCookie
	}
	manager.HashTokenInStore = true // who reads the database can use none
	manager.Cookie.SameSite = http.SameSiteLaxMode
	manager.Cookie.Secure = c.Secure
	manager.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.Log.Error("the session could not be read", "error", err)
		WriteProblem(w, problem.From(err))
	}

	endpoints, err := c.Live(s)
	if err != nil {
		return nil, nil, fmt.Errorf("starting the live hub: %w", err)
	}

	router := chi.NewRouter()
	router.Use(middleware.RequestID, s.clientAddress(), s.logged, s.measured(), s.recovered, s.securityHeaders, deadlines)
	router.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") })
	router.Get("/readyz", s.ready)
	router.Get("/metrics", s.metrics)
	router.Handle("/live/team", endpoints.Team)
	router.Handle("/live/visitor", endpoints.Visitors)
	limited := httprate.LimitBy(c.VisitorRequestsPerMinute, time.Minute, byAddress, tooMany("too-fast"))
	router.With(httprate.LimitBy(c.VisitorRequestsPerMinute, time.Minute, byAddress, tooMany("too-fast"))).
		Handle("/live/page/{key}", s.pageStream(endpoints.Pages))
	site := router.With(limited, notStored)
	site.Get("/panel/"+previewKey, s.preview("index.html"))
	site.Get("/preview", s.preview("preview.html"))
	site.Get("/panel/{key}", s.panel)
	router.Group(func(team chi.Router) {
		team.Use(SameOriginOnly, notStored, s.limitLogins, manager.LoadAndSave, s.Sessions.inUse)
		routes := &Routes{Sessions: s.Sessions, Team: team, Site: site, Open: router, api: humachi.New(team, apiConfig()), open: s.keyed(router), log: s.Log, server: s}
		for _, room := range c.Rooms {
			room.Routes(routes)
		}
	})
	s.files(router)
	return router, sessionStore.StopCleanup, nil
}

func apiConfig() huma.Config {
	config := huma.DefaultConfig("Stoop", "1")
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil // no $schema member in every body
	config.Info.Description = "Live chat for a website's visitors: what the console and the widget use."
	return config
}

// Document returns the OpenAPI document of the rooms' typed operations as JSON,
// with what goes over the live connection described beside them.
func Document(rooms []Room, messages ...any) ([]byte, error) {
	router := chi.NewRouter()
	api := humachi.New(router, apiConfig())
	routes := &Routes{Sessions: &Sessions{}, Team: router, Site: router, Open: router, api: api, open: openAPI(chi.NewRouter(), chi.NewRouter()), log: slog.New(slog.DiscardHandler), server: &server{}}
	for _, room := range rooms {
		room.Routes(routes)
	}
	for _, message := range append(messages, problem.Problem{}) {
		api.OpenAPI().Components.Schemas.Schema(reflect.TypeOf(message), true, "")
	}
	return json.MarshalIndent(api.OpenAPI(), "", "  ")
}

// huma's own errors become our problem documents.
func init() {
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		code := "bad-request"
		if status >= 500 {
			code = "unavailable"
		}
		p := problem.New(status, code, "The request could not be understood", message)
		for _, err := range errs {
			if err != nil {
				p.Problems = append(p.Problems, err.Error())
			}
		}
		return p
	}
}
