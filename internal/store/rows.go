package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
)

// IDs returns the one column of text that a query selects.
func (s *Store) IDs(ctx context.Context, query string, args ...any) ([]string, error) {
	rows, err := s.pool.Query(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// IsAnswer reports whether an error is the database's own answer, in contrast
// to a lost connection.
func IsAnswer(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg)
}

// ErrChanged: somebody else changed the same settings meanwhile.
var ErrChanged = errors.New("somebody else changed this meanwhile")

// ErrNameTaken: another one has this name already.
var ErrNameTaken = errors.New("this name is taken")

// ChangeSettings changes settings in one transaction and tells all servers when it
// is committed.
func (s *Store) ChangeSettings(ctx context.Context, change func(*gorm.DB) error) error {
	return s.Changed(ctx, SettingsChanged, change)
}

// Changed does a change in one transaction that tells all servers.
func (s *Store) Changed(ctx context.Context, notice string, change func(*gorm.DB) error) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := change(tx); err != nil {
			return err
		}
		return tx.Exec("select pg_notify(?, ?)", channel, s.signed(notice)).Error
	})
}

// SaveRow makes a row (version 0) or replaces the one with this version.
func SaveRow(tx *gorm.DB, row any, id string, version int64, next func(int64), uniqueName string) error {
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
	if IsUnique(err, uniqueName) {
		return ErrNameTaken
	}
	if err != nil {
		return fmt.Errorf("storing the settings: %w", err)
	}
	return nil
}

// ErrNotFound: no such row, or none that the asker may see.
var ErrNotFound = errors.New("not found")

// IsCode reports whether an error is the database's answer with this SQLSTATE.
func IsCode(err error, code string) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == code
}

// IsUnique reports whether an error is a violation of the named unique index.
func IsUnique(err error, name string) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "23505" && pg.ConstraintName == name
}

// IsUnreadable reports whether PostgreSQL could not read a value as what it is to be: an id that is
// none, bytes that no text holds. What was asked is wrong then, and stays so when asked again.
func IsUnreadable(err error) bool {
	return IsCode(err, "22P02") || IsCode(err, "22021") || IsCode(err, "22P05")
}

// NotFound turns GORM's word for no such row into ErrNotFound.
func NotFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// IgnoreNoRows takes it for no error when the driver found no such row.
func IgnoreNoRows(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	return err
}

// NoRows turns the driver's word for no such row into ErrNotFound.
func NoRows(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// IgnoreMissing takes it for no error when there is no such row.
func IgnoreMissing(err error) error {
	if errors.Is(err, ErrNotFound) {
		return nil
	}
	return err
}
