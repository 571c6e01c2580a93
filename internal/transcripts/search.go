package transcripts

import (
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/core/search"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
)

// Search asks for transcripts.
type Search struct {
	facts.Filter
	Query  search.Query
	Oldest bool    // first; otherwise the newest
	Before *Cursor // only what comes after this place in the list
	Limit  int
}

// Cursor is a place in a list of chats, by when they arrived.
type Cursor struct {
	ArrivedAt time.Time
	ID        string
}

// Hit is a chat that a search found, with the line that fits best.
type Hit struct {
	Chat    chatlog.Chat
	At      Cursor
	Excerpt []search.Piece
	Noted   bool // the line is a note for the team
}

// found narrows a query to the chats that a search finds.
func (q Search) found(db *gorm.DB) *gorm.DB {
	query := q.On(db.Table("fact_chats f")).Where("not f.gone")
	if !q.Query.Empty() {
		query = query.Joins("join chat_search w on w.chat_id = f.chat_id and w.words @@ ?::text::tsquery", q.Query.TSQuery())
	}
	return query
}

// page returns the next places in the list.
func (s Tables) page(ctx context.Context, q Search) ([]Cursor, error) {
	query := q.found(s.DB.WithContext(ctx)).Select("f.chat_id::text as id, f.arrived_at")
	order, behind := "f.arrived_at desc, f.chat_id desc", "(f.arrived_at, f.chat_id) < (?, ?)"
	if q.Oldest {
		order, behind = "f.arrived_at, f.chat_id", "(f.arrived_at, f.chat_id) > (?, ?)"
	}
	if q.Before != nil {
		query = query.Where(behind, q.Before.ArrivedAt, q.Before.ID)
	}
	var places []Cursor
	err := query.Order(order).Limit(q.Limit).Scan(&places).Error
	return places, err
}

// Search returns the ended chats that a search finds.
func (s Tables) Search(ctx context.Context, q Search) ([]Hit, error) {
	places, err := s.page(ctx, q)
	if err != nil || len(places) == 0 {
		return nil, err
	}
	ids := make([]string, len(places))
	for i, p := range places {
		ids[i] = p.ID
	}
	var chats []chatlog.Chat
	if err := chatlog.On(s.Store).Query(ctx).Where("id in ?", ids).Find(&chats).Error; err != nil {
		return nil, err
	}
	lines, err := chatlog.On(s.Store).Lines(ctx, ids, linesLooked)
	if err != nil {
		return nil, err
	}
	hits := make([]Hit, 0, len(places))
	for _, p := range places {
		at := slices.IndexFunc(chats, func(c chatlog.Chat) bool { return c.ID == p.ID })
		if at < 0 {
			continue // deleted at this moment
		}
		hits = append(hits, excerpt(Hit{Chat: chats[at], At: p}, lines[p.ID], q.Query.Terms()))
	}
	return hits, nil
}

// CountedMost is up to how many chats a search is counted: beyond, nobody wants to know
// it so exactly that they would wait for it.
const CountedMost = 10_000

// Count returns how many chats a search finds in all; CountedMost+1 stands for more.
func (s Tables) Count(ctx context.Context, q Search) (n int64, err error) {
	part := q.found(s.DB.WithContext(ctx)).Select("1").Limit(CountedMost + 1)
	err = s.DB.WithContext(ctx).Table("(?) as part", part).Count(&n).Error
	return n, err
}

// CountGone returns how many of the chats that are asked for were deleted since, because
// they were kept as long as was set or somebody was forgotten. What was said in them nobody
// knows any more: of a search by words it says nothing.
func (s Tables) CountGone(ctx context.Context, q Search) (n int64, err error) {
	if !q.Query.Empty() {
		return 0, nil
	}
	part := q.On(s.DB.WithContext(ctx).Table("fact_chats f")).Where("f.gone").Select("1").Limit(CountedMost)
	err = s.DB.WithContext(ctx).Table("(?) as part", part).Count(&n).Error
	return n, err
}

// excerptLength is how much is shown of the line that fits best, in code points.
const excerptLength = 180

// linesLooked bounds how many lines of each chat are looked through for the one that
// fits best.
const linesLooked = 400

// excerpt adds to a hit the line in which most of the terms stand; without terms, the
// question.
func excerpt(h Hit, lines []chat.Event, terms []search.Term) Hit {
	said := transcript.Said(h.Chat.State, lines, h.Chat.State.Last)
	best, most := chat.Event{}, -1
	consider := func(e chat.Event) {
		text := e.Text
		if e.Kind == chat.Shared {
			text = e.Detail.File.Name + " " + text
		}
		if text == "" {
			return
		}
		if score := search.Score(text, terms); score > most {
			best, most = e, score
			best.Text = text
		}
	}
	for _, e := range said {
		consider(e)
	}
	if len(terms) > 0 {
		for _, e := range lines {
			if e.Kind == chat.Noted || e.Kind == chat.Summarised || e.Kind == chat.Rated {
				consider(e)
			}
		}
	}
	h.Noted = best.Kind == chat.Noted || best.Kind == chat.Summarised
	h.Excerpt = search.Marked(search.Excerpt(best.Text, terms, excerptLength), terms)
	return h
}
