package library

import (
	"context"
	"net/http"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/internal/problem"
	"stoop/internal/store"
	"stoop/internal/view"
)

// How often visitors may ask what there is to read. Whoever types asks several times a
// second; a network is shared by many.
const (
	askersKept      = 20_000
	asksPerSecond   = 3
	asksAtOnce      = 40
	askersOnNetwork = 20
)

var errAskedTooOften = problem.New(http.StatusTooManyRequests, "too-many-searches", "Too many searches", "Wait a moment, or ask us: we will find it.")

// foundMost bounds what a visitor's search shows.
const foundMost = 8

// Reader is a visitor who looks for an answer, as their panel tells.
type Reader struct {
	access.Visitor
	Address  string
	Widget   widget.Design
	Language string // that the panel speaks
}

// HelpView is what a visitor can find by themselves.
type HelpView struct {
	Search bool                `json:"search"`
	Calls  bool                `json:"calls,omitempty" doc:"They can ask to be called back"`
	FAQs   []view.ArticleTitle `json:"faqs"`
}

// ReadView is an article as a visitor reads it.
type ReadView struct {
	ID       string `json:"id"`
	Title    string `json:"title"`
	HTML     string `json:"html" doc:"Nothing in it can run"`
	Language string `json:"language"`
}

func (room *Room) mayAsk(who Reader) error {
	of := func(name string, factor int) bool {
		return room.askers.Of(name, rate.Limit(asksPerSecond*factor), asksAtOnce*factor).AllowN(room.Now(), 1)
	}
	if !of("visitor "+who.ID, 1) || who.Address != "" && !of("network "+who.Address, askersOnNetwork) {
		return errAskedTooOften
	}
	return nil
}

// languages returns those in which a reader gets articles: theirs, and if there are none
// the first of the widget.
func (who Reader) languages() []string { return who.Widget.ReadsIn(who.Language) }

// HelpOn returns what a visitor can find by themselves on a page.
func (room *Room) HelpOn(ctx context.Context, who Reader, page string) (HelpView, error) {
	out := HelpView{Search: who.Widget.Help.Search, Calls: who.Widget.Help.Calls, FAQs: []view.ArticleTitle{}}
	if err := room.mayAsk(who); err != nil {
		return out, err
	}
	faqs, err := room.faqs(ctx, who.Widget.Help, who.Widget.Help.OnPage(page), who.languages())
	if err == nil {
		out.FAQs = faqs
	}
	return out, err
}

// faqs returns the titles of articles in their order, as many as a visitor sees at once.
func (room *Room) faqs(ctx context.Context, help widget.Help, ids, languages []string) ([]view.ArticleTitle, error) {
	titles := []view.ArticleTitle{}
	list, err := room.Tables.PublicArticles(ctx, ids)
	if err != nil {
		return titles, err
	}
	of := map[string]Article{}
	for _, a := range list {
		of[a.ID] = a
	}
	if help.Order == widget.ByUse {
		readers, err := room.readers(ctx)
		if err != nil {
			return titles, err
		}
		sort.SliceStable(ids, func(i, j int) bool { return readers[ids[i]].Opened > readers[ids[j]].Opened })
	}
	for _, language := range languages {
		for _, id := range ids {
			if a, there := of[id]; there && a.Language == language && len(titles) < widget.FAQsShown {
				titles = append(titles, view.ArticleTitle{ID: a.ID, Title: a.Title})
			}
		}
		if len(titles) > 0 {
			break
		}
	}
	return titles, nil
}

// FAQs returns the titles of a design's FAQs in a language, whatever the page.
func (room *Room) FAQs(ctx context.Context, d widget.Design, language string) ([]view.ArticleTitle, error) {
	ids := make([]string, len(d.Help.FAQs))
	for i, q := range d.Help.FAQs {
		ids[i] = q.Article
	}
	return room.faqs(ctx, d.Help, ids, Reader{Widget: d, Language: language}.languages())
}

