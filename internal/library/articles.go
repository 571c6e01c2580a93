package library

import (
	"bytes"
	"context"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/store"
)

// ArticleView is an article as the Library shows it.
type ArticleView struct {
	ID        string    `json:"id,omitempty" doc:"Empty for a new one"`
	Version   int64     `json:"version" doc:"As it was read; 0 for a new one"`
	Folder    string    `json:"folder"`
	Title     string    `json:"title"`
	Body      string    `json:"body,omitempty" doc:"Markdown"`
	HTML      string    `json:"html,omitempty" doc:"The body as a page shows it; nothing in it can run"`
	Audience  string    `json:"audience" enum:"team,all" doc:"Who may read it"`
	Language  string    `json:"language,omitempty" enum:"en,de,da,fr,es" doc:"That it is written in; English if it is not said"`
	Author    string    `json:"author,omitempty"`
	UpdatedAt time.Time `json:"updatedAt,omitzero"`
	URL       string    `json:"url,omitempty" doc:"Where visitors read it, if it is for all"`
	Excerpt   string    `json:"excerpt,omitempty" doc:"For a search: the words around what was found"`
	Read      *Readers  `json:"read,omitempty" doc:"What visitors made of it lately, if they may read it"`
}

// markdown renders articles: CommonMark with tables, and links that are plain
// addresses. Raw HTML is left out, and so are addresses that could run a script.
var markdown = goldmark.New(goldmark.WithExtensions(extension.Table, extension.Linkify))

// RenderMarkdown returns Markdown as HTML.
func RenderMarkdown(body string) (string, error) {
	var out bytes.Buffer
	err := markdown.Convert([]byte(body), &out)
	return out.String(), err
}

// PlainText returns the words of Markdown on one line, without its marks.
func PlainText(body string) string {
	source := []byte(body)
	return wordsOf(markdown.Parser().Parse(text.NewReader(source)), source)
}

// wordsOf returns the words of a part of a document on one line, without its marks.
func wordsOf(part ast.Node, source []byte) string {
	var out strings.Builder
	visit := func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		if !entering {
			if n.Type() == ast.TypeBlock {
				out.WriteByte(' ')
			}
			return ast.WalkContinue, nil
		}
		switch n := n.(type) {
		case *ast.Text:
			out.Write(util.ResolveEntityNames(util.UnescapePunctuations(n.Segment.Value(source))))
			if n.SoftLineBreak() || n.HardLineBreak() {
				out.WriteByte(' ')
			}
		case *ast.AutoLink:
			out.Write(n.Label(source))
		case *ast.CodeBlock, *ast.FencedCodeBlock:
			out.Write(n.Lines().Value(source))
		}
		return ast.WalkContinue, nil
	}
	// Walking fails only when visit does.
	_ = ast.Walk(part, visit)
	return strings.Join(strings.Fields(out.String()), " ")
}

const (
	titleLimit   = 160
	articleLimit = 100_000 // code points
)

func (room *Room) articleView(r Article) ArticleView {
	v := ArticleView{ID: r.ID, Version: r.Version, Folder: r.Folder, Title: r.Title, Body: r.Body, Audience: r.Audience, Language: r.Language, Author: room.Settings.OperatorName(r.AuthorID), UpdatedAt: r.UpdatedAt}
	if r.Audience == "all" {
		v.URL = room.URL + "/articles/" + r.ID
	}
	return v
}

// Articles searches the articles, or lists all of them.
func (room *Room) Articles(ctx context.Context, words string) ([]ArticleView, error) {
	views := []ArticleView{}
	if strings.TrimSpace(words) == "" {
		list, err := room.Tables.Articles(ctx)
		if err != nil {
			return views, err
		}
		readers, err := room.readers(ctx)
		for _, r := range list {
			v := room.articleView(r)
			if of := readers[r.ID]; r.Audience == "all" {
				v.Read = &of
			}
			views = append(views, v)
		}
		return views, err
	}
	found, err := room.Tables.FindArticles(ctx, Search{Words: words, Limit: 50})
	if err != nil {
		return views, err
	}
	excerpts, err := room.excerpts(ctx, found)
	if err != nil {
		return views, err
	}
	for i, r := range found.Articles {
		v := room.articleView(r)
		v.Body, v.Excerpt = "", excerpts[i]
		views = append(views, v)
	}
	return views, nil
}

