package library

import (
	"context"
	"errors"
	"net/url"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// SavedPage is a page of a site that operators show visitors.
type SavedPage struct {
	ID        string
	Folder    string
	Title     string
	URL       string
	Version   int64
	AuthorID  string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// SavedPageView is a saved page as the Library shows it.
type SavedPageView struct {
	ID        string    `json:"id,omitempty" doc:"Empty for a new one"`
	Version   int64     `json:"version" doc:"As it was read; 0 for a new one"`
	Folder    string    `json:"folder"`
	Title     string    `json:"title"`
	URL       string    `json:"url"`
	Author    string    `json:"author,omitempty"`
	UpdatedAt time.Time `json:"updatedAt,omitzero"`
}

const (
	pagesMost       = 2000 // saved pages
	pageAddressMost = 2000 // code points
	pagesFound      = 50   // that a search returns
	titlePatience   = 3 * time.Second
)

// SavedPages returns saved pages in whose folder, title or address all of some words stand, by
// folder and title; all of them without words.
func (s Tables) SavedPages(ctx context.Context, words string, limit int) ([]SavedPage, error) {
	q := s.DB.WithContext(ctx).Order("lower(folder), lower(title), id").Limit(limit)
	for _, w := range strings.Fields(words) {
		q = q.Where("position(lower(?) in lower(folder || ' ' || title || ' ' || url)) > 0", w)
	}
	var list []SavedPage
	return list, q.Find(&list).Error
}

// Pages returns the pages that the team has saved, all or those that a search finds.
func (room *Room) Pages(ctx context.Context, words string) ([]SavedPageView, error) {
	limit := pagesMost
	if strings.TrimSpace(words) != "" {
		limit = pagesFound
	}
	return room.pages(ctx, words, limit, func(string) bool { return true })
}

// PagesFor returns saved pages that may be shown in a chat: those of its widget's sites.
func (room *Room) PagesFor(ctx context.Context, o access.Actor, chatID, words string) ([]SavedPageView, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return nil, err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return nil, err
	}
	list, err := room.pages(ctx, words, pagesMost, w.Carries)
	return list[:min(len(list), pagesFound)], err
}

func (room *Room) pages(ctx context.Context, words string, limit int, fits func(address string) bool) ([]SavedPageView, error) {
	rows, err := room.Tables.SavedPages(ctx, words, limit)
	views := []SavedPageView{}
	for _, r := range rows {
		if fits(r.URL) {
			views = append(views, room.pageView(r))
		}
	}
	return views, err
}

func (room *Room) pageView(r SavedPage) SavedPageView {
	return SavedPageView{ID: r.ID, Version: r.Version, Folder: r.Folder, Title: r.Title, URL: r.URL, Author: room.Settings.OperatorName(r.AuthorID), UpdatedAt: r.UpdatedAt}
}

// SavePage keeps a page, or changes one. Leads do.
func (room *Room) SavePage(ctx context.Context, o access.Actor, in SavedPageView) (SavedPageView, error) {
	if !o.May(access.ShareResponses) {
		return in, access.ErrNotAllowed
	}
	row := SavedPage{
		ID: in.ID, Version: in.Version, Folder: chat.CleanLine(in.Folder, chat.NameLimit), Title: chat.CleanLine(in.Title, titleLimit), URL: strings.TrimSpace(in.URL),
		AuthorID: o.ID, CreatedAt: room.Now(), UpdatedAt: room.Now(),
	}
	var wrong []form.Wrong
	at, err := url.Parse(row.URL)
	if err != nil || at.Scheme != "http" && at.Scheme != "https" || at.Host == "" || at.User != nil || utf8.RuneCountInString(row.URL) > pageAddressMost {
		wrong = append(wrong, form.Wrong{Field: "url", Words: "Enter the whole address of a page, like https://www.example.com/fares."})
	} else if fits, err := room.onSites(ctx, row.URL); err != nil {
		return in, err
	} else if !fits {
		wrong = append(wrong, form.Wrong{Field: "url", Words: "This page is on none of your sites, so no visitor could be shown it. Sites are set under Setup, Widgets."})
	}
	if row.Title == "" {
		wrong = append(wrong, form.Wrong{Field: "title", Words: "Give the page a title."})
	}
	if err := form.Refuse(wrong); err != nil {
		return in, err
	}
	if row.ID == "" {
		row.ID, row.Version = uuid.NewString(), 0
		var all int64
		if err := room.Tables.DB.WithContext(ctx).Model(&SavedPage{}).Count(&all).Error; err != nil {
			return in, err
		}
		if all >= pagesMost {
			return in, form.Refuse([]form.Wrong{{Field: "url", Words: "There are 2,000 saved pages already. Delete some that nobody shows."}})
		}
	}
	err = store.SaveRow(room.Tables.DB.WithContext(ctx), &row, row.ID, row.Version, func(next int64) { row.Version = next }, "saved_pages_url")
	if errors.Is(err, store.ErrNameTaken) {
		return in, form.Refuse([]form.Wrong{{Field: "url", Words: "This page is saved already."}})
	}
	return room.pageView(row), err
}

func (room *Room) onSites(ctx context.Context, address string) (bool, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return false, err
	}
	for _, w := range s.Widgets {
		if w.Carries(address) {
			return true, nil
		}
	}
	return false, nil
}

// RemovePage forgets a saved page. Leads do.
func (room *Room) RemovePage(ctx context.Context, o access.Actor, id string) error {
	if !o.May(access.ShareResponses) {
		return access.ErrNotAllowed
	}
	if uuid.Validate(id) != nil {
		return store.ErrNotFound
	}
	gone := room.Tables.DB.WithContext(ctx).Delete(&SavedPage{}, "id = ?", id)
	if gone.Error == nil && gone.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return gone.Error
}

// PageTitle returns what a page of a site is called: as the team saved it, or as it says itself.
// Nothing, if neither is known soon.
func (room *Room) PageTitle(ctx context.Context, address string) string {
	var saved SavedPage
	if err := room.Tables.DB.WithContext(ctx).Where("url = ?", address).Take(&saved).Error; err == nil {
		return saved.Title
	}
	ctx, cancel := context.WithTimeout(ctx, titlePatience)
	defer cancel()
	page, err := room.Fetch.Get(ctx, address)
	if err != nil {
		return "" // its address says enough
	}
	return titleOf(page.Body)
}

// titleOf returns the title of an HTML page.
func titleOf(page []byte) string {
	z := html.NewTokenizer(strings.NewReader(string(page)))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return ""
		case html.StartTagToken:
			if name, _ := z.TagName(); atom.Lookup(name) == atom.Title && z.Next() == html.TextToken {
				return chat.CleanLine(html.UnescapeString(string(z.Text())), titleLimit)
			}
		}
	}
}
