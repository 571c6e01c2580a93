package settings

import (
	"context"

	"gorm.io/gorm"
)

// PendingFactor returns the sealed secret of a second factor that waits for its first
// code; nothing when none does.
func (s Tables) PendingFactor(ctx context.Context, operatorID string) (sealed []byte, err error) {
	err = s.Pool().QueryRow(ctx, "select totp_pending from operators where id = $1", operatorID).Scan(&sealed)
	return sealed, err
}

// SetPendingFactor keeps the sealed secret of a second factor until its first code.
func (s Tables) SetPendingFactor(ctx context.Context, operatorID string, sealed []byte) error {
	_, err := s.Pool().Exec(ctx, "update operators set totp_pending = $2 where id = $1", operatorID, sealed)
	return err
}

// UseFactorStep takes note that the code of a time step was used; false when it was
// before, on whichever server.
func (s Tables) UseFactorStep(ctx context.Context, operatorID string, step int64) (fresh bool, err error) {
	used, err := s.Pool().Exec(ctx, "update operators set totp_step = $2 where id = $1 and totp_step < $2", operatorID, step)
	return err == nil && used.RowsAffected() > 0, err
}

// ConfirmFactor lets a pending second factor count, whose first code was that of a step;
// false when it is not the one that waits any more.
func ConfirmFactor(tx *gorm.DB, operatorID string, pending []byte, step int64) (bool, error) {
	done := tx.Exec("update operators set totp_secret = totp_pending, totp_pending = null, totp_step = ? where id = ? and totp_pending = ?", step, operatorID, pending)
	return done.Error == nil && done.RowsAffected > 0, done.Error
}

// DropFactor takes the second factor away.
func DropFactor(tx *gorm.DB, operatorID string) error {
	return tx.Exec("update operators set totp_secret = null, totp_pending = null where id = ?", operatorID).Error
}

// Join gives somebody who was invited their name and password; false when they joined
// before, or may not any more.
func Join(tx *gorm.DB, operatorID, name, hash string) (joined bool, err error) {
	done := tx.Exec("update operators set name = ?, password_hash = ?, version = version + 1 where id = ? and password_hash = '' and active", name, hash, operatorID)
	return done.Error == nil && done.RowsAffected > 0, done.Error
}

// SetOwnWords stores what visitors read of somebody.
func SetOwnWords(tx *gorm.DB, operatorID, shown, welcome string) error {
	return tx.Exec("update operators set shown_name = ?, welcome = ?, version = version + 1 where id = ?", shown, welcome, operatorID).Error
}

// NextPhoto gives somebody's photo a number that it never had, above a least one: browsers
// keep photos for long. NoPhoto says that they have none.
func NextPhoto(tx *gorm.DB, operatorID string, least int64) error {
	return tx.Exec("update operators set photo_version = greatest(photo_version, ?::bigint) + 1 where id = ?", least, operatorID).Error
}

// NoPhoto says that somebody has no photo.
func NoPhoto(tx *gorm.DB, operatorID string) error {
	return tx.Exec("update operators set photo_version = 0 where id = ?", operatorID).Error
}

// AddFirst makes the first member of the team, in the default department; false when
// there is somebody already.
func AddFirst(tx *gorm.DB, o Operator) (first bool, err error) {
	var team int64
	if err := tx.Model(&Operator{}).Count(&team).Error; err != nil || team > 0 {
		return false, err
	}
	if err := tx.Create(&o).Error; err != nil {
		return false, err
	}
	return true, tx.Exec("insert into members (department_id, operator_id) select id, ? from departments where is_default on conflict do nothing", o.ID).Error
}
