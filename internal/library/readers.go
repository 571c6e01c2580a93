package library

import (
	"context"
	"sync"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm/clause"

	"stoop/internal/again"
)

// Readers are what visitors made of an article in the last 90 days.
type Readers struct {
	Opened   int `json:"opened" doc:"How many visitors read it"`
	Helped   int `json:"helped" doc:"How many said that it helped"`
	Unhelped int `json:"unhelped" doc:"How many said that it did not"`
}

const (
	readersFor   = 90 * 24 * time.Hour // as long as it is kept who read what
	countedEvery = 30 * time.Second
	sweptEvery   = time.Hour
)

// readersKept are the readers of all articles, counted a moment ago.
type readersKept struct {
	mu    sync.Mutex
	at    time.Time
	count map[string]Readers
}

// reader returns the number of a visitor as the reader of an article: always the same,
// and nothing leads back from it.
func reader(visitorID, articleID string) string {
	space, _ := uuid.Parse(articleID) // looked at by whoever asks; a wrong one is a space too
	return uuid.NewSHA1(space, []byte(visitorID)).String()
}

// ReadArticle takes note that a visitor read an article.
func (s Tables) ReadArticle(ctx context.Context, articleID, reader string, at time.Time) error {
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Table("article_readers").
		Create(map[string]any{"article_id": articleID, "reader": reader, "at": at}).Error
}

// ArticleHelped takes note whether an article helped somebody who read it; the last word
// holds. It reports whether they had read it.
func (s Tables) ArticleHelped(ctx context.Context, articleID, reader string, helped bool) (bool, error) {
	done := s.DB.WithContext(ctx).Table("article_readers").Where("article_id = ? and reader = ?", articleID, reader).Update("helped", helped)
	return done.RowsAffected > 0, done.Error
}

// CountReaders returns the readers of all articles since a time.
func (s Tables) CountReaders(ctx context.Context, since time.Time) (map[string]Readers, error) {
	var rows []struct {
		ArticleID string
		Readers
	}
	err := s.DB.WithContext(ctx).Raw(`select article_id, count(*) as opened, count(*) filter (where helped) as helped, count(*) filter (where not helped) as unhelped
		from article_readers where at >= ? group by article_id`, since).Scan(&rows).Error
	count := map[string]Readers{}
	for _, r := range rows {
		count[r.ArticleID] = r.Readers
	}
	return count, err
}

// sweptAtOnce bounds a transaction that forgets.
const sweptAtOnce = 5000

// ForgetReaders forgets who read what before a time.
func (s Tables) ForgetReaders(ctx context.Context, before time.Time) error {
	for {
		done := s.DB.WithContext(ctx).Exec(`delete from article_readers where (article_id, reader) in
			(select article_id, reader from article_readers where at < ? order by at limit ?)`, before, sweptAtOnce)
		if done.Error != nil || done.RowsAffected < sweptAtOnce {
			return done.Error
		}
	}
}

// readers returns the readers of all articles, as they were counted a moment ago.
func (room *Room) readers(ctx context.Context) (map[string]Readers, error) {
	room.read.mu.Lock()
	defer room.read.mu.Unlock() // who asks meanwhile waits for one count
	now := room.Now()
	if room.read.count != nil && now.Sub(room.read.at) < countedEvery && !now.Before(room.read.at) {
		return room.read.count, nil
	}
	count, err := room.Tables.CountReaders(ctx, now.Add(-readersFor))
	if err == nil {
		room.read.count, room.read.at = count, now
	}
	return count, err
}

// Run forgets, as long as the server runs, who read what long ago.
func (room *Room) Run(ctx context.Context) {
	again.Every(ctx, sweptEvery, func() {
		again.InTime(ctx, room.Log, "cutting articles into passages", room.cutArticles)
		again.InTime(ctx, room.Log, "forgetting who read articles long ago", func(ctx context.Context) error {
			return room.Tables.ForgetReaders(ctx, room.Now().Add(-readersFor))
		})
	})
}
