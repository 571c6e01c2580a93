package register

import (
	"context"
	"strings"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/contact"
	"stoop/internal/store"
)

// atOnce is how many rows one statement takes in hand.
const atOnce = 1000

// Like returns the contacts that people of a file may be: of the same id or email,
// or without an email and with the same name and phone number.
func (s Tables) Like(ctx context.Context, people []contact.Person) ([]Contact, error) {
	var found []Contact
	seen := map[string]bool{}
	for len(people) > 0 {
		part := people[:min(len(people), atOnce)]
		people = people[len(part):]
		ids, emails, bare := []string{}, []string{}, [][]any{}
		for _, p := range part {
			if uuid.Validate(p.ID) == nil {
				ids = append(ids, p.ID)
			}
			if p.Email != "" {
				emails = append(emails, strings.ToLower(p.Email))
			} else {
				bare = append(bare, []any{strings.ToLower(p.Name), p.Phone})
			}
		}
		db := s.DB.WithContext(ctx).Where("id in ?", ids).Or("lower(email) in ?", emails)
		if len(bare) > 0 {
			db = db.Or("email is null and (lower(name), phone) in ?", bare)
		}
		var list []Contact
		if err := db.Find(&list).Error; err != nil {
			return nil, err
		}
		for _, c := range list {
			if !seen[c.ID] {
				seen[c.ID] = true
				found = append(found, c)
			}
		}
	}
	return found, nil
}

// SaveContacts stores contacts, all or none.
func (s Tables) SaveContacts(ctx context.Context, list []Contact) error {
	var fresh []Contact
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, c := range list {
			if c.Outside == nil {
				c.Outside = map[string]string{}
			}
			if c.Version == 0 {
				c.Version = 1
				fresh = append(fresh, c)
				continue
			}
			if err := store.SaveRow(tx, &c, c.ID, c.Version, func(next int64) { c.Version = next }, "contacts_email"); err != nil {
				return err
			}
		}
		if len(fresh) == 0 {
			return nil
		}
		err := tx.CreateInBatches(fresh, atOnce).Error
		if store.IsUnique(err, "contacts_email") {
			return store.ErrNameTaken
		}
		return err
	})
}

// ContactsAfter returns contacts in the order of their ids: those behind one, the
// first for one that is none.
func (s Tables) ContactsAfter(ctx context.Context, after Contact, limit int) ([]Contact, error) {
	var list []Contact
	db := s.DB.WithContext(ctx)
	if after.ID != "" {
		db = db.Where("id > ?", after.ID)
	}
	err := db.Order("id").Limit(limit).Find(&list).Error
	return list, err
}
