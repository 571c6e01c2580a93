package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/routing"
)

// ErrChanged: somebody else changed the same settings meanwhile.
var ErrChanged = errors.New("somebody else changed this meanwhile")

// ErrNameTaken: another one has this name already.
var ErrNameTaken = errors.New("this name is taken")

// Hours are a named schedule.
type Hours struct {
	ID         string
	Name       string
	Zone       string
	Weekly     []hours.Period    `gorm:"serializer:json"`
	Exceptions []hours.Exception `gorm:"serializer:json"`
	Version    int64
	CreatedAt  time.Time
}

// TableName is the table's; GORM would make a plural.
func (Hours) TableName() string { return "hours" }

// Schedule returns the hours as core reads them.
func (h Hours) Schedule() hours.Schedule {
	return hours.Schedule{Zone: h.Zone, Weekly: h.Weekly, Exceptions: h.Exceptions}
}

// Department is a team with its members, hours, answer target and queue.
type Department struct {
	ID             string
	Name           string
	HoursID        *string
	HandOut        routing.HandOut
	Choice         routing.Choice
	LastFirst      bool
	LanguagesFirst bool
	Capacity       int
	TargetSeconds  int
	OfferSeconds   int
	PassLimit      int
	HandOnSeconds  int
	WrapUpSeconds  int
	OverflowTo     []string `gorm:"serializer:json"`
	OverflowAfter  int
	OverflowLength int
	OverflowClosed bool
	IsDefault      bool
	WrapUpRequired bool // an outcome, before a chat is put away
	SilentRemind   int  // seconds of a visitor's silence until they are reminded; 0: never
	SilentEnd      int  `gorm:"default:120"` // seconds from then until the chat ends
	Version        int64
	CreatedAt      time.Time
	RemovedAt      *time.Time

	Members []Member `gorm:"-"`
}

// Member is an operator's place in a department.
type Member struct {
	DepartmentID string
	OperatorID   string
	Backup       bool
	Turn         int64
}

// Rule is a stored routing rule.
type Rule struct {
	ID           string
	Position     int
	Name         string
	IsOn         bool
	Match        routing.Match
	Conditions   []routing.Condition `gorm:"serializer:json"`
	DepartmentID string
	OperatorID   string
	AccountOwner bool
	Priority     int
}

// DefaultForm is what a new widget asks before a chat.
var DefaultForm = form.Form{
	{Name: form.NameField, Kind: form.Text, Label: "Your name"},
	{Name: form.EmailField, Kind: form.Email, Label: "Email"},
}

// AllHours returns all schedules, by name.
func (s *Store) AllHours(ctx context.Context) ([]Hours, error) {
	var list []Hours
	err := s.DB.WithContext(ctx).Order("lower(name)").Find(&list).Error
	return list, err
}

// SaveHours stores a schedule. A version of 0 makes it; otherwise it must be
// the stored one, or the error is ErrChanged.
func (s *Store) SaveHours(ctx context.Context, h Hours) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		return save(tx, &h, h.ID, h.Version, func(next int64) { h.Version = next }, "hours_name")
	})
}

// RemoveHours deletes a schedule that nothing uses.
func (s *Store) RemoveHours(ctx context.Context, id string) error {
	return s.settings(ctx, func(tx *gorm.DB) error { return tx.Delete(&Hours{}, "id = ?", id).Error })
}

// Departments returns the departments that are not removed, with their
// members, by name.
func (s *Store) Departments(ctx context.Context) ([]Department, error) {
	return s.departments(ctx, "removed_at is null")
}

// AllDepartments returns the removed ones too.
func (s *Store) AllDepartments(ctx context.Context) ([]Department, error) {
	return s.departments(ctx, "true")
}

func (s *Store) departments(ctx context.Context, which string) ([]Department, error) {
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
func (s *Store) SaveDepartment(ctx context.Context, d Department) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		if d.IsDefault {
			if err := tx.Exec("update departments set is_default = false where is_default and id <> ?", d.ID).Error; err != nil {
				return err
			}
		}
		if err := save(tx, &d, d.ID, d.Version, func(next int64) { d.Version = next }, "departments_name"); err != nil {
			return err
		}
		return saveMembers(tx, d.ID, d.Members)
	})
}

// saveMembers replaces a department's members; those who stay keep their turn.
func saveMembers(tx *gorm.DB, departmentID string, members []Member) error {
	ids := []string{"00000000-0000-0000-0000-000000000000"}
	for _, m := range members {
		ids = append(ids, m.OperatorID)
	}
	if err := tx.Exec("delete from members where department_id = ? and operator_id not in ?", departmentID, ids).Error; err != nil {
		return err
	}
	for _, m := range members {
		err := tx.Exec(`insert into members (department_id, operator_id, backup, turn) values (?, ?, ?, 0)
			on conflict (department_id, operator_id) do update set backup = excluded.backup`, departmentID, m.OperatorID, m.Backup).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// RemoveDepartment takes a department out of use; transcripts still name it.
func (s *Store) RemoveDepartment(ctx context.Context, id string, at time.Time) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from members where department_id = ?", id).Error; err != nil {
			return err
		}
		return tx.Model(&Department{}).Where("id = ?", id).Update("removed_at", at).Error
	})
}

