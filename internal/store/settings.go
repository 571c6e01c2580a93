package store

import (
	"context"

	"gorm.io/gorm"
)

// Setting is a value of the installation itself.
type Setting struct {
	Key   string `gorm:"primaryKey"`
	Value string
}

// ReplaceSetting replaces a value of the installation in a transaction, if it is still
// the one that was read; else the error is ErrChanged.
func (s *Store) ReplaceSetting(tx *gorm.DB, key, before, after string) error {
	done := tx.Exec("update settings set value = ? where key = ? and value = ?", after, key, before)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrChanged
	}
	return done.Error
}

// Setting returns the value kept under a key, storing fallback if there is
// none yet. When two servers ask at once, both get the same value.
func (s *Store) Setting(ctx context.Context, key, fallback string) (string, error) {
	var value string
	err := s.DB.WithContext(ctx).Raw(`
		with fresh as (insert into settings (key, value) values (?, ?) on conflict (key) do nothing returning value)
		select value from fresh union all select value from settings where key = ? limit 1`,
		key, fallback, key).Scan(&value).Error
	if err == nil && value == "" {
		// The other server's insert was not visible to this statement yet.
		err = s.DB.WithContext(ctx).Raw("select value from settings where key = ?", key).Scan(&value).Error
	}
	return value, err
}
