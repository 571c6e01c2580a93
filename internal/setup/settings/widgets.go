package settings

import (
	"context"
	"errors"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/core/widget"
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

// Widgets returns all widgets that are not removed.
func (s Tables) Widgets(ctx context.Context) ([]Widget, error) {
	var rows []widgetRow
	err := s.DB.WithContext(ctx).Where("removed_at is null").Order("created_at, id").Find(&rows).Error
	return widgetsOf(rows), err
}

// AllWidgets returns the removed ones too: old chats name them.
func (s Tables) AllWidgets(ctx context.Context) ([]Widget, error) {
	var rows []widgetRow
	err := s.DB.WithContext(ctx).Order("created_at, id").Find(&rows).Error
	return widgetsOf(rows), err
}

// WidgetByKey returns the widget with a public key.
func (s Tables) WidgetByKey(ctx context.Context, key string) (Widget, error) {
	var row widgetRow
	err := s.DB.WithContext(ctx).Where("key = ? and removed_at is null", key).Take(&row).Error
	return row.widget(), store.NotFound(err)
}

// SaveWidget stores a widget under its key, making it if it is not there.
func (s Tables) SaveWidget(ctx context.Context, w Widget) error {
	if w.Form == nil {
		w.Form = widget.New("", nil).Form
	}
	w.Tidy()
	row := w.row()
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}}, UpdateAll: true}).Create(&row).Error
	})
}

// ChangeWidget replaces a widget that has still the version which was read.
func (s Tables) ChangeWidget(ctx context.Context, w Widget) (Widget, error) {
	err := s.ChangeSettings(ctx, func(tx *gorm.DB) error { return changeWidget(tx, &w) })
	return w, err
}

func changeWidget(tx *gorm.DB, w *Widget) error {
	row := w.row()
	err := store.SaveRow(tx, &row, w.ID, w.Version, func(next int64) { row.Version = next }, "widgets_key_key")
	w.Version = row.Version
	return err
}

// SeenFirst notes that the first real page carries a widget.
func (s Tables) SeenFirst(ctx context.Context, id string, at time.Time) error {
	done := s.DB.WithContext(ctx).Exec("update widgets set first_seen = ? where id = ? and first_seen is null", at, id)
	if done.Error != nil || done.RowsAffected == 0 {
		return done.Error
	}
	return s.Notify(ctx, store.SettingsChanged)
}
