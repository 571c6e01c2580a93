package httpapi

import (
	"maps"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/golang-jwt/jwt/v5"

	"stoop/core/access"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// tokenLasts is how long a visitor's token is good after their last visit: the
// conversation is there again tomorrow, and not for ever to whoever finds it.
// Each time the panel is opened it gets a fresh one.
const tokenLasts = 180 * 24 * time.Hour

// visitorClaims bind a token to a visitor of a widget.
type visitorClaims struct {
	Widget string `json:"widget"`
	jwt.RegisteredClaims
}

// visitorAudience keeps visitors' tokens apart from any other that the same
// secret may sign.
const visitorAudience = "visitor"

// TokenFor returns the token by which a visitor proves who they are.
func (s *server) TokenFor(v access.Visitor) (string, error) {
	claims := visitorClaims{Widget: v.WidgetID, RegisteredClaims: jwt.RegisteredClaims{
		Subject: v.ID, Audience: jwt.ClaimStrings{visitorAudience}, ExpiresAt: jwt.NewNumericDate(time.Now().Add(tokenLasts)),
	}}
	return jwt.NewWithClaims(jwt.SigningMethodHS256, claims).SignedString(s.Secret)
}

// VisitorOf implements live.Door.
func (s *server) VisitorOf(token string) (access.Visitor, error) {
	var claims visitorClaims
	_, err := jwt.ParseWithClaims(token, &claims, func(*jwt.Token) (any, error) { return s.Secret, nil },
		jwt.WithValidMethods([]string{jwt.SigningMethodHS256.Alg()}), jwt.WithAudience(visitorAudience), jwt.WithExpirationRequired())
	if err != nil {
		return access.Visitor{}, problem.New(http.StatusUnauthorized, "bad-token", "This conversation cannot be opened", "Reload the page.")
	}
	return access.Visitor{ID: claims.Subject, WidgetID: claims.Widget}, nil
}

// WidgetOf implements live.Door.
func (s *server) WidgetOf(r *http.Request) (string, error) {
	widget, err := s.Settings.WidgetFor(r.Context(), chi.URLParam(r, "key"), r.Header.Get("Origin"))
	return widget.ID, err
}

// SiteWidget returns the widget that a request from a site's page names, and
// lets the page read the answer; a refusal it has answered already.
func (s *server) SiteWidget(w http.ResponseWriter, r *http.Request) (settings.Widget, bool) {
	origin := r.Header.Get("Origin")
	widget, err := s.Settings.WidgetFor(r.Context(), chi.URLParam(r, "key"), origin)
	w.Header().Add("Vary", "Origin")
	if origin != "" {
		// A refusal may be read too, so that the loader can say what is wrong.
		w.Header().Set("Access-Control-Allow-Origin", origin)
	}
	if err != nil {
		s.Fail(w, r, err)
		return widget, false
	}
	return widget, true
}

// streamHeaders are those that a stream of a page needs.
var streamHeaders = []string{"Access-Control-Allow-Origin", "Vary", "X-Content-Type-Options"}

// pageStream lets a site's page read the stream of its widget's state.
func (s *server) pageStream(stream http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if _, ok := s.SiteWidget(w, r); !ok {
			return
		}
		// Ten thousand of these stand open, each with its headers: those that hold for
		// pages say nothing to a script that reads a stream.
		maps.DeleteFunc(w.Header(), func(name string, _ []string) bool { return !slices.Contains(streamHeaders, name) })
		stream.ServeHTTP(w, r)
	})
}
