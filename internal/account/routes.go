package account

import (
	"context"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Register(r, http.MethodPost, "/api/session", "login", "Log in",
		func(ctx context.Context, in *httpapi.Body[Credentials]) (*httpapi.Body[view.OperatorView], error) {
			o, err := room.Login(ctx, in.Body.Email, in.Body.Password, middleware.GetClientIP(ctx))
			if err != nil {
				return nil, err
			}
			if err := r.Sessions.Begin(ctx, o.ID, o.Stamp); err != nil {
				return nil, err
			}
			me, err := room.Me(ctx, o.Actor)
			return &httpapi.Body[view.OperatorView]{Body: me}, err
		})
	httpapi.Register(r, http.MethodDelete, "/api/session", "logout", "Log out",
		func(ctx context.Context, _ *httpapi.Nothing) (*httpapi.Nothing, error) {
			id, err := r.Sessions.End(ctx)
			if err == nil && id != "" {
				room.Live.Reconnect(id)
			}
			return nil, err
		})
	httpapi.Answer(r, http.MethodGet, "/api/me", "me", "Who is logged in",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (view.OperatorView, error) {
			return room.Me(ctx, o)
		})
	httpapi.Do(r, http.MethodPut, "/api/me/password", "set-password", "Change my password; my other sessions end",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Current string `json:"current" maxLength:"200"`
				New     string `json:"new" maxLength:"200"`
			}
		}) error {
			changed, err := room.ChangePassword(ctx, o, in.Body.Current, in.Body.New)
			if err != nil {
				return err
			}
			if err := r.Sessions.Begin(ctx, o.ID, changed.Stamp); err != nil {
				return err
			}
			room.Live.Reconnect(o.ID)
			return nil
		})
}

// Credentials of an operator.
type Credentials struct {
	Email    string `json:"email" maxLength:"254"`
	Password string `json:"password" maxLength:"200"`
}
