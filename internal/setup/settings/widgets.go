package settings

import (
	"stoop/core/form"
	"stoop/core/visit"
	"stoop/core/widget"

	"context"
	"errors"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/internal/store"
)

// WidgetFor returns the widget with a key, if it may stand on a page of this
// origin. An empty origin is refused too.
func (cache *Cache) WidgetFor(ctx context.Context, key, origin string) (Widget, error) {
	w, err := cache.WidgetByKey(ctx, key)
	if err != nil {
		return w, err
	}
	if !slices.Contains(w.Sites, origin) {
		return w, ErrWrongSite
	}
	return w, nil
}

// WidgetByKey returns the widget with a key, wherever it stands: every open page
// asks for it twice a minute, so it is remembered.
func (cache *Cache) WidgetByKey(ctx context.Context, key string) (Widget, error) {
	s, err := cache.Get(ctx)
	if err != nil {
		return Widget{}, err
	}
	for _, w := range s.Widgets {
		if w.Key == key {
			return w, nil
		}
	}
	// Made a moment ago, perhaps, and not heard of here yet.
	w, err := cache.Tables.WidgetByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return w, ErrUnknownWidget
	}
	return w, err
}

// Widgets returns all widgets.
func (s Tables) Widgets(ctx context.Context) ([]Widget, error) {
	var list []Widget
	err := s.DB.WithContext(ctx).Order("created_at, id").Find(&list).Error
	return list, err
}

// WidgetByKey returns the widget with a public key.
func (s Tables) WidgetByKey(ctx context.Context, key string) (Widget, error) {
	var w Widget
	err := s.DB.WithContext(ctx).Where("key = ?", key).Take(&w).Error
	return w, store.NotFound(err)
}

// SaveWidget stores a widget under its key, making it if it is not there.
func (s Tables) SaveWidget(ctx context.Context, w Widget) error {
	if w.Departments == nil {
		w.Departments = []string{}
	}
	if w.Form == nil {
		w.Form = DefaultForm
	}
	if w.ShowOn == nil {
		w.ShowOn = []string{}
	}
	if w.HideOn == nil {
		w.HideOn = []string{}
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}}, UpdateAll: true}).Create(&w).Error
}

// ChangeWidget replaces a widget that has still the version which was read.
func (s Tables) ChangeWidget(ctx context.Context, w Widget) (Widget, error) {
	err := s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return store.SaveRow(tx, &w, w.ID, w.Version, func(next int64) { w.Version = next }, "widgets_key_key")
	})
	return w, err
}

// Shows reports whether the widget is shown on a page.
func (w Widget) Shows(page string) bool {
	return (len(w.ShowOn) == 0 || visit.MatchesAny(w.ShowOn, page)) && !visit.MatchesAny(w.HideOn, page)
}

// Check returns what is wrong with a widget.
func (w Widget) Check() []form.Wrong {
	wrong := widget.Widget{Name: w.Name, Title: w.Title, Colour: w.Colour, Sites: w.Sites, ReachBy: w.ReachBy, MessageLimit: w.MessageLimit, Form: w.Form}.Check()
	if words := visit.CheckPatterns(w.ShowOn); words != "" {
		wrong = append(wrong, form.Wrong{Field: "showOn", Words: words})
	}
	if words := visit.CheckPatterns(w.HideOn); words != "" {
		wrong = append(wrong, form.Wrong{Field: "hideOn", Words: words})
	}
	return wrong
}
