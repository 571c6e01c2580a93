package transcripts

import (
	"context"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/internal/httpapi"
)

// Transcripts is a page of what a search found.
type Transcripts struct {
	TranscriptPage
	NextStartedAt *time.Time `json:"nextStartedAt,omitempty" doc:"With nextId: where the next page begins"`
	NextID        string     `json:"nextId,omitempty"`
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/transcripts", "transcripts", "Search the transcripts",
		func(ctx context.Context, o access.Actor, in *struct {
			Words     string    `query:"words" maxLength:"200" doc:"All of them must stand in the chat"`
			StartedAt time.Time `query:"nextStartedAt"`
			ID        string    `query:"nextId" format:"uuid"`
		}) (Transcripts, error) {
			var before *Cursor
			if in.ID != "" {
				before = &Cursor{StartedAt: in.StartedAt, ID: in.ID}
			}
			page, err := room.Transcripts(ctx, o, in.Words, before)
			out := Transcripts{TranscriptPage: page}
			if page.Next != nil {
				out.NextStartedAt, out.NextID = &page.Next.StartedAt, page.Next.ID
			}
			return out, err
		})
}
