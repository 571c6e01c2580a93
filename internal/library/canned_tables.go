package library

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/canned"
	"stoop/internal/store"
)

// CannedResponse is a stored answer.
type CannedResponse struct {
	ID        string
	Scope     canned.Scope
	OwnerID   *string
	Shortcut  string
	Text      string
	Folder    string
	Language  string
	FileIDs   []string `gorm:"column:file_ids;serializer:json"`
	Version   int64
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Core returns the response as its rules see it.
func (r CannedResponse) Core() canned.Response {
	c := canned.Response{ID: r.ID, Shortcut: r.Shortcut, Text: r.Text, Folder: r.Folder, Language: r.Language, Scope: r.Scope}
	if r.OwnerID != nil {
		c.Owner = *r.OwnerID
	}
	return c
}

// CannedUse is how often an operator used a response.
type CannedUse struct {
	ResponseID string
	OperatorID string
	Uses       int64
	UsedAt     time.Time
}

// CannedResponses returns all responses, by shortcut.
func (s Tables) CannedResponses(ctx context.Context) ([]CannedResponse, error) {
	var list []CannedResponse
	err := s.DB.WithContext(ctx).Order("lower(shortcut), id").Find(&list).Error
	return list, err
}

// CannedUses returns all uses of responses.
func (s Tables) CannedUses(ctx context.Context) ([]CannedUse, error) {
	var list []CannedUse
	err := s.DB.WithContext(ctx).Find(&list).Error
	return list, err
}

// UseCanned counts one more use of a response.
func (s Tables) UseCanned(ctx context.Context, responseID, operatorID string, at time.Time) error {
	if uuid.Validate(responseID) != nil {
		return nil // what is not there is not used
	}
	return s.DB.WithContext(ctx).Exec(`insert into canned_uses (response_id, operator_id, uses, used_at)
		select id, ?, 1, ? from canned_responses where id = ?
		on conflict (response_id, operator_id) do update set uses = canned_uses.uses + 1, used_at = excluded.used_at`, operatorID, at, responseID).Error
}

// SaveCanned stores responses, all or none: new ones with version 0, others if
// they still have the version that was read (else ErrChanged). A shortcut that
// the same people have already is ErrNameTaken.
func (s Tables) SaveCanned(ctx context.Context, responses ...CannedResponse) error {
	return s.Changed(ctx, CannedNotice, func(tx *gorm.DB) error {
		for i := range responses {
			r := &responses[i]
			if r.FileIDs == nil {
				r.FileIDs = []string{}
			}
			if err := store.SaveRow(tx, r, r.ID, r.Version, func(next int64) { r.Version = next }, "canned_shortcut"); err != nil {
				return err
			}
		}
		return nil
	})
}

// RemoveCanned deletes a response.
func (s Tables) RemoveCanned(ctx context.Context, id string) error {
	return s.Changed(ctx, CannedNotice, func(tx *gorm.DB) error { return tx.Delete(&CannedResponse{}, "id = ?", id).Error })
}
