package transcripts

import (
	"context"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
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
		func(ctx context.Context, _ access.Actor, _ *struct{}) (facts.Choices, error) {
			return room.Facts.Choices(ctx, room.Now())
		})
}