// Find searches the articles for a visitor.
func (room *Room) Find(ctx context.Context, who Reader, words string) ([]view.ArticleTitle, error) {
	titles := []view.ArticleTitle{}
	if err := room.mayAsk(who); err != nil {
		return titles, err
	}
	if !who.Widget.Help.Search || strings.TrimSpace(chat.CleanLine(words, 200)) == "" {
		return titles, nil
	}
	for _, language := range who.languages() {
		found, err := room.Tables.FindArticles(ctx, Search{Words: words, Language: language, Public: true, Limit: foundMost})
		if err != nil {
			return titles, err
		}
		if len(found.Articles) == 0 || found.Query == "" {
			continue
		}
		excerpts, err := room.excerpts(ctx, found)
		for i, a := range found.Articles {
			titles = append(titles, view.ArticleTitle{ID: a.ID, Title: a.Title, Excerpt: excerpts[i]})
		}
		return titles, err
	}
	return titles, nil
}

// mayRead reports whether a widget shows an article to visitors before a chat.
func mayRead(d widget.Design, id string) bool {
	return d.Help.Search || slices.ContainsFunc(d.Help.FAQs, func(q widget.FAQ) bool { return q.Article == id })
}

// Read returns an article to a visitor, and takes note that they read it.
func (room *Room) Read(ctx context.Context, who Reader, id string) (ReadView, error) {
	if err := room.mayAsk(who); err != nil {
		return ReadView{}, err
	}
	if uuid.Validate(id) != nil || !mayRead(who.Widget, id) {
		return ReadView{}, store.ErrNotFound
	}
	a, err := room.Tables.Article(ctx, id)
	if err != nil {
		return ReadView{}, err
	}
	if a.Audience != "all" {
		return ReadView{}, store.ErrNotFound
	}
	out := ReadView{ID: a.ID, Title: a.Title, Language: a.Language}
	if out.HTML, err = RenderMarkdown(a.Body); err != nil {
		return out, err
	}
	return out, room.Tables.ReadArticle(ctx, id, reader(who.ID, id), room.Now())
}

// Helped takes note whether an article that a visitor read helped them.
func (room *Room) Helped(ctx context.Context, who Reader, id string, helped bool) error {
	if err := room.mayAsk(who); err != nil {
		return err
	}
	if uuid.Validate(id) != nil {
		return store.ErrNotFound
	}
	had, err := room.Tables.ArticleHelped(ctx, id, reader(who.ID, id), helped)
	if err == nil && !had {
		return store.ErrNotFound
	}
	return err
}

// PublicArticles returns those of some articles that visitors may read, without their bodies.
func (s Tables) PublicArticles(ctx context.Context, ids []string) ([]Article, error) {
	known := []string{}
	for _, id := range ids {
		if uuid.Validate(id) == nil { // a design may name what is no id
			known = append(known, id)
		}
	}
	var list []Article
	if len(known) == 0 {
		return list, nil
	}
	err := s.DB.WithContext(ctx).Select("id", "title", "language").Where("audience = 'all' and id in ?", known).Find(&list).Error
	return list, err
}

// LacksArticles returns which of some articles visitors may not read.
func (room *Room) LacksArticles(ctx context.Context, ids []string) ([]string, error) {
	list, err := room.Tables.PublicArticles(ctx, ids)
	lacks := slices.DeleteFunc(slices.Clone(ids), func(id string) bool {
		return slices.ContainsFunc(list, func(a Article) bool { return a.ID == id })
	})
	return lacks, err
}

// ForVisitors returns all articles that visitors may read.
func (room *Room) ForVisitors(ctx context.Context) ([]view.ArticleTitle, error) {
	list, err := room.Tables.Articles(ctx)
	titles := []view.ArticleTitle{}
	for _, a := range list {
		if a.Audience == "all" {
			titles = append(titles, view.ArticleTitle{ID: a.ID, Title: a.Title, Language: a.Language})
		}
	}
	return titles, err
}
