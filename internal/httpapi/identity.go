package httpapi

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/golang-jwt/jwt/v5"

	"stoop/core/access"
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
func (s *server) operator(ctx context.Context) (access.Actor, error) {
	id := s.sessions.GetString(ctx, sessionOperator)
	if id == "" {
		return access.Actor{}, loginFirst()
	}
	if seen := s.sessions.GetInt64(ctx, sessionSeen); seen != 0 && time.Since(time.Unix(seen, 0)) > sessionIdle {
		return access.Actor{}, loginFirst()
	}
	account, err := s.App.Account(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && s.sessions.GetString(ctx, sessionStamp) != account.Stamp {
		return access.Actor{}, loginFirst()
	}
	return account.Actor, err
}

// sessionStamp is the session's key for what ties it to the password that it
// began with.
const sessionStamp = "stamp"

const (
	// sessionSeen is the session's key for when it was last used, in Unix seconds.
	sessionSeen = "seen"
	// sessionIdle is how long a session may stand unused.
	sessionIdle = 7 * 24 * time.Hour
	// seenEvery is how often at most its use is stored: not with every request.
	seenEvery = time.Minute
)

// sessionInUse notes that a session is used. The session library would store it
// anew with every request.
func (s *server) sessionInUse(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, now := r.Context(), time.Now()
		if s.sessions.GetString(ctx, sessionOperator) != "" {
			unused := now.Sub(time.Unix(s.sessions.GetInt64(ctx, sessionSeen), 0))
			if seen := s.sessions.Exists(ctx, sessionSeen); !seen || unused > seenEvery && unused <= sessionIdle {
				s.sessions.Put(ctx, sessionSeen, now.Unix())
			}
		}
		next.ServeHTTP(w, r)
	})
}

// OperatorOf implements live.Door. A WebSocket cannot pass through the session
// middleware, which keeps back the response, so the cookie is read here.
func (s *server) OperatorOf(r *http.Request) (access.Actor, string, error) {
	cookie, err := r.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return access.Actor{}, "", loginFirst()
	}
	o, err := s.OperatorWith(r.Context(), cookie.Value)
	return o, cookie.Value, err
}

// OperatorWith implements live.Door.
func (s *server) OperatorWith(ctx context.Context, session string) (access.Actor, error) {
	ctx, err := s.sessions.Load(ctx, session)
	if err != nil {
		return access.Actor{}, err
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
