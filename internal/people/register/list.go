package register

import (
	"context"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/internal/store"
)

// ContactQuery says which contacts are wanted, in the order of their names.
type ContactQuery struct {
	Words   string // parts of name, email, phone or company; all must be there
	OwnerID string // whose account owner is
	Vouched bool   // only whom a site vouches for
	NoEmail bool   // only who has none
	// After is the last contact that was got: those follow that come behind it.
	AfterName, AfterID string
	Limit              int
}

// Contacts returns contacts with how many there are of them all.
func (s Tables) Contacts(ctx context.Context, q ContactQuery) (list []Contact, total int64, err error) {
	db := s.DB.WithContext(ctx).Model(&Contact{})
	for _, word := range strings.Fields(strings.ToLower(q.Words)) {
		db = db.Where("search like ?", "%"+likeEscaped(word)+"%")
	}
	if q.OwnerID != "" {
		db = db.Where("account_owner_id = ?", q.OwnerID)
	}
	if q.Vouched {
		db = db.Where("site_id is not null")
	}
	if q.NoEmail {
		db = db.Where("email is null")
	}
	if err := db.Session(&gorm.Session{}).Count(&total).Error; err != nil {
		return nil, 0, err
	}
	if q.AfterID != "" {
		db = db.Where("(lower(name), id) > (lower(?), ?)", q.AfterName, q.AfterID)
	}
	err = db.Order("lower(name), id").Limit(q.Limit).Find(&list).Error
	return list, total, err
}

func likeEscaped(word string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(word)
}

// ContactByID returns one contact.
func (s Tables) ContactByID(ctx context.Context, id string) (Contact, error) {
	var c Contact
	if uuid.Validate(id) != nil {
		return c, store.ErrNotFound
	}
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&c).Error
	return c, store.NotFound(err)
}

// VisitorsOf returns the browsers of a contact, the newest first.
func (s Tables) VisitorsOf(ctx context.Context, contactID string) ([]Visitor, error) {
	var list []Visitor
	err := s.DB.WithContext(ctx).Where("contact_id = ?", contactID).Order("created_at desc, id").Limit(visitorsMost).Find(&list).Error
	return list, err
}

// visitorsMost bounds the browsers that are shown of one contact.
const visitorsMost = 200

// PerhapsSame returns the browsers that are perhaps those of a contact: whose visitor
// gave the same email, which proves nothing, and who are nobody's yet.
func (s Tables) PerhapsSame(ctx context.Context, c Contact) ([]Visitor, error) {
	var list []Visitor
	if c.Email == nil {
		return list, nil
	}
	err := s.DB.WithContext(ctx).Where("contact_id is null and email <> '' and lower(email) = lower(?)", *c.Email).Order("created_at desc, id").Limit(visitorsMost).Find(&list).Error
	return list, err
}

// JoinVisitor makes a browser one of a contact's, by hand; it must be nobody's.
func (s Tables) JoinVisitor(ctx context.Context, contactID, visitorID string) error {
	done := s.DB.WithContext(ctx).Exec("update visitors set contact_id = ? where id = ? and contact_id is null", contactID, visitorID)
	if store.IsCode(done.Error, "23503") { // the contact was merged a moment ago
		return store.ErrNotFound
	}
	if done.Error == nil && done.RowsAffected == 0 {
		return store.ErrChanged
	}
	return done.Error
}

// Merge makes one contact of two: what is told as merged replaces the first, the
// browsers of the second become its, and the second is no more. Both must be as they
// were read. move does what others keep of the second.
func (s Tables) Merge(ctx context.Context, merged Contact, other Contact, move func(tx *gorm.DB) error) (Contact, error) {
	err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Always in the same order, or two merges would wait for each other.
		var held []Contact
		if err := tx.Raw("select * from contacts where id in ? order by id for update", []string{merged.ID, other.ID}).Scan(&held).Error; err != nil {
			return err
		}
		versions := map[string]int64{}
		for _, c := range held {
			versions[c.ID] = c.Version
		}
		if versions[merged.ID] != merged.Version || versions[other.ID] != other.Version {
			return store.ErrChanged
		}
		if err := tx.Exec("update visitors set contact_id = ? where contact_id = ?", merged.ID, other.ID).Error; err != nil {
			return err
		}
		if err := move(tx); err != nil {
			return err
		}
		if err := tx.Exec("delete from contacts where id = ?", other.ID).Error; err != nil {
			return err
		}
		return store.SaveRow(tx, &merged, merged.ID, merged.Version, func(next int64) { merged.Version = next }, "contacts_email")
	})
	return merged, err
}

// Split takes some browsers away from a contact: they become those of a new one.
func (s Tables) Split(ctx context.Context, contactID string, visitorIDs []string, fresh Contact) (Contact, error) {
	if fresh.Fields == nil {
		fresh.Fields = map[string]string{}
	}
	if fresh.Outside == nil {
		fresh.Outside = map[string]string{}
	}
	err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := store.SaveRow(tx, &fresh, fresh.ID, 0, func(next int64) { fresh.Version = next }, "contacts_email"); err != nil {
			return err
		}
		moved := tx.Exec("update visitors set contact_id = ? where contact_id = ? and id in ?", fresh.ID, contactID, visitorIDs)
		if moved.Error == nil && moved.RowsAffected != int64(len(visitorIDs)) {
			return store.ErrChanged // a colleague was faster
		}
		return moved.Error
	})
	return fresh, err
}

// SeenAt stores when a contact's browsers were last on a site, by visitor.
func (s Tables) SeenAt(ctx context.Context, visitorIDs []string, at time.Time) error {
	return s.DB.WithContext(ctx).Exec("update contacts set seen_at = ? where id in (select contact_id from visitors where id in ? and contact_id is not null) and (seen_at is null or seen_at < ?)", at, visitorIDs, at.Add(-time.Minute)).Error
}
