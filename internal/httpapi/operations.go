package httpapi

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5/middleware"

	"stoop/core/access"
	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// body wraps a result as huma wants it.
type body[T any] struct {
	Body T
}

type nothing struct{}

// Credentials of an operator.
type Credentials struct {
	Email    string `json:"email" maxLength:"254"`
	Password string `json:"password" maxLength:"200"`
}

// Message is what an operator says.
type Message struct {
	ClientID string `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$" doc:"Made by the sender; sending again under the same id changes nothing"`
	Text     string `json:"text"`
}

// Transcripts is a page of what a search found.
type Transcripts struct {
	app.TranscriptPage
	NextStartedAt *time.Time `json:"nextStartedAt,omitempty" doc:"With nextId: where the next page begins"`
	NextID        string     `json:"nextId,omitempty"`
}

// operations registers what the console asks for over HTTP.
func (s *server) operations(api huma.API) {
	register(s, api, http.MethodPost, "/api/session", "login", "Log in",
		func(ctx context.Context, in *body[Credentials]) (*body[app.OperatorView], error) {
			o, err := s.App.Login(ctx, in.Body.Email, in.Body.Password, middleware.GetClientIP(ctx))
			if err != nil {
				return nil, err
			}
			if err := s.sessions.RenewToken(ctx); err != nil {
				return nil, err
			}
			s.sessions.Put(ctx, sessionOperator, o.ID)
			s.sessions.Put(ctx, sessionSeen, time.Now().Unix())
			s.sessions.Put(ctx, sessionStamp, o.Stamp)
			me, err := s.App.Me(ctx, o.Actor)
			return &body[app.OperatorView]{Body: me}, err
		})
	register(s, api, http.MethodDelete, "/api/session", "logout", "Log out",
		func(ctx context.Context, _ *nothing) (*nothing, error) {
			id := s.sessions.GetString(ctx, sessionOperator)
			if err := s.sessions.Destroy(ctx); err != nil {
				return nil, err
			}
			if id != "" {
				s.Live.Reconnect(id)
			}
			return nil, nil
		})
	register(s, api, http.MethodGet, "/api/me", "me", "Who is logged in",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[app.OperatorView], error) {
			me, err := s.App.Me(ctx, o)
			return &body[app.OperatorView]{Body: me}, err
		}))
	register(s, api, http.MethodPut, "/api/me/password", "set-password", "Change my password; my other sessions end",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Current string `json:"current" maxLength:"200"`
				New     string `json:"new" maxLength:"200"`
			}
		}) (*nothing, error) {
			changed, err := s.App.ChangePassword(ctx, o, in.Body.Current, in.Body.New)
			if err != nil {
				return nil, err
			}
			if err := s.sessions.RenewToken(ctx); err != nil {
				return nil, err
			}
			s.sessions.Put(ctx, sessionStamp, changed.Stamp)
			s.Live.Reconnect(o.ID)
			return nil, nil
		}))
	register(s, api, http.MethodPut, "/api/me/availability", "set-availability", "Become available or away",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Available bool `json:"available"`
			}
		}) (*body[app.OperatorView], error) {
			view, err := s.App.SetAvailable(ctx, o, in.Body.Available)
			return &body[app.OperatorView]{Body: view}, err
		}))
	register(s, api, http.MethodGet, "/api/desk", "desk", "What the Desk starts from",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[app.Desk], error) {
			desk, err := s.App.Desk(ctx, o)
			return &body[app.Desk]{Body: desk}, err
		}))
	register(s, api, http.MethodGet, "/api/figures", "figures", "Figures of the status strip",
		asOperator(s, func(ctx context.Context, _ access.Actor, _ *nothing) (*body[app.Figures], error) {
			figures, err := s.App.Figures(ctx)
			return &body[app.Figures]{Body: figures}, err
		}))
	register(s, api, http.MethodGet, "/api/chats/{id}", "script", "A chat and the events after a number",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			ID    string `path:"id"`
			After int64  `query:"after" minimum:"0"`

			Beside string `query:"beside" doc:"For an earlier chat: the one of the same person that I have now"`
		}) (*body[app.Script], error) {
			script, err := s.App.Script(ctx, o, in.ID, in.After, in.Beside)
			return &body[app.Script]{Body: script}, err
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/take", "take", "Take a waiting chat",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Anyway bool   `query:"anyway" doc:"Take it though it is more than I should hold"`
		}) (*body[app.ChatView], error) {
			view, err := s.App.Take(ctx, o, in.ID, in.Anyway)
			return &body[app.ChatView]{Body: view}, err
		}))
	s.handOnOperations(api)
	s.asideOperations(api)
	s.togetherOperations(api)
	s.aboutOperations(api)
	s.libraryOperations(api)
	register(s, api, http.MethodPost, "/api/chats/{id}/say", "say", "Say something in a chat",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body Message
		}) (*body[app.Said], error) {
			said, err := s.App.OperatorSays(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
			return &body[app.Said]{Body: said}, err
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/end", "end", "End a chat",
		asOperator(s, func(ctx context.Context, o access.Actor, in *chatPath) (*body[app.ChatView], error) {
			view, err := s.App.OperatorEnds(ctx, o, in.ID)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodGet, "/api/transcripts", "transcripts", "Search the transcripts",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			Words     string    `query:"words" maxLength:"200" doc:"All of them must stand in the chat"`
			StartedAt time.Time `query:"nextStartedAt"`
			ID        string    `query:"nextId" format:"uuid"`
		}) (*body[Transcripts], error) {
			var before *store.Cursor
			if in.ID != "" {
				before = &store.Cursor{StartedAt: in.StartedAt, ID: in.ID}
			}
			page, err := s.App.Transcripts(ctx, o, in.Words, before)
			out := Transcripts{TranscriptPage: page}
			if page.Next != nil {
				out.NextStartedAt, out.NextID = &page.Next.StartedAt, page.Next.ID
			}
			return &body[Transcripts]{Body: out}, err
		}))
}

type chatPath struct {
	ID string `path:"id"`
}

// register adds an operation whose errors become problem documents.
func register[I, O any](s *server, api huma.API, method, path, id, summary string, do func(context.Context, *I) (*O, error)) {
	registerUpTo(s, api, 1<<20, method, path, id, summary, do)
}

// registerLarge adds one whose body may be a whole file.
func registerLarge[I, O any](s *server, api huma.API, method, path, id, summary string, do func(context.Context, *I) (*O, error)) {
	registerUpTo(s, api, 16<<20, method, path, id, summary, do)
}

func registerUpTo[I, O any](s *server, api huma.API, maxBytes int64, method, path, id, summary string, do func(context.Context, *I) (*O, error)) {
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: maxBytes,
		Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusUnprocessableEntity, http.StatusServiceUnavailable}}
	huma.Register(api, op, func(ctx context.Context, in *I) (*O, error) {
		out, err := do(ctx, in)
		if err == nil {
			return out, nil
		}
		p := problem.From(err)
		if p.IsOurs() && !errors.Is(err, context.Canceled) {
			s.Log.Error("an operation failed", "operation", id, "error", err)
		}
		return nil, p
	})
}

// asOperator hands an operation the operator who is logged in.
func asOperator[I, O any](s *server, do func(context.Context, access.Actor, *I) (*O, error)) func(context.Context, *I) (*O, error) {
	return func(ctx context.Context, in *I) (*O, error) {
		o, err := s.operator(ctx)
		if err != nil {
			return nil, err
		}
		return do(ctx, o, in)
	}
}
