package httpapi

import (
	"context"
	"errors"
	"net/http"

	"github.com/golang-jwt/jwt/v5"

	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// sessionOperator is the session's key for the id of who is logged in.
const sessionOperator = "operator"

func loginFirst() error {
	return problem.New(http.StatusUnauthorized, "login-first", "You are not logged in", "Log in, then go on; what you typed is kept.")
}

// operator returns who is logged in, fresh from the database.
func (s *server) operator(ctx context.Context) (store.Operator, error) {
	id := s.sessions.GetString(ctx, sessionOperator)
	if id == "" {
		return store.Operator{}, loginFirst()
	}
	o, err := s.App.Operator(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return o, loginFirst()
	}
	return o, err
}

// OperatorOf implements live.Door. A WebSocket cannot pass through the session
// middleware, which keeps back the response, so the cookie is read here.
func (s *server) OperatorOf(r *http.Request) (store.Operator, error) {
	cookie, err := r.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return store.Operator{}, loginFirst()
	}
	ctx, err := s.sessions.Load(r.Context(), cookie.Value)
	if err != nil {
		return store.Operator{}, err
	}
	return s.operator(ctx)
}

// visitorClaims bind a token to a visitor of a widget. The token does not
// expire: the conversation is there again tomorrow.
type visitorClaims struct {
	Widget string `json:"widget"`
	jwt.RegisteredClaims
}

// visitorAudience keeps visitors' tokens apart from any other that the same
// secret may sign.
const visitorAudience = "visitor"

func (s *server) tokenFor(v app.VisitorActor) (string, error) {
	claims := visitorClaims{Widget: v.WidgetID, RegisteredClaims: jwt.RegisteredClaims{
		Subject: v.ID, Audience: jwt.ClaimStrings{visitorAudience},
	}}
	return jwt.NewWithClaims(jwt.SigningMethodHS256, claims).SignedString(s.Secret)
}

// VisitorOf implements live.Door.
func (s *server) VisitorOf(token string) (app.VisitorActor, error) {
	var claims visitorClaims
	_, err := jwt.ParseWithClaims(token, &claims, func(*jwt.Token) (any, error) { return s.Secret, nil },
		jwt.WithValidMethods([]string{jwt.SigningMethodHS256.Alg()}), jwt.WithAudience(visitorAudience))
	if err != nil {
		return app.VisitorActor{}, problem.New(http.StatusUnauthorized, "bad-token", "This conversation cannot be opened", "Reload the page.")
	}
	return app.VisitorActor{ID: claims.Subject, WidgetID: claims.Widget}, nil
}
