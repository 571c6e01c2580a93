package transcripts

import (
	"context"
	"errors"

	"stoop/core/access"
	"stoop/core/search"
	"stoop/internal/facts"
	"stoop/internal/problem"
	"stoop/internal/view"
)

// TranscriptHit is a chat that a search of the transcripts found.
type TranscriptHit struct {
	Chat    view.ChatView  `json:"chat"`
	Name    []search.Piece `json:"name" doc:"Of the visitor, with what was looked for; empty when not told"`
	Excerpt []search.Piece `json:"excerpt" doc:"The line that fits the words best; without words, the question"`
	Noted   bool           `json:"noted" doc:"That line is a note for the team"`
}

// TranscriptPage is a part of what a search found.
type TranscriptPage struct {
	Hits  []TranscriptHit `json:"hits"`
	Total int64           `json:"total" doc:"How many chats the search finds in all; with more, more than that"`
	Gone  int64           `json:"gone" doc:"More that were deleted since, but are counted"`
	More  bool            `json:"more" doc:"There are more than the total, which is counted no further"`
	Terms []search.Term   `json:"terms" doc:"What was looked for, to mark it in what is read"`
	Next  *Cursor         `json:"-"`
}

const transcriptPage = 50

// Find searches the ended chats: all for leads and admins, their own for operators.
// Whoever asks without a cursor is also told how many there are.
func (room *Room) Find(ctx context.Context, o access.Actor, asked facts.Asked, words string, oldest bool, before *Cursor) (TranscriptPage, error) {
	q, err := room.searchFor(o, asked, words, oldest)
	if err != nil {
		return TranscriptPage{}, err
	}
	q.Before, q.Limit = before, transcriptPage+1
	if before == nil {
		if err := room.Facts.CatchUp(ctx, facts.FollowerName, FollowerName); err != nil {
			return TranscriptPage{}, err
		}
	}
	hits, err := room.searching().Search(ctx, q)
	if err != nil {
		return TranscriptPage{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TranscriptPage{}, err
	}
	page := TranscriptPage{Terms: q.Query.Terms()}
	if len(hits) > transcriptPage {
		hits = hits[:transcriptPage]
		page.Next = &hits[transcriptPage-1].At
	}
	page.Hits = make([]TranscriptHit, len(hits))
	for i, h := range hits {
		page.Hits[i] = TranscriptHit{Chat: room.View.Chat(h.Chat, s), Name: search.Marked(h.Chat.Name, page.Terms), Excerpt: h.Excerpt, Noted: h.Noted}
	}
	if before == nil {
		if page.Gone, err = room.searching().CountGone(ctx, q); err != nil {
			return page, err
		}
		page.Total, err = room.searching().Count(ctx, q)
		if page.Total > CountedMost {
			page.Total, page.More = CountedMost, true
		}
	}
	return page, err
}

// searchFor returns what somebody may look for.
func (room *Room) searchFor(o access.Actor, asked facts.Asked, words string, oldest bool) (q Search, err error) {
	if q.Filter, _, err = asked.Filter(room.Zone); err != nil {
		return q, err
	}
	if q.Query, err = search.Parse(words); err != nil {
		return q, searchProblem(err)
	}
	q.Oldest = oldest
	if !o.May(access.SeeEveryChat) {
		q.Owner = o.ID
	}
	return q, nil
}

func searchProblem(err error) error {
	switch {
	case errors.Is(err, search.ErrTooLong):
		return problem.New(422, "search-too-long", "The search is too long", "Search for up to 500 characters.")
	case errors.Is(err, search.ErrTooMany):
		return problem.New(422, "search-too-many", "The search has too many words", "Search for up to 40 words.")
	case errors.Is(err, search.ErrOnlyWithout):
		return problem.New(422, "search-only-without", "The search only says what must not be there", "Add a word that must be there.")
	}
	return problem.New(422, "search-nothing", "There is no word to look for", "Write a word, a name or a number.")
}
