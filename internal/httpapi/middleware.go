package httpapi

import (
	"context"
	"crypto/subtle"
	"io"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"stoop/internal/problem"
)

// logged writes a structured line for each request, without what people wrote.
func (s *server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		begun := time.Now()
		wrapped := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(wrapped, r)
		s.Log.Debug("request", "id", middleware.GetReqID(r.Context()), "method", r.Method, "path", r.URL.Path,
			"status", wrapped.Status(), "bytes", wrapped.BytesWritten(), "ms", time.Since(begun).Milliseconds())
	})
}

// measured counts requests and their time by route.
func (s *server) measured() func(http.Handler) http.Handler {
	durations := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "stoop_http_request_seconds", Help: "Time to answer an HTTP request.", Buckets: prometheus.DefBuckets,
	}, []string{"method", "route", "status"})
	s.Metrics.MustRegister(durations)
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if strings.HasPrefix(r.URL.Path, "/live/") { // open as long as the browser is
				next.ServeHTTP(w, r)
				return
			}
			begun := time.Now()
			wrapped := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(wrapped, r)
			route := chi.RouteContext(r.Context()).RoutePattern()
			durations.WithLabelValues(methodLabel(r.Method), route, strconv.Itoa(wrapped.Status())).Observe(time.Since(begun).Seconds())
		})
	}
}

// methodLabel returns a method as a metric's label: whoever asks can invent
// methods, and each would be kept for ever.
func methodLabel(method string) string {
	switch method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions:
		return method
	}
	return "other"
}

// How long a request may take: to be sent and worked on. Uploads are as long as
// they are, but must not stand still.
const (
	requestTimeout = 40 * time.Second
	uploadStill    = 30 * time.Second
)

// deadlines ends requests that are sent too slowly or take too long.
func deadlines(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/live/") { // open as long as the browser is
			next.ServeHTTP(w, r)
			return
		}
		control := http.NewResponseController(w)
		if strings.HasSuffix(r.URL.Path, "/files") && r.Method == http.MethodPost {
			r.Body = &moving{ReadCloser: r.Body, control: control}
			next.ServeHTTP(w, r)
			return
		}
		_ = control.SetReadDeadline(time.Now().Add(requestTimeout)) // fails in tests without a connection only
		ctx, cancel := context.WithTimeout(r.Context(), requestTimeout)
		defer cancel()
		next.ServeHTTP(w, r.WithContext(ctx))
	})
}

// moving is a body of which something must arrive now and then.
type moving struct {
	io.ReadCloser
	control *http.ResponseController
}

func (m *moving) Read(p []byte) (int, error) {
	_ = m.control.SetReadDeadline(time.Now().Add(uploadStill)) // fails in tests without a connection only
	return m.ReadCloser.Read(p)
}

// notStored keeps what the team reads out of every cache.
func notStored(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "no-store")
		next.ServeHTTP(w, r)
	})
}

// recovered turns a panic into a problem document and a log entry.
func (s *server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if v := recover(); v != nil && v != http.ErrAbortHandler {
				s.Log.Error("a request panicked", "path", r.URL.Path, "panic", v, "stack", string(debug.Stack()))
				WriteProblem(w, problem.New(http.StatusInternalServerError, "broken", "Something went wrong on our side", "Try again. If it keeps happening, tell an admin what time it was."))
			}
		}()
		next.ServeHTTP(w, r)
	})
}

// securityHeaders hold for every answer; pages add their own content policy.
func (s *server) securityHeaders(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "strict-origin-when-cross-origin")
		h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
		h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		if r.TLS != nil || s.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		next.ServeHTTP(w, r)
	})
}

// limitLogins bounds the login tries of one address.
func (s *server) limitLogins(next http.Handler) http.Handler {
	limited := httprate.LimitBy(s.LoginsPerMinute, time.Minute, byAddress, tooMany("too-many-logins"))(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost && r.URL.Path == "/api/session" {
			limited.ServeHTTP(w, r)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// byAddress is the key under which an address is counted; IPv6 by its network.
func byAddress(r *http.Request) (string, error) {
	return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
}

func tooMany(code string) httprate.Option {
	return httprate.WithLimitHandler(func(w http.ResponseWriter, _ *http.Request) {
		p := problem.New(http.StatusTooManyRequests, code, "Too many attempts", "Wait a minute, then try again.")
		p.Retry = true
		WriteProblem(w, p)
	})
}

// clientAddress finds out where a request comes from. Only proxies that the
// admin named are believed about it.
func (s *server) clientAddress() func(http.Handler) http.Handler {
	if len(s.TrustedProxies) == 0 {
		return middleware.ClientIPFromRemoteAddr
	}
	proxied := middleware.ClientIPFromXFF(s.TrustedProxies...)
	return func(next http.Handler) http.Handler {
		direct := middleware.ClientIPFromRemoteAddr(next)
		return proxied(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if middleware.GetClientIP(r.Context()) == "" { // it came from the proxy's own network
				direct.ServeHTTP(w, r)
				return
			}
			next.ServeHTTP(w, r)
		}))
	}
}

func (s *server) ready(w http.ResponseWriter, r *http.Request) {
	if err := s.Store.Ping(r.Context()); err != nil {
		s.Log.Error("not ready", "error", err)
		WriteProblem(w, problem.New(http.StatusServiceUnavailable, "not-ready", "The database does not answer", "Start PostgreSQL; Stoop reconnects by itself."))
		return
	}
	writeJSON(w, http.StatusOK, map[string]string{"status": "ready"})
}

// metrics answers who has the token. Where a request comes from proves nothing:
// a proxy on the same machine passes on everybody's.
func (s *server) metrics(w http.ResponseWriter, r *http.Request) {
	token := strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")
	if s.MetricsToken == "" || subtle.ConstantTimeCompare([]byte(token), []byte(s.MetricsToken)) != 1 {
		WriteProblem(w, problem.New(http.StatusForbidden, "not-allowed", "Metrics are not public", "Set STOOP_METRICS_TOKEN and send it as a bearer token."))
		return
	}
	promhttp.HandlerFor(s.Metrics, promhttp.HandlerOpts{}).ServeHTTP(w, r)
}

// SameOriginOnly refuses state-changing requests that another site's page
// makes a browser send.
func SameOriginOnly(next http.Handler) http.Handler {
	protection := http.NewCrossOriginProtection()
	protection.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		WriteProblem(w, problem.New(http.StatusForbidden, "other-site", "Another site sent this request", "Do it from Stoop's own pages."))
	}))
	return protection.Handler(next)
}
