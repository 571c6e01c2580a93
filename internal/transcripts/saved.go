package transcripts

import (
	"context"
	"net/url"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// SavedSearch is a search that somebody keeps.
type SavedSearch struct {
	ID         string    `json:"id"`
	OperatorID string    `json:"-"`
	Name       string    `json:"name"`
	Address    string    `json:"address" doc:"As it stands behind the ? of the page"`
	Place      string    `json:"-"` // what is searched
	Shared     bool      `json:"shared" doc:"All of the team may use it"`
	Mine       bool      `json:"mine" gorm:"-"`
	CreatedAt  time.Time `json:"-"`
}

// savedMost bounds how many searches somebody keeps.
const savedMost = 100

// Saved returns the searches that somebody may use: their own, and those that are shared.
func (room *Room) Saved(ctx context.Context, o access.Actor, place string) ([]SavedSearch, error) {
	list := []SavedSearch{}
	err := room.Tables.DB.WithContext(ctx).Where("(operator_id = ? or shared) and place = ?", o.ID, place).Order("lower(name), id").Limit(1000).Find(&list).Error
	for i := range list {
		list[i].Mine = list[i].OperatorID == o.ID
	}
	return list, err
}

// Save keeps a search.
func (room *Room) Save(ctx context.Context, o access.Actor, place, name, address string, shared bool) (SavedSearch, error) {
	s := SavedSearch{ID: uuid.NewString(), OperatorID: o.ID, Place: place, Name: chat.CleanLine(name, 80), Address: address, Shared: shared, Mine: true, CreatedAt: room.Now()}
	var wrong []form.Wrong
	if s.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Give the search a name."})
	}
	if _, err := url.ParseQuery(address); err != nil {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "This search cannot be kept."})
	}
	var n int64
	if err := room.Tables.DB.WithContext(ctx).Model(&SavedSearch{}).Where("operator_id = ?", o.ID).Count(&n).Error; err != nil {
		return s, err
	}
	if n >= savedMost {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "You keep 100 searches already. Remove one first."})
	}
	if err := form.Refuse(wrong); err != nil {
		return s, err
	}
	return s, room.Tables.DB.WithContext(ctx).Create(&s).Error
}

// Unsave removes a search of one's own; who leads removes shared ones too.
func (room *Room) Unsave(ctx context.Context, o access.Actor, id string) error {
	q := room.Tables.DB.WithContext(ctx).Where("id = ? and (operator_id = ? or shared and ?)", id, o.ID, o.Leads()).Delete(&SavedSearch{})
	if q.Error == nil && q.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return q.Error
}
