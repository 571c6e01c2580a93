package settings

import (
	"context"
	"errors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"stoop/internal/store"
)

// OperatorByEmail returns the operator with an email address, in any case.
func (s Tables) OperatorByEmail(ctx context.Context, email string) (Operator, error) {
	var o Operator
	err := s.DB.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&o).Error
	return o, store.NotFound(err)
}

// Operators returns the whole team, by name.
func (s Tables) Operators(ctx context.Context) ([]Operator, error) {
	var list []Operator
	err := s.DB.WithContext(ctx).Order("name, id").Find(&list).Error
	return list, err
}

// SetPassword replaces an operator's password hash.
func (s Tables) SetPassword(ctx context.Context, operatorID, hash string) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Operator{}).Where("id = ?", operatorID).Update("password_hash", hash).Error
	})
}

// OperatorByID returns one operator.
func (s Tables) OperatorByID(ctx context.Context, id string) (Operator, error) {
	return s.operator(ctx, id, "where id = $1", id)
}

// OperatorIn returns one operator who is logged in, in a session that was not ended. Every
// request asks for who makes it.
func (s Tables) OperatorIn(ctx context.Context, id, session string) (Operator, error) {
	return s.operator(ctx, id, "where id = $1 and exists (select from operator_sessions s where s.token = $2 and s.operator_id = operators.id)", id, session)
}

func (s Tables) operator(ctx context.Context, id, which string, values ...any) (o Operator, err error) {
	if uuid.Validate(id) != nil {
		return o, store.ErrNotFound
	}
	err = s.Pool().QueryRow(ctx, `select id::text, email, name, role, password_hash, created_at, capacity, capacity_percent, languages, active, preferences, version, shown_name, welcome, photo_version, totp_secret
		from operators `+which, values...).
		Scan(&o.ID, &o.Email, &o.Name, &o.Role, &o.PasswordHash, &o.CreatedAt, &o.Capacity, &o.CapacityPercent, &o.Languages, &o.Active, &o.Preferences, &o.Version, &o.ShownName, &o.Welcome, &o.PhotoVersion, &o.TOTPSecret)
	if errors.Is(err, pgx.ErrNoRows) {
		err = store.ErrNotFound
	}
	return o, err
}

// AddOperator stores a new member of the team, who may log in.
func (s Tables) AddOperator(ctx context.Context, o Operator) error {
	o.Active = true
	if o.Preferences == nil {
		o.Preferences = map[string]any{}
	}
	if o.Languages == nil {
		o.Languages = []string{}
	}
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error { return tx.Create(&o).Error })
}

// SaveOperator stores a member of the team, like SaveHours, with the departments they belong
// to, as primary (false) or backup (true). Those left out they leave.
func (s Tables) SaveOperator(ctx context.Context, o Operator, departments map[string]bool) error {
	if o.Preferences == nil {
		o.Preferences = map[string]any{} // of somebody new; those of others stay
	}
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		version := o.Version
		o.Version++
		var err error
		if version == 0 {
			err = tx.Create(&o).Error
		} else {
			changed := tx.Model(&o).Where("id = ? and version = ?", o.ID, version).
				Select("email", "name", "role", "capacity", "capacity_percent", "languages", "active", "password_hash", "version", "shown_name", "welcome").Updates(&o)
			if err = changed.Error; err == nil && changed.RowsAffected == 0 {
				return store.ErrChanged
			}
		}
		if store.IsUnique(err, "operators_email") {
			return store.ErrNameTaken
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
func (s Tables) JoinDefault(ctx context.Context, operatorID string) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return tx.Exec("insert into members (department_id, operator_id) select id, ? from departments where is_default on conflict do nothing", operatorID).Error
	})
}

// SetPreferences stores how an operator wants their console; what is not given
// stays.
func (s Tables) SetPreferences(ctx context.Context, operatorID, preferences string) error {
	return s.DB.WithContext(ctx).Exec("update operators set preferences = case jsonb_typeof(preferences) when 'object' then preferences else '{}' end || ?::jsonb where id = ?", preferences, operatorID).Error
}
