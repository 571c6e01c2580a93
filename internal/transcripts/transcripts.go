package transcripts

import (
	"context"

	"stoop/core/access"
	"stoop/internal/view"
)

// TranscriptHit is a chat that a search of the transcripts found.
type TranscriptHit struct {
	Chat    view.ChatView `json:"chat"`
	Excerpt string        `json:"excerpt" doc:"The message that fits the words best; without words, the question"`
}

// TranscriptPage is a part of what a search found, newest first.
type TranscriptPage struct {
	Hits  []TranscriptHit `json:"hits"`
	Total int64           `json:"total" doc:"How many chats the search finds in all"`
	Next  *Cursor         `json:"-"`
}

const transcriptPage = 50

// Transcripts searches the ended chats: all for leads and admins, their own
// for operators.
func (room *Room) Transcripts(ctx context.Context, o access.Actor, words string, before *Cursor) (TranscriptPage, error) {
	q := Search{Words: words, Before: before, Limit: transcriptPage}
	if !o.May(access.SeeEveryChat) {
		q.OwnerID = &o.ID
	}
	hits, err := room.Tables.Search(ctx, q)
	if err != nil {
		return TranscriptPage{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TranscriptPage{}, err
	}
	page := TranscriptPage{Hits: make([]TranscriptHit, len(hits))}
	for i, h := range hits {
		page.Hits[i] = TranscriptHit{Chat: room.View.Chat(h.Chat, s), Excerpt: h.Excerpt}
	}
	if len(hits) == transcriptPage {
		last := hits[len(hits)-1].Chat
		page.Next = &Cursor{StartedAt: last.StartedAt, ID: last.ID}
	}
	page.Total, err = room.Tables.Count(ctx, q)
	return page, err
}
