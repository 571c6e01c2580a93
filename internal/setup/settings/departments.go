package settings

import (
	"context"
	"time"

	"gorm.io/gorm"

	"stoop/internal/store"
)

// Departments returns the departments that are not removed, with their
// members, by name.
func (s Tables) Departments(ctx context.Context) ([]Department, error) {
	return s.departments(ctx, "removed_at is null")
}

// AllDepartments returns the removed ones too.
func (s Tables) AllDepartments(ctx context.Context) ([]Department, error) {
	return s.departments(ctx, "true")
}

func (s Tables) departments(ctx context.Context, which string) ([]Department, error) {
	var list []Department
	if err := s.DB.WithContext(ctx).Where(which).Order("lower(name)").Find(&list).Error; err != nil {
		return nil, err
	}
	var members []Member
	if err := s.DB.WithContext(ctx).Order("backup, operator_id").Find(&members).Error; err != nil {
		return nil, err
	}
	at := map[string]*Department{}
	for i := range list {
		at[list[i].ID] = &list[i]
	}
	for _, m := range members {
		if d := at[m.DepartmentID]; d != nil {
			d.Members = append(d.Members, m)
		}
	}
	return list, nil
}

// SaveDepartment stores a department with its members, like SaveHours. When it
// becomes the default one, the one before is not any more.
func (s Tables) SaveDepartment(ctx context.Context, d Department) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		if d.IsDefault {
			if err := tx.Exec("update departments set is_default = false where is_default and id <> ?", d.ID).Error; err != nil {
				return err
			}
		}
		if err := store.SaveRow(tx, &d, d.ID, d.Version, func(next int64) { d.Version = next }, "departments_name"); err != nil {
			return err
		}
		return saveMembers(tx, d.ID, d.Members)
	})
}

// saveMembers replaces a department's members.
func saveMembers(tx *gorm.DB, departmentID string, members []Member) error {
	ids := []string{"00000000-0000-0000-0000-000000000000"}
	for _, m := range members {
		ids = append(ids, m.OperatorID)
	}
	if err := tx.Exec("delete from members where department_id = ? and operator_id not in ?", departmentID, ids).Error; err != nil {
		return err
	}
	for _, m := range members {
		err := tx.Exec(`insert into members (department_id, operator_id, backup) values (?, ?, ?)
			on conflict (department_id, operator_id) do update set backup = excluded.backup`, departmentID, m.OperatorID, m.Backup).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// RemoveDepartment takes a department out of use; transcripts still name it.
func (s Tables) RemoveDepartment(ctx context.Context, id string, at time.Time) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from members where department_id = ?", id).Error; err != nil {
			return err
		}
		return tx.Model(&Department{}).Where("id = ?", id).Update("removed_at", at).Error
	})
}
