package library

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/internal/store"
)

// Article is knowledge that operators search, and visitors may read if it is
// for all.
type Article struct {
	ID        string
	Folder    string
	Title     string
	Body      string // Markdown
	Audience  string // team or all
	Language  string // that it is written in
	AuthorID  string
	Version   int64
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Articles returns all articles without their bodies, by folder and title.
func (s Tables) Articles(ctx context.Context) ([]Article, error) {
	var list []Article
	err := s.DB.WithContext(ctx).Omit("body").Select("id", "folder", "title", "audience", "language", "author_id", "version", "created_at", "updated_at").
		Order("lower(folder), lower(title), id").Find(&list).Error
	return list, err
}

// Article returns one article.
func (s Tables) Article(ctx context.Context, id string) (Article, error) {
	var a Article
	if uuid.Validate(id) != nil {
		return a, store.ErrNotFound
	}
	err := s.DB.WithContext(ctx).Select(articleColumns).Where("id = ?", id).Take(&a).Error
	return a, store.NotFound(err)
}

const articleColumns = "id, folder, title, body, audience, language, author_id, version, created_at, updated_at"

// Excerpts returns for each text some words around those that a query finds, or
// its first ones.
func (s Tables) Excerpts(ctx context.Context, texts []string, query string) ([]string, error) {
	list, err := json.Marshal(texts)
	if err != nil {
		return nil, err
	}
	excerpts := make([]string, 0, len(texts))
	err = s.DB.WithContext(ctx).Raw(`select ts_headline('simple', translate(t, '<>', '  '), ?::tsquery,
			'StartSel="", StopSel="", MaxWords=24, MinWords=12, MaxFragments=1')
		from jsonb_array_elements_text(?::jsonb) with ordinality as x(t, n) order by n`, query, string(list)).Scan(&excerpts).Error
	return excerpts, err
}

// SaveArticle stores an article, new with version 0.
func (s Tables) SaveArticle(ctx context.Context, a Article) (Article, error) {
	err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := store.SaveRow(tx, &a, a.ID, a.Version, func(next int64) { a.Version = next }, ""); err != nil {
			return err
		}
		return savePassages(tx, a)
	})
	return a, err
}

// RemoveArticle deletes an article.
func (s Tables) RemoveArticle(ctx context.Context, id string) error {
	return s.DB.WithContext(ctx).Delete(&Article{}, "id = ?", id).Error
}
