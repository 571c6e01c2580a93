package settings

import (
	"context"

	"gorm.io/gorm"

	"stoop/internal/store"
)

// Rules returns the routing rules in their order, with the version of the list.
func (s Tables) Rules(ctx context.Context) ([]Rule, string, error) {
	version, err := s.Setting(ctx, rulesVersion, "1")
	if err != nil {
		return nil, "", err
	}
	var list []Rule
	err = s.DB.WithContext(ctx).Order("position").Find(&list).Error
	return list, version, err
}

const rulesVersion = "rules_version"

// SaveRules replaces the whole list, if it is still the version that was read.
func (s Tables) SaveRules(ctx context.Context, rules []Rule, version string) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		moved := tx.Exec("update settings set value = (value::bigint + 1)::text where key = ? and value = ?", rulesVersion, version)
		if moved.Error != nil {
			return moved.Error
		}
		if moved.RowsAffected == 0 {
			return store.ErrChanged
		}
		if err := tx.Exec("delete from rules").Error; err != nil {
			return err
		}
		for i := range rules {
			rules[i].Position = i
		}
		if len(rules) == 0 {
			return nil
		}
		return tx.Create(&rules).Error
	})
}
