package settings

import (
	"context"

	"gorm.io/gorm"

	"stoop/internal/store"
)

// AllHours returns all schedules, by name.
func (s Tables) AllHours(ctx context.Context) ([]Hours, error) {
	var list []Hours
	err := s.DB.WithContext(ctx).Order("lower(name)").Find(&list).Error
	return list, err
}

// SaveHours stores a schedule. A version of 0 makes it; otherwise it must be
// the stored one, or the error is ErrChanged.
func (s Tables) SaveHours(ctx context.Context, h Hours) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return store.SaveRow(tx, &h, h.ID, h.Version, func(next int64) { h.Version = next }, "hours_name")
	})
}

// RemoveHours deletes a schedule that nothing uses.
func (s Tables) RemoveHours(ctx context.Context, id string) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error { return tx.Delete(&Hours{}, "id = ?", id).Error })
}
