package httpapi

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"

	"stoop/core/access"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// Accounts tells who is in the team.
type Accounts interface {
	// Account returns somebody of the team as they are now, with the stamp that
	// ties their sessions to their password.
	Account(ctx context.Context, id, session string) (o access.Actor, stamp string, err error)
}

// Sessions are those of operators.
type Sessions struct {
	manager  *scs.SessionManager
	accounts Accounts
}

// The session's keys: the id of who is logged in, what ties it to the password
// that it began with, and when it was last used, in Unix seconds.
const (
	sessionOperator = "operator"
	sessionStamp    = "stamp"
	sessionSeen     = "seen"
)

const (
	// sessionIdle is how long a session may stand unused.
	sessionIdle = 7 * 24 * time.Hour
	// seenEvery is how often at most its use is stored: not with every request.
	seenEvery = time.Minute
)

// Begin makes the session of a request that of an operator.
func (s *Sessions) Begin(ctx context.Context, operatorID, stamp string) error {
	if err := s.manager.RenewToken(ctx); err != nil {
		return err
	}
	s.manager.Put(ctx, sessionOperator, operatorID)
	s.manager.Put(ctx, sessionSeen, time.Now().Unix())
	s.manager.Put(ctx, sessionStamp, stamp)
	return nil
}

// Stored returns under what the session of a request is stored: a hash of its token, as
// the library makes it, with which nobody can log in.
func (s *Sessions) Stored(ctx context.Context) string {
	sum := sha256.Sum256([]byte(s.manager.Token(ctx)))
	return base64.RawURLEncoding.EncodeToString(sum[:])
}

// End ends the session of a request and returns whose it was, if it was
// somebody's.
func (s *Sessions) End(ctx context.Context) (operatorID string, err error) {
	operatorID = s.manager.GetString(ctx, sessionOperator)
	return operatorID, s.manager.Destroy(ctx)
}

func loginFirst() error {
	return problem.New(http.StatusUnauthorized, "login-first", "You are not logged in", "Log in to continue. What you typed is kept.")
}

// Operator returns who is logged in, fresh from the database. A session that
// began under another password is over.
func (s *Sessions) Operator(ctx context.Context) (access.Actor, error) {
	id := s.manager.GetString(ctx, sessionOperator)
	if id == "" {
		return access.Actor{}, loginFirst()
	}
	if seen := s.manager.GetInt64(ctx, sessionSeen); seen != 0 && time.Since(time.Unix(seen, 0)) > sessionIdle {
		return access.Actor{}, loginFirst()
	}
	o, stamp, err := s.accounts.Account(ctx, id, s.Stored(ctx))
	if errors.Is(err, store.ErrNotFound) || err == nil && s.manager.GetString(ctx, sessionStamp) != stamp {
		return access.Actor{}, loginFirst()
	}
	return o, err
}

// inUse notes that a session is used. The session library would store it anew
// with every request.
func (s *Sessions) inUse(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx, now := r.Context(), time.Now()
		if s.manager.GetString(ctx, sessionOperator) != "" {
			unused := now.Sub(time.Unix(s.manager.GetInt64(ctx, sessionSeen), 0))
			if seen := s.manager.Exists(ctx, sessionSeen); !seen || unused > seenEvery && unused <= sessionIdle {
				s.manager.Put(ctx, sessionSeen, now.Unix())
			}
		}
		next.ServeHTTP(w, r)
	})
}

// OperatorOf implements live.Door. A WebSocket cannot pass through the session
// middleware, which keeps back the response, so the cookie is read here.
func (s *Sessions) OperatorOf(r *http.Request) (access.Actor, string, error) {
	cookie, err := r.Cookie(s.manager.Cookie.Name)
	if err != nil {
		return access.Actor{}, "", loginFirst()
	}
	o, err := s.OperatorWith(r.Context(), cookie.Value)
	return o, cookie.Value, err
}

// OperatorWith implements live.Door.
func (s *Sessions) OperatorWith(ctx context.Context, session string) (access.Actor, error) {
	ctx, err := s.manager.Load(ctx, session)
	if err != nil {
		return access.Actor{}, err
	}
	return s.Operator(ctx)
}
