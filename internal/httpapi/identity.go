package httpapi

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/http"
	"time"

	"github.com/golang-jwt/jwt/v5"

	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// sessionOperator is the session's key for the id of who is logged in.
const sessionOperator = "operator"

func loginFirst() error {
	return problem.New(http.StatusUnauthorized, "login-first", "You are not logged in", "Log in to continue. What you typed is kept.")
}

// operator returns who is logged in, fresh from the database. A session that
// began under another password is over.
func (s *server) operator(ctx context.Context) (store.Operator, error) {
	id := s.sessions.GetString(ctx, sessionOperator)
	if id == "" {
		return store.Operator{}, loginFirst()
	}
	o, err := s.App.Operator(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && s.sessions.GetString(ctx, sessionStamp) != stampOf(o) {
		return store.Operator{}, loginFirst()
	}
	return o, err
}

// sessionStamp is the session's key for what ties it to the password that it
// began with.
const sessionStamp = "stamp"

func stampOf(o store.Operator) string {
	sum := sha256.Sum256([]byte("session of " + o.PasswordHash))
	return hex.EncodeToString(sum[:16])
}

// OperatorOf implements live.Door. A WebSocket cannot pass through the session
// middleware, which keeps back the response, so the cookie is read here.
func (s *server) OperatorOf(r *http.Request) (store.Operator, string, error) {
	cookie, err := r.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return store.Operator{}, "", loginFirst()
	}
	o, err := s.OperatorWith(r.Context(), cookie.Value)
	return o, cookie.Value, err
}

// OperatorWith implements live.Door.
func (s *server) OperatorWith(ctx context.Context, session string) (store.Operator, error) {
	ctx, err := s.sessions.Load(ctx, session)
	if err != nil {
		return store.Operator{}, err
	}
	return s.operator(ctx)
}

// AddressOf implements live.Door.
func (s *server) AddressOf(r *http.Request) string { return addressOf(r) }

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

func (s *server) tokenFor(v app.VisitorActor) (string, error) {
	claims := visitorClaims{Widget: v.WidgetID, RegisteredClaims: jwt.RegisteredClaims{
		Subject: v.ID, Audience: jwt.ClaimStrings{visitorAudience}, ExpiresAt: jwt.NewNumericDate(time.Now().Add(tokenLasts)),
	}}
	return jwt.NewWithClaims(jwt.SigningMethodHS256, claims).SignedString(s.Secret)
}

// VisitorOf implements live.Door.
func (s *server) VisitorOf(token string) (app.VisitorActor, error) {
	var claims visitorClaims
	_, err := jwt.ParseWithClaims(token, &claims, func(*jwt.Token) (any, error) { return s.Secret, nil },
		jwt.WithValidMethods([]string{jwt.SigningMethodHS256.Alg()}), jwt.WithAudience(visitorAudience), jwt.WithExpirationRequired())
	if err != nil {
		return app.VisitorActor{}, problem.New(http.StatusUnauthorized, "bad-token", "This conversation cannot be opened", "Reload the page.")
	}
	return app.VisitorActor{ID: claims.Subject, WidgetID: claims.Widget}, nil
}
