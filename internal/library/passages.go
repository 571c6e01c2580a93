package library

import (
	"context"
	"strings"
	"unicode/utf8"

	"github.com/yuin/goldmark/ast"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"
	"gorm.io/gorm"
)

// Passage is a part of an article that may answer a question.
type Passage struct {
	ArticleID string
	Number    int
	Version   int64 // of the article
	Language  string
	Public    bool
	Title     string // of the article
	Heading   string // above it; empty: none
	Text      string // without marks; blocks on lines of their own
}

// TableName is the table's.
func (Passage) TableName() string { return "article_passages" }

// passageLength is from where on a passage is not made longer, in code points.
const passageLength = 500

// passagesMost bounds how many passages of one article are kept: more is a book.
const passagesMost = 200

// PassagesOf cuts an article into passages: at its headings, and where one would be long.
func PassagesOf(a Article) []Passage {
	source := []byte(a.Body)
	var list []Passage
	heading := ""
	var blocks []string
	flush := func() {
		if len(blocks) > 0 && len(list) < passagesMost {
			list = append(list, Passage{
				ArticleID: a.ID, Number: len(list) + 1, Version: a.Version, Language: a.Language, Public: a.Audience == "all",
				Title: a.Title, Heading: heading, Text: strings.Join(blocks, "\n"),
			})
		}
		blocks = nil
	}
	for n := markdown.Parser().Parse(text.NewReader(source)).FirstChild(); n != nil; n = n.NextSibling() {
		if n.Kind() == ast.KindHeading {
			flush()
			heading = wordsOf(n, source)
			continue
		}
		if lines := linesOf(n, source); len(lines) > 0 {
			blocks = append(blocks, lines...)
			if utf8.RuneCountInString(strings.Join(blocks, "\n")) >= passageLength {
				flush()
			}
		}
	}
	flush()
	if len(list) == 0 { // nothing but marks: it answers nothing, and is known to have been looked at
		list = []Passage{{ArticleID: a.ID, Number: 1, Version: a.Version, Language: a.Language, Public: a.Audience == "all", Title: a.Title}}
	}
	return list
}

// linesOf returns the words of a block, each item of a list and each row of a table on a
// line of its own.
func linesOf(n ast.Node, source []byte) []string {
	var lines []string
	add := func(line string) {
		if line != "" {
			lines = append(lines, line)
		}
	}
	switch n.Kind() {
	case ast.KindList:
		for item := n.FirstChild(); item != nil; item = item.NextSibling() {
			if words := wordsOf(item, source); words != "" {
				add("• " + words)
			}
		}
	case east.KindTable:
		for row := n.FirstChild(); row != nil; row = row.NextSibling() {
			var cells []string
			for cell := row.FirstChild(); cell != nil; cell = cell.NextSibling() {
				cells = append(cells, wordsOf(cell, source))
			}
			add(strings.Join(cells, ": "))
		}
	case ast.KindHTMLBlock, ast.KindThematicBreak:
	default:
		add(wordsOf(n, source))
	}
	return lines
}

// savePassages keeps the passages of an article in the place of those it had.
func savePassages(tx *gorm.DB, a Article) error {
	if err := tx.Where("article_id = ?", a.ID).Delete(&Passage{}).Error; err != nil {
		return err
	}
	list := PassagesOf(a)
	return tx.CreateInBatches(&list, 100).Error
}

// cutAtOnce bounds how many articles are cut into passages at once.
const cutAtOnce = 100

// CutArticles cuts those articles into passages that were stored before there were any,
// and reports whether there may be more.
func (s Tables) CutArticles(ctx context.Context) (more bool, err error) {
	var list []Article
	err = s.DB.WithContext(ctx).Select(articleColumns).
		Where("not exists (select from article_passages p where p.article_id = articles.id and p.version = articles.version)").
		Order("id").Limit(cutAtOnce).Find(&list).Error
	if err != nil {
		return false, err
	}
	for _, a := range list {
		if err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return savePassages(tx, a) }); err != nil {
			return false, err
		}
	}
	return len(list) == cutAtOnce, nil
}

// cutArticles cuts all articles that were stored before there were passages.
func (room *Room) cutArticles(ctx context.Context) error {
	for {
		more, err := room.Tables.CutArticles(ctx)
		if err != nil || !more {
			return err
		}
	}
}
