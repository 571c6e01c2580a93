// Package httpapi turns HTTP requests into calls of the app: routes, typed
// operations with their OpenAPI document, sessions, limits, headers and the
// files of the interface.
package httpapi

import (
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
	"github.com/prometheus/client_golang/prometheus"

	"stoop/internal/app"
	"stoop/internal/live"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// Config of a Server.
type Config struct {
	App     *app.App
	Store   *store.Store
	Live    *live.Node
	Log     *slog.Logger
	Metrics *prometheus.Registry
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
	// Limits of the live connections.
	Limits live.Limits
}

type server struct {
	Config
	sessions *scs.SessionManager
}

// New returns the handler of a whole Stoop server. Call stop when done.
func New(c Config) (handler http.Handler, stop func(), err error) {
	pool, err := c.Store.DB.DB()
	if err != nil {
		return nil, nil, err
	}
	sessionStore := postgresstore.NewWithCleanupInterval(pool, 10*time.Minute)
	s := &server{Config: c, sessions: scs.New()}
	s.sessions.Store = sessionStore
	s.sessions.Lifetime = 30 * 24 * time.Hour
	s.sessions.Cookie.Name = c.SessionCookie
	if c.Secure { // browsers then take it from this very host only, over TLS
		s.sessions.Cookie.Name = "__Host-" + c.SessionCookie
	}
	s.sessions.HashTokenInStore = true // who reads the database can use none
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = c.Secure
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.Log.Error("the session could not be read", "error", err)
		writeProblem(w, problem.From(err))
	}

	endpoints, err := c.Live.Serve(c.App, s, c.Limits)
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
	router.With(httprate.LimitBy(c.VisitorRequestsPerMinute, time.Minute, byAddress, tooMany("too-fast"))).
		Handle("/live/page/{key}", s.pageStream(endpoints.Pages))
	router.Group(func(r chi.Router) {
		r.Use(httprate.LimitBy(c.VisitorRequestsPerMinute, time.Minute, byAddress, tooMany("too-fast")))
		s.visitorRoutes(r)
	})
	router.Get("/files/{id}/{name}", s.serveFile)
	router.Get("/articles/{id}", s.article)
	router.Group(func(r chi.Router) {
		r.Use(sameOriginOnly, notStored, s.limitLogins, s.sessions.LoadAndSave, s.sessionInUse)
		api := humachi.New(r, apiConfig())
		s.operations(api)
		s.setupOperations(api)
		s.operatorUploads(r)
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

// Document returns the OpenAPI document of the typed operations as JSON.
func Document() ([]byte, error) {
	api := humachi.New(chi.NewRouter(), apiConfig())
	(&server{}).operations(api)
	(&server{}).setupOperations(api)
	// What goes over the live connection is described beside the operations.
	for _, message := range []any{
		app.ChatMoved{}, app.VisitorChatMoved{}, app.ChatGone{}, app.DraftShown{}, app.TypingShown{}, app.PlaceChanged{},
		app.TeamChanged{}, app.WidgetState{}, app.WaitMoved{}, app.Refresh{}, app.FloorMoved{}, app.SetAway{},
		app.Talked{}, app.RoomsMoved{}, app.LibraryMoved{}, app.WidgetChanged{}, app.Suggestion{}, app.Opened{}, Admission{}, problem.Problem{},
	} {
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
