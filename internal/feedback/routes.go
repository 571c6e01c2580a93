package feedback

import (
	"context"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
	"stoop/internal/store"
	"stoop/internal/view"
)

// FeedbackFound is a page of what was found.
type FeedbackFound struct {
	FeedbackPage
	NextRatedAt *time.Time `json:"nextRatedAt,omitempty" doc:"With nextId: where the next page begins"`
	NextID      string     `json:"nextId,omitempty"`
}

// Asked is what the console asks for.
type Asked struct {
	From         string    `query:"from" maxLength:"10" doc:"The first day, as 2026-11-28, in the team's zone"`
	To           string    `query:"to" maxLength:"10" doc:"The last day"`
	DepartmentID string    `query:"department" format:"uuid"`
	OperatorID   string    `query:"operator" format:"uuid"`
	Rating       int       `query:"rating" minimum:"0" maximum:"5"`
	WithWords    bool      `query:"words"`
	ToRead       bool      `query:"toRead"`
	Totals       bool      `query:"totals" doc:"With what all of the period adds up to"`
	RatedAt      time.Time `query:"nextRatedAt"`
	ID           string    `query:"nextId" format:"uuid"`
}

// Routes adds what the console and panels ask of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/feedback", "feedback", "What visitors said of chats after them",
		func(ctx context.Context, o access.Actor, in *Asked) (FeedbackFound, error) {
			f := Find{DepartmentID: in.DepartmentID, OperatorID: in.OperatorID, Rating: in.Rating, WithWords: in.WithWords, ToRead: in.ToRead, Totals: in.Totals}
			var err error
			if f.From, f.To, err = facts.Days(in.From, in.To, room.Zone); err != nil {
				return FeedbackFound{}, err
			}
			if in.ID != "" {
				f.Before = &Cursor{RatedAt: in.RatedAt, ID: in.ID}
			}
			page, err := room.Find(ctx, o, f)
			out := FeedbackFound{FeedbackPage: page}
			if page.Next != nil {
				out.NextRatedAt, out.NextID = &page.Next.RatedAt, page.Next.ID
			}
			return out, err
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/feedback-read", "close-feedback", "Close a low rating that was read",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.ChatPath
			Body struct {
				Number int64  `json:"number" doc:"Of the event that was read"`
				Note   string `json:"note,omitempty" maxLength:"2000" doc:"For the team"`
			}
		}) (view.ChatView, error) {
			return room.Close(ctx, o, in.ID, in.Body.Number, in.Body.Note)
		})
	r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/chats/{chat}/rating", func(w http.ResponseWriter, q *http.Request) {
		var in Rating
		if !httpapi.ReadJSON(w, q, &in) {
			return
		}
		survey, err := room.rate(r, q, in)
		r.Write(w, q, survey, err)
	})
}

// Rating is what a visitor says of a chat.
type Rating struct {
	Token  string `json:"token"`
	Rating int    `json:"rating"`
	Words  string `json:"words"`
}

func (room *Room) rate(r *httpapi.Routes, q *http.Request, in Rating) (*view.SurveyView, error) {
	v, err := r.VisitorIn(q, room.Settings, in.Token, room.People)
	if err != nil {
		return nil, err
	}
	chatID := chi.URLParam(q, "chat")
	if uuid.Validate(chatID) != nil {
		return nil, store.ErrNotFound
	}
	return room.Rate(q.Context(), v, chatID, in.Rating, in.Words)
}
