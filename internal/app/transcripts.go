package app

import (
	"context"

	"stoop/core/access"
	"stoop/internal/store"
)

// TranscriptHit is a chat that a search of the transcripts found.
type TranscriptHit struct {
	Chat    ChatView `json:"chat"`
	Excerpt string   `json:"excerpt" doc:"The message that fits the words best; without words, the question"`
}

// TranscriptPage is a part of what a search found, newest first.
type TranscriptPage struct {
	Hits  []TranscriptHit `json:"hits"`
	Total int64           `json:"total" doc:"How many chats the search finds in all"`
	Next  *store.Cursor   `json:"-"`
}

const transcriptPage = 50

// Transcripts searches the ended chats: all for leads and admins, their own
// for operators.
func (a *App) Transcripts(ctx context.Context, o access.Actor, words string, before *store.Cursor) (TranscriptPage, error) {
	q := store.Search{Words: words, Before: before, Limit: transcriptPage}
	if !o.May(access.SeeEveryChat) {
		q.OwnerID = &o.ID
	}
	hits, err := a.store.Transcripts(ctx, q)
	if err != nil {
		return TranscriptPage{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return TranscriptPage{}, err
	}
	page := TranscriptPage{Hits: make([]TranscriptHit, len(hits))}
	for i, h := range hits {
		page.Hits[i] = TranscriptHit{Chat: a.chatView(h.Chat, s), Excerpt: h.Excerpt}
	}
	if len(hits) == transcriptPage {
		last := hits[len(hits)-1].Chat
		page.Next = &store.Cursor{StartedAt: last.StartedAt, ID: last.ID}
	}
	page.Total, err = a.store.CountTranscripts(ctx, q)
	return page, err
}
