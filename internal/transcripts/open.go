package transcripts

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
	"stoop/internal/store"
	"stoop/internal/transcripts/export"
)

// TranscriptRow is a transcript as other programs list it.
type TranscriptRow struct {
	ID         string     `json:"id"`
	Started    time.Time  `json:"started"`
	Ended      *time.Time `json:"ended,omitempty"`
	Ending     string     `json:"ending" doc:"answered, missed, message or helped"`
	Department string     `json:"department"`
	Operator   string     `json:"operator,omitempty" doc:"Who held it at its end"`
	Name       string     `json:"name,omitempty" doc:"Of the visitor"`
	Email      string     `json:"email,omitempty"`
	Tags       []string   `json:"tags"`
	Outcome    string     `json:"outcome,omitempty"`
	Summary    string     `json:"summary,omitempty"`
	Rating     int        `json:"rating,omitempty"`
}

// TranscriptRows is a page of transcripts, the latest first.
type TranscriptRows struct {
	Transcripts []TranscriptRow `json:"transcripts"`
	NextAt      *time.Time      `json:"nextAt,omitempty" doc:"With nextId: where the next page begins; missing on the last one"`
	NextID      string          `json:"nextId,omitempty"`
}

// openRoutes adds what other programs read of transcripts.
func (room *Room) openRoutes(r *httpapi.Routes) {
	httpapi.Keyed(r, httpapi.ReadTranscripts, "/transcripts", "transcripts", "Search the transcripts of chats that are over", "?from=2026-11-01&to=2026-11-30&ending=answered&words=refund",
		func(ctx context.Context, o access.Actor, in *struct {
			facts.Asked
			Words  string    `query:"words" maxLength:"400" doc:"All must be there; \"in a row\", either OR other, -without, beginning*"`
			NextAt time.Time `query:"nextAt" doc:"Of the page before"`
			NextID string    `query:"nextId" doc:"Of the page before"`
		}) (TranscriptRows, error) {
			var before *Cursor
			if in.NextID != "" {
				before = &Cursor{ArrivedAt: in.NextAt, ID: in.NextID}
			}
			page, err := room.Find(ctx, o, in.Asked, in.Words, false, before)
			return rowsOf(page), err
		})
	httpapi.Keyed(r, httpapi.ReadTranscripts, "/transcripts/{id}", "transcript", "One transcript with all that was said", "?notes=true",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Notes bool `query:"notes" doc:"With the team's notes"`
		}) (export.Transcript, error) {
			t, err := room.Whole(ctx, in.ID, in.Notes)
			if err == nil && t.Ended == nil {
				err = store.ErrNotFound // it is not over
			}
			return t, err
		})
}

func rowsOf(page TranscriptPage) TranscriptRows {
	out := TranscriptRows{Transcripts: []TranscriptRow{}}
	for _, hit := range page.Hits {
		c := hit.Chat
		row := TranscriptRow{
			ID: c.ID, Started: c.StartedAt, Ended: c.EndedAt, Ending: c.Ending, Department: c.DepartmentName, Operator: c.OwnerName, Name: c.Name, Email: c.Email,
			Tags: append([]string{}, c.Tags...), Outcome: c.Outcome, Summary: c.Summary,
		}
		if c.Feedback != nil {
			row.Rating = c.Feedback.Rating
		}
		out.Transcripts = append(out.Transcripts, row)
	}
	if page.Next != nil {
		out.NextAt, out.NextID = &page.Next.ArrivedAt, page.Next.ID
	}
	return out
}