// excerpts returns of each article that was found the words around what was looked for.
func (room *Room) excerpts(ctx context.Context, found Found) ([]string, error) {
	texts := make([]string, len(found.Articles))
	for i, r := range found.Articles {
		texts[i] = PlainText(r.Body)
		if text := []rune(texts[i]); len(text) > excerptFrom {
			texts[i] = string(text[:excerptFrom])
		}
	}
	excerpts, err := room.Tables.Excerpts(ctx, texts, found.Query)
	for i, e := range excerpts {
		if !strings.HasSuffix(texts[i], e) {
			excerpts[i] = e + " …"
		}
	}
	return excerpts, err
}

// Article returns an article with its body.
func (room *Room) Article(ctx context.Context, id string) (ArticleView, error) {
	r, err := room.Tables.Article(ctx, id)
	if err != nil {
		return ArticleView{}, err
	}
	v := room.articleView(r)
	if v.HTML, err = RenderMarkdown(r.Body); err != nil || r.Audience != "all" {
		return v, err
	}
	readers, err := room.readers(ctx)
	if err == nil {
		of := readers[r.ID]
		v.Read = &of
	}
	return v, err
}

// PublicArticle returns an article that visitors may read.
func (room *Room) PublicArticle(ctx context.Context, id string) (ArticleView, error) {
	v, err := room.Article(ctx, id)
	if err == nil && v.Audience != "all" {
		return ArticleView{}, store.ErrNotFound
	}
	return v, err
}

// SaveArticle makes or changes an article. Everybody of the team may; what
// visitors read is for leads.
func (room *Room) SaveArticle(ctx context.Context, o access.Actor, in ArticleView) (ArticleView, error) {
	r := Article{
		ID: in.ID, Version: in.Version, Folder: chat.CleanLine(in.Folder, 80), Title: chat.CleanLine(in.Title, titleLimit), Body: strings.TrimSpace(in.Body),
		Audience: in.Audience, Language: in.Language, AuthorID: o.ID, CreatedAt: room.Now(), UpdatedAt: room.Now(),
	}
	var wrong []form.Wrong
	if r.Language == "" {
		r.Language = "en"
	}
	if !slices.Contains(widget.Shipped, r.Language) {
		wrong = append(wrong, form.Wrong{Field: "language", Words: "Choose one of the languages."})
	}
	if r.Title == "" {
		wrong = append(wrong, form.Wrong{Field: "title", Words: "Give it a title."})
	}
	switch n := utf8.RuneCountInString(r.Body); {
	case n == 0:
		wrong = append(wrong, form.Wrong{Field: "body", Words: "Write the article."})
	case n > articleLimit:
		wrong = append(wrong, form.Wrong{Field: "body", Words: "The article is too long. Split it in two."})
	}
	if r.Audience != "team" && r.Audience != "all" {
		wrong = append(wrong, form.Wrong{Field: "audience", Words: "Choose who can read it."})
	}
	if err := form.Refuse(wrong); err != nil {
		return in, err
	}
	public := r.Audience == "all"
	if r.ID == "" {
		r.ID, r.Version = uuid.NewString(), 0
	} else {
		before, err := room.Tables.Article(ctx, r.ID)
		if err != nil {
			return in, err
		}
		public = public || before.Audience == "all"
		r.AuthorID, r.CreatedAt = before.AuthorID, before.CreatedAt // whoever mends it
	}
	if public && !o.May(access.PublishArticles) {
		return in, access.ErrNotAllowed
	}
	saved, err := room.Tables.SaveArticle(ctx, r)
	if err != nil {
		return in, err
	}
	room.Live.ToTeam(LibraryMoved{Type: "library"})
	return room.Article(ctx, saved.ID)
}

// RemoveArticle deletes an article: one's own, or as a lead any.
func (room *Room) RemoveArticle(ctx context.Context, o access.Actor, id string) error {
	r, err := room.Tables.Article(ctx, id)
	if err != nil {
		return err
	}
	if r.Audience == "all" && !o.May(access.PublishArticles) || r.AuthorID != o.ID && !o.May(access.RemoveArticles) {
		return access.ErrNotAllowed
	}
	if err := room.Tables.RemoveArticle(ctx, id); err != nil {
		return err
	}
	room.Live.ToTeam(LibraryMoved{Type: "library"}) // afterwards: whoever reads anew must not find it
	return nil
}
