package account

import (
	"context"
	"net/http"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	room.ownRoutes(r)
	httpapi.Register(r, http.MethodPost, "/api/session", "login", "Log in",
		func(ctx context.Context, in *struct {
			Agent string `header:"User-Agent"`
			Body  Credentials
		}) (*httpapi.Body[view.OperatorView], error) {
			o, err := room.Login(ctx, in.Body.Email, in.Body.Password, in.Body.Code, middleware.GetClientIP(ctx))
			if err != nil {
				return nil, err
			}
			return room.enter(ctx, r, o, in.Agent)
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
			Agent string `header:"User-Agent"`
			Body  struct {
				Current string `json:"current" maxLength:"200"`
				New     string `json:"new" maxLength:"200"`
			}
		}) error {
			changed, err := room.ChangePassword(ctx, o, in.Body.Current, in.Body.New)
			if err != nil {
				return err
			}
			if err := room.beginSession(ctx, r, changed, in.Agent); err != nil {
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
	Code     string `json:"code,omitempty" maxLength:"40" doc:"Of the second factor, or a recovery code"`
}

// beginSession logs somebody in where they ask from, and notes it.
func (room *Room) beginSession(ctx context.Context, r *httpapi.Routes, a Account, agent string) error {
	if err := r.Sessions.Begin(ctx, a.ID, a.Stamp); err != nil {
		return err
	}
	return room.began(ctx, a.ID, r.Sessions.Stored(ctx), middleware.GetClientIP(ctx), agent)
}

// enter logs somebody in and answers with who they are.
func (room *Room) enter(ctx context.Context, r *httpapi.Routes, a Account, agent string) (*httpapi.Body[view.OperatorView], error) {
	if err := room.beginSession(ctx, r, a, agent); err != nil {
		return nil, err
	}
	me, err := room.Me(ctx, a.Actor)
	return &httpapi.Body[view.OperatorView]{Body: me}, err
}

// typedPassword proves again who asks.
type typedPassword struct {
	Body struct {
		Password string `json:"password" maxLength:"200"`
	}
}

func (room *Room) ownRoutes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/me/profile", "profile", "What I say of myself",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (Profile, error) {
			return room.OwnProfile(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/me/profile", "save-profile", "Change what I say of myself",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[OwnWords]) (Profile, error) {
			return room.SaveProfile(ctx, o, in.Body)
		})
	httpapi.AnswerLarge(r, http.MethodPut, "/api/me/photo", "save-photo", "Change my photo",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Picture []byte `json:"picture" doc:"PNG or JPEG, in base64"`
			}
		}) (Profile, error) {
			return room.SavePhoto(ctx, o, in.Body.Picture)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/me/photo", "remove-photo", "Take my photo away",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (Profile, error) {
			return room.SavePhoto(ctx, o, nil)
		})
	httpapi.Answer(r, http.MethodPost, "/api/me/factor", "begin-factor", "Make a second factor",
		func(ctx context.Context, o access.Actor, in *typedPassword) (NewFactor, error) {
			return room.BeginFactor(ctx, o, in.Body.Password)
		})
	httpapi.Answer(r, http.MethodPost, "/api/me/factor/confirm", "confirm-factor", "Switch the second factor on; its recovery codes are shown this once",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Code string `json:"code" maxLength:"20"`
			}
		}) ([]string, error) {
			return room.ConfirmFactor(ctx, o, in.Body.Code)
		})
	httpapi.Answer(r, http.MethodPost, "/api/me/factor/codes", "recovery-codes", "Make new recovery codes; they are shown this once",
		func(ctx context.Context, o access.Actor, in *typedPassword) ([]string, error) {
			return room.NewRecoveryCodes(ctx, o, in.Body.Password)
		})
	httpapi.Do(r, http.MethodPost, "/api/me/factor/drop", "drop-factor", "Switch the second factor off",
		func(ctx context.Context, o access.Actor, in *typedPassword) error {
			return room.DropFactor(ctx, o, in.Body.Password)
		})
	httpapi.Answer(r, http.MethodGet, "/api/me/sessions", "sessions", "Where I am logged in",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]Session, error) {
			return room.Sessions(ctx, o, r.Sessions.Stored(ctx))
		})
	httpapi.Do(r, http.MethodDelete, "/api/me/sessions", "end-sessions", "Log me out in one place, or everywhere else",
		func(ctx context.Context, o access.Actor, in *struct {
			ID string `query:"id" maxLength:"64" doc:"Empty for all but this one"`
		}) error {
			return room.EndSession(ctx, o, r.Sessions.Stored(ctx), in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/people/{id}/invitation", "invite-person", "Invite somebody who cannot log in yet",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) (Sent, error) {
			return room.InvitePerson(ctx, o, in.ID)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/people/{id}/factor", "reset-factor", "Switch off the second factor of somebody who lost it, and log them out",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.ResetFactor(ctx, o, in.ID)
		})
	httpapi.Register(r, http.MethodGet, "/api/join/{token}", "invitation", "Who an invitation is for",
		func(ctx context.Context, in *Joining) (*httpapi.Body[Invitee], error) {
			who, err := room.Invitation(ctx, in.Token)
			return &httpapi.Body[Invitee]{Body: who}, err
		})
	httpapi.Register(r, http.MethodPost, "/api/join/{token}", "accept-invitation", "Join the team",
		func(ctx context.Context, in *struct {
			Joining
			Agent string `header:"User-Agent"`
			Body  Accepted
		}) (*httpapi.Body[view.OperatorView], error) {
			a, err := room.Accept(ctx, in.Token, in.Body)
			if err != nil {
				return nil, err
			}
			return room.enter(ctx, r, a, in.Agent)
		})
	httpapi.Register(r, http.MethodGet, "/api/begin/{proof}", "may-begin", "Whether the first account can be made",
		func(ctx context.Context, in *Beginning) (*httpapi.Nothing, error) {
			return nil, room.MayBegin(ctx, in.Proof)
		})
	httpapi.Register(r, http.MethodPost, "/api/begin/{proof}", "begin", "Make the account of the first admin",
		func(ctx context.Context, in *struct {
			Beginning
			Agent string `header:"User-Agent"`
			Body  First
		}) (*httpapi.Body[view.OperatorView], error) {
			a, err := room.Begin(ctx, in.Proof, in.Body)
			if err != nil {
				return nil, err
			}
			return room.enter(ctx, r, a, in.Agent)
		})
	r.Site.Get("/photos/{photo}", func(w http.ResponseWriter, q *http.Request) { room.photo(r, w, q) })
}

// Beginning proves that somebody runs the server.
type Beginning struct {
	Proof string `path:"proof" maxLength:"64"`
}

// Joining names an invitation into the team.
type Joining struct {
	Token string `path:"token" maxLength:"64"`
}

// photo serves the photo of somebody of the team; its address changes with it.
func (room *Room) photo(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	name := chi.URLParam(q, "photo")
	if len(name) < 36 || uuid.Validate(name[:36]) != nil {
		r.Fail(w, q, store.ErrNotFound)
		return
	}
	file, err := room.Photo(q.Context(), name[:36])
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	h := w.Header()
	h.Set("Content-Type", "image/jpeg")
	h.Set("Cache-Control", "public, max-age=604800, immutable")
	h.Set("Cross-Origin-Resource-Policy", "cross-origin")
	_, _ = w.Write(file) // the reader has gone if this fails
}
