package settings

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/core/widget"
	"stoop/internal/store"
)

// WidgetDraft is what the admins are working on of a widget.
type WidgetDraft struct {
	WidgetID string        `gorm:"primaryKey"`
	Design   widget.Design `gorm:"serializer:json"`
	Version  int64         // of the draft
	Over     int64         // version of the widget that it was begun on
	ByID     *string
	At       time.Time
}

// WidgetVersion is a design that was published.
type WidgetVersion struct {
	WidgetID string        `gorm:"primaryKey"`
	Version  int64         `gorm:"primaryKey"`
	Design   widget.Design `gorm:"serializer:json"`
	ByID     *string
	At       time.Time
	Restores *int64 // the earlier version that it brought back
}

// WidgetDrafts returns the drafts of all widgets, by the ids of the widgets.
func (s Tables) WidgetDrafts(ctx context.Context) (map[string]WidgetDraft, error) {
	var list []WidgetDraft
	if err := s.DB.WithContext(ctx).Find(&list).Error; err != nil {
		return nil, err
	}
	drafts := map[string]WidgetDraft{}
	for _, d := range list {
		d.Design.Tidy()
		drafts[d.WidgetID] = d
	}
	return drafts, nil
}

// SaveWidgetDraft replaces a draft that has still the version which was read; 0 begins
// one. When a colleague was faster, the error is store.ErrChanged.
func (s Tables) SaveWidgetDraft(ctx context.Context, d WidgetDraft) (WidgetDraft, error) {
	read := d.Version
	d.Version++
	db := s.DB.WithContext(ctx)
	var done *gorm.DB
	if read == 0 {
		done = db.Clauses(clause.OnConflict{DoNothing: true}).Create(&d)
	} else {
		done = db.Model(&WidgetDraft{}).Where("widget_id = ? and version = ?", d.WidgetID, read).Select("*").Updates(&d)
	}
	if done.Error == nil && done.RowsAffected == 0 {
		return d, store.ErrChanged
	}
	return d, done.Error
}

// DropWidgetDraft forgets a draft that has still the version which was read.
func (s Tables) DropWidgetDraft(ctx context.Context, widgetID string, version int64) error {
	done := s.DB.WithContext(ctx).Where("widget_id = ? and version = ?", widgetID, version).Delete(&WidgetDraft{})
	if done.Error == nil && done.RowsAffected == 0 {
		return store.ErrChanged
	}
	return done.Error
}

// Publication is a design on its way to the pages.
type Publication struct {
	Widget   Widget // with the version that was read, and the new design
	Draft    int64  // version of the draft that this was; 0 for none
	ByID     *string
	At       time.Time
	Restores *int64
}

// Publish replaces a widget's design, keeps the new one in its history and forgets the
// draft that it was. The first time the design before is kept too: there may have been
// none that was published.
func (s Tables) Publish(ctx context.Context, p Publication) (Widget, error) {
	err := s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		var row widgetRow
		if err := tx.Where("id = ?", p.Widget.ID).Take(&row).Error; err != nil {
			return store.NotFound(err)
		}
		before := row.widget()
		if !before.Off {
			kept := WidgetVersion{WidgetID: before.ID, Version: before.Version, Design: before.Design, At: before.CreatedAt}
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&kept).Error; err != nil {
				return err
			}
		}
		if err := changeWidget(tx, &p.Widget); err != nil {
			return err
		}
		kept := WidgetVersion{WidgetID: p.Widget.ID, Version: p.Widget.Version, Design: p.Widget.Design, ByID: p.ByID, At: p.At, Restores: p.Restores}
		if err := tx.Create(&kept).Error; err != nil {
			return err
		}
		if p.Draft == 0 {
			return nil
		}
		gone := tx.Where("widget_id = ? and version = ?", p.Widget.ID, p.Draft).Delete(&WidgetDraft{})
		if gone.Error == nil && gone.RowsAffected == 0 {
			return store.ErrChanged // a colleague goes on with it
		}
		return gone.Error
	})
	return p.Widget, err
}

// historyMost bounds how much of a widget's history is shown.
const historyMost = 200

// WidgetHistory returns the designs of a widget that were published, the newest first.
func (s Tables) WidgetHistory(ctx context.Context, widgetID string) ([]WidgetVersion, error) {
	var list []WidgetVersion
	err := s.DB.WithContext(ctx).Where("widget_id = ?", widgetID).Order("version desc").Limit(historyMost).Find(&list).Error
	for i := range list {
		list[i].Design.Tidy()
	}
	return list, err
}
