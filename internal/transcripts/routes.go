package transcripts

import (
	"context"
	"mime"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
	"stoop/internal/transcripts/export"
)

// Transcripts is a page of what a search found.
type Transcripts struct {
	TranscriptPage
	NextArrivedAt *time.Time `json:"nextArrivedAt,omitempty" doc:"With nextId: where the next page begins"`
	NextID        string     `json:"nextId,omitempty"`
}

// Looked is what is looked for, as it stands in an address.
type Looked struct {
	facts.Asked
	Words  string `query:"words" doc:"All must be there; \"in a row\", either OR other, -without, beginning*"`
	Oldest bool   `query:"oldest" doc:"The oldest first"`
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	room.openRoutes(r)
	httpapi.Answer(r, http.MethodGet, "/api/transcripts", "transcripts", "Search the transcripts",
		func(ctx context.Context, o access.Actor, in *struct {
			Looked
			ArrivedAt time.Time `query:"nextArrivedAt"`
			ID        string    `query:"nextId" format:"uuid"`
		}) (Transcripts, error) {
			var before *Cursor
			if in.ID != "" {
				before = &Cursor{ArrivedAt: in.ArrivedAt, ID: in.ID}
			}
			page, err := room.Find(ctx, o, in.Asked, in.Words, in.Oldest, before)
			out := Transcripts{TranscriptPage: page}
			if page.Next != nil {
				out.NextArrivedAt, out.NextID = &page.Next.ArrivedAt, page.Next.ID
			}
			return out, err
		})
	httpapi.Answer(r, http.MethodGet, "/api/transcripts/choices", "transcript-choices", "What transcripts and reports can be narrowed to",
		func(ctx context.Context, _ access.Actor, _ *struct{}) (TranscriptChoices, error) {
			return room.Choices(ctx)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/measures", "chat-measures", "What an ended chat's log says of it",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (ChatMeasures, error) {
			return room.Measures(ctx, o, in.ID)
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/chats/{id}/transcript", "transcript-file", "One transcript as a file",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.ChatPath
			Format string `query:"format" enum:"text,json,jsonl,csv,html,eml" default:"text"`
			Notes  bool   `query:"notes" doc:"With notes for the team"`
		}) (*File, error) {
			return room.Download(ctx, o, in.ID, export.Format(in.Format), in.Notes)
		})
	httpapi.Do(r, http.MethodPost, "/api/chats/{id}/transcript-mail", "mail-transcript", "Send a transcript by mail, as the visitor may read it",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.ChatPath
			Body struct {
				To string `json:"to" maxLength:"254"`
			}
		}) error {
			return room.Mail(ctx, o, in.ID, in.Body.To)
		})
	httpapi.Answer(r, http.MethodGet, "/api/saved-searches", "saved-searches", "Searches that are kept",
		func(ctx context.Context, o access.Actor, in *struct {
			Place string `query:"place" enum:"transcripts,tickets" default:"transcripts" doc:"What is searched"`
		}) ([]SavedSearch, error) {
			return room.Saved(ctx, o, in.Place)
		})
	httpapi.Answer(r, http.MethodPost, "/api/saved-searches", "save-search", "Keep a search",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Place   string `json:"place,omitempty" enum:"transcripts,tickets" default:"transcripts" doc:"What is searched"`
				Name    string `json:"name"`
				Address string `json:"address" maxLength:"4000"`
				Shared  bool   `json:"shared,omitempty"`
			}
		}) (SavedSearch, error) {
			return room.Save(ctx, o, in.Body.Place, in.Body.Name, in.Body.Address, in.Body.Shared)
		})
	httpapi.Do(r, http.MethodDelete, "/api/saved-searches/{id}", "unsave-search", "Remove a search that is kept",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error { return room.Unsave(ctx, o, in.ID) })
	httpapi.Answer(r, http.MethodGet, "/api/exports", "exports", "Exports of transcripts that can be fetched or are under way",
		func(ctx context.Context, o access.Actor, _ *struct{}) ([]Export, error) { return room.Exports(ctx, o) })
	httpapi.Answer(r, http.MethodPost, "/api/exports", "start-export", "Make a file of what a search finds",
		func(ctx context.Context, o access.Actor, in *struct {
			Looked
			Format string `query:"format" enum:"text,json,jsonl,csv,html,eml" required:"true"`
			Notes  bool   `query:"notes" doc:"With notes for the team"`
		}) (Export, error) {
			return room.StartExport(ctx, o, in.Looked, in.Format, in.Notes)
		})
	httpapi.Do(r, http.MethodDelete, "/api/exports/{id}", "cancel-export", "Stop or forget an export",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.CancelExport(ctx, o, in.ID)
		})
	r.Team.Get("/api/exports/{id}/file", func(w http.ResponseWriter, q *http.Request) { room.serveExport(r, w, q) })
}

func (room *Room) serveExport(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	o, err := r.Operator(q.Context())
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	content, name, e, err := room.OpenExport(q.Context(), o, chi.URLParam(q, "id"))
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	defer content.Close()
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	http.ServeContent(w, q, "", e.CreatedAt, content)
}