// OpenChatsOf counts the chats of a department that are not over.
func (s *Store) OpenChatsOf(ctx context.Context, departmentID string) (int64, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&Chat{}).Where("phase <> 'ended' and (department_id = ? or seeking_id = ?)", departmentID, departmentID).Count(&n).Error
	return n, err
}

// Rules returns the routing rules in their order, with the version of the list.
func (s *Store) Rules(ctx context.Context) ([]Rule, string, error) {
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
func (s *Store) SaveRules(ctx context.Context, rules []Rule, version string) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		moved := tx.Exec("update settings set value = (value::bigint + 1)::text where key = ? and value = ?", rulesVersion, version)
		if moved.Error != nil {
			return moved.Error
		}
		if moved.RowsAffected == 0 {
			return ErrChanged
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

// SaveOperator stores a member of the team, like SaveHours, with the departments they belong
// to, as primary (false) or backup (true). Those left out they leave.
func (s *Store) SaveOperator(ctx context.Context, o Operator, departments map[string]bool) error {
	if o.Preferences == nil {
		o.Preferences = map[string]any{} // of somebody new; those of others stay
	}
	return s.settings(ctx, func(tx *gorm.DB) error {
		version := o.Version
		o.Version++
		var err error
		if version == 0 {
			err = tx.Create(&o).Error
		} else {
			changed := tx.Model(&o).Where("id = ? and version = ?", o.ID, version).
				Select("email", "name", "role", "capacity", "capacity_percent", "languages", "active", "password_hash", "version").Updates(&o)
			if err = changed.Error; err == nil && changed.RowsAffected == 0 {
				return ErrChanged
			}
		}
		if isUnique(err, "operators_email") {
			return ErrNameTaken
		}
		if err != nil {
			return err
		}
		stays := []string{"00000000-0000-0000-0000-000000000000"}
		for id := range departments {
			stays = append(stays, id)
		}
		if err := tx.Exec("delete from members where operator_id = ? and department_id not in ?", o.ID, stays).Error; err != nil {
			return err
		}
		for id, backup := range departments {
			err := tx.Exec(`insert into members (department_id, operator_id, backup) values (?, ?, ?)
				on conflict (department_id, operator_id) do update set backup = excluded.backup`, id, o.ID, backup).Error
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// JoinDefault makes an operator a member of the default department.
func (s *Store) JoinDefault(ctx context.Context, operatorID string) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		return tx.Exec("insert into members (department_id, operator_id) select id, ? from departments where is_default on conflict do nothing", operatorID).Error
	})
}

// settings changes settings in one transaction and tells all servers when it
// is committed.
func (s *Store) settings(ctx context.Context, change func(*gorm.DB) error) error {
	return s.changed(ctx, SettingsChanged, change)
}

// changed does a change in one transaction that tells all servers.
func (s *Store) changed(ctx context.Context, notice string, change func(*gorm.DB) error) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := change(tx); err != nil {
			return err
		}
		return tx.Exec("select pg_notify(?, ?)", channel, s.signed(notice)).Error
	})
}

// SaveSetting replaces a value of the installation, if it is still the one that
// was read.
func (s *Store) SaveSetting(ctx context.Context, key, before, after string) error {
	return s.settings(ctx, func(tx *gorm.DB) error {
		done := tx.Exec("update settings set value = ? where key = ? and value = ?", after, key, before)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrChanged
		}
		return done.Error
	})
}

// SetPreferences stores how an operator wants their console; what is not given
// stays.
func (s *Store) SetPreferences(ctx context.Context, operatorID, preferences string) error {
	return s.DB.WithContext(ctx).Exec("update operators set preferences = case jsonb_typeof(preferences) when 'object' then preferences else '{}' end || ?::jsonb where id = ?", preferences, operatorID).Error
}

// save makes a row (version 0) or replaces the one with this version.
func save(tx *gorm.DB, row any, id string, version int64, next func(int64), uniqueName string) error {
	next(version + 1)
	var err error
	if version == 0 {
		err = tx.Create(row).Error
	} else {
		changed := tx.Model(row).Where("id = ? and version = ?", id, version).Select("*").Omit("created_at").Updates(row)
		if err = changed.Error; err == nil && changed.RowsAffected == 0 {
			return ErrChanged
		}
	}
	if isUnique(err, uniqueName) {
		return ErrNameTaken
	}
	if err != nil {
		return fmt.Errorf("storing the settings: %w", err)
	}
	return nil
}

// ChangeWidget replaces a widget that has still the version which was read.
func (s *Store) ChangeWidget(ctx context.Context, w Widget) (Widget, error) {
	err := s.settings(ctx, func(tx *gorm.DB) error {
		return save(tx, &w, w.ID, w.Version, func(next int64) { w.Version = next }, "widgets_key_key")
	})
	return w, err
}
