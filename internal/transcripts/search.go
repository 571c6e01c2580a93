package transcripts

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/store"
)

// wordsLimit bounds what is searched for, in code points.
const wordsLimit = 200

// Search asks for transcripts.
type Search struct {
	Words   string  // all of them must stand in the chat, as whole words or beginnings of words
	OwnerID *string // only the chats of this operator
	Before  *Cursor // only what comes after this place in the list
	Limit   int
}

// Cursor is a place in a list of chats, newest first.
type Cursor struct {
	StartedAt time.Time
	ID        string
}

// Hit is a chat that a search found, with the words that matched best.
type Hit struct {
	Chat    chatlog.Chat
	Excerpt string
}

// Search returns the ended chats that a search finds, newest first.
func (s Tables) Search(ctx context.Context, q Search) ([]Hit, error) {
	terms := store.SearchTerms(chat.CleanLine(q.Words, wordsLimit))
	find := chatlog.On(s.Store).Query(ctx).Where("phase = 'ended'")
	if q.OwnerID != nil {
		find = find.Where("owner_id = ?", *q.OwnerID)
	}
	if q.Before != nil {
		find = find.Where("(started_at, id) < (?, ?)", q.Before.StartedAt, q.Before.ID)
	}
	if len(terms) > 0 {
		find = find.Where("id in (select chat_id from chat_search where words @@ to_tsquery('simple', ?))", strings.Join(terms, " & "))
	}
	var chats []chatlog.Chat
	if err := find.Order("started_at desc, id desc").Limit(q.Limit).Find(&chats).Error; err != nil {
		return nil, err
	}
	excerpts, err := s.excerpts(ctx, chats, terms)
	if err != nil {
		return nil, err
	}
	hits := make([]Hit, len(chats))
	for i, c := range chats {
		hits[i] = Hit{Chat: c, Excerpt: excerpts[c.ID]}
		if hits[i].Excerpt == "" {
			hits[i].Excerpt = c.LastWords
		}
	}
	return hits, nil
}

// Count returns how many chats a search finds in all.
func (s Tables) Count(ctx context.Context, q Search) (int64, error) {
	find := s.DB.WithContext(ctx).Table("chats").Where("phase = 'ended'")
	if q.OwnerID != nil {
		find = find.Where("owner_id = ?", *q.OwnerID)
	}
	if terms := store.SearchTerms(chat.CleanLine(q.Words, wordsLimit)); len(terms) > 0 {
		find = find.Where("id in (select chat_id from chat_search where words @@ to_tsquery('simple', ?))", strings.Join(terms, " & "))
	}
	var n int64
	err := find.Count(&n).Error
	return n, err
}

// excerpts returns for each chat the message that holds most of the terms;
// without terms, the visitor's question.
func (s Tables) excerpts(ctx context.Context, chats []chatlog.Chat, terms []string) (map[string]string, error) {
	if len(chats) == 0 {
		return nil, nil
	}
	ids := make([]string, len(chats))
	for i, c := range chats {
		ids[i] = c.ID
	}
	var rows []struct {
		ChatID string
		Text   string
	}
	query := s.DB.WithContext(ctx).Table("events").Select("distinct on (chat_id) chat_id, text").
		Where("chat_id in ? and kind = 'said'", ids)
	if len(terms) == 0 {
		query = query.Order("chat_id, number")
	} else {
		any := strings.Join(terms, " | ")
		query = query.Where("search_words(text) @@ to_tsquery('simple', ?)", any).
			Order(gorm.Expr("chat_id, ts_rank(search_words(text), to_tsquery('simple', ?)) desc, number", any))
	}
	if err := query.Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.ChatID] = chat.CleanLine(r.Text, chat.GlimpseLength)
	}
	return out, nil
}
