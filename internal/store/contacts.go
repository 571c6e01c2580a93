package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
)

// Contact is a person whom the team knows.
type Contact struct {
	ID             string
	Email          *string // nil when not known
	Name           string
	Phone          string
	Company        string
	AccountOwnerID *string
	Fields         map[string]string `gorm:"serializer:json"` // the team's own, by name
	Outside        map[string]string `gorm:"serializer:json"` // what the outside system says of them
	Version        int64             `gorm:"default:1"`
	CreatedAt      time.Time
}

// ContactNote is what the team wrote down about a contact.
type ContactNote struct {
	ID        string
	ContactID string
	ByID      string
	Text      string
	CreatedAt time.Time
}

// Contact returns the contact with an email address.
func (s *Store) Contact(ctx context.Context, email string) (Contact, error) {
	var c Contact
	err := s.DB.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&c).Error
	return c, notFound(err)
}

// ContactOf returns the contact of a visitor: the one they are linked to, or
// the one with the email that they gave.
func (s *Store) ContactOf(ctx context.Context, visitorID string) (Contact, error) {
	var c Contact
	err := s.DB.WithContext(ctx).Joins("join visitors v on v.contact_id = contacts.id or v.contact_id is null and v.email <> '' and lower(v.email) = lower(contacts.email)").
		Where("v.id = ?", visitorID).Take(&c).Error
	return c, notFound(err)
}

// SaveContact stores a contact: a new one with version 0, or the stored one if
// it has still the version that was read, else the error is ErrChanged. Another
// contact with the same email makes it ErrNameTaken.
func (s *Store) SaveContact(ctx context.Context, c Contact) (Contact, error) {
	if c.Fields == nil {
		c.Fields = map[string]string{}
	}
	if c.Outside == nil {
		c.Outside = map[string]string{}
	}
	err := save(s.DB.WithContext(ctx), &c, c.ID, c.Version, func(next int64) { c.Version = next }, "contacts_email")
	return c, err
}

// LinkContact tells who a visitor is.
func (s *Store) LinkContact(ctx context.Context, visitorID, contactID string) error {
	return s.DB.WithContext(ctx).Exec("update visitors set contact_id = ? where id = ?", contactID, visitorID).Error
}

// ContactNotes returns what was written down about a contact, newest first.
func (s *Store) ContactNotes(ctx context.Context, contactID string) ([]ContactNote, error) {
	var list []ContactNote
	err := s.DB.WithContext(ctx).Where("contact_id = ?", contactID).Order("created_at desc, id").Limit(100).Find(&list).Error
	return list, err
}

// AddContactNote stores a note.
func (s *Store) AddContactNote(ctx context.Context, n ContactNote) error {
	return s.DB.WithContext(ctx).Create(&n).Error
}

// RemoveContactNote deletes a note that somebody wrote.
func (s *Store) RemoveContactNote(ctx context.Context, id, byID string) error {
	gone := s.DB.WithContext(ctx).Where("id = ? and by_id = ?", id, byID).Delete(&ContactNote{})
	if gone.Error == nil && gone.RowsAffected == 0 {
		return ErrNotFound
	}
	return gone.Error
}

// EarlierChats returns the chats of a visitor and of whoever is the same
// contact or gave the same email, newest first, without one of them.
func (s *Store) EarlierChats(ctx context.Context, visitorID, withoutID string, limit int) ([]Chat, error) {
	var list []Chat
	err := s.DB.WithContext(ctx).Raw(`
		with me as (select id, contact_id, lower(nullif(email, '')) as email from visitors where id = ?),
		known as (
			select contact_id as id from me where contact_id is not null
			union select c.id from contacts c join me on lower(c.email) = me.email
		),
		same as (
			select id from me
			union select v.id from visitors v join known on v.contact_id = known.id
			union select v.id from visitors v join me on lower(v.email) = me.email and v.email <> ''
			union select v.id from visitors v join contacts c on lower(v.email) = lower(c.email) and v.email <> '' join known on known.id = c.id
		)
		select c.* from chats c join same on same.id = c.visitor_id where c.id <> ? order by c.started_at desc, c.id desc limit ?`,
		visitorID, withoutID, limit).Scan(&list).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = nil
	}
	return list, err
}

// TagCount is a tag with how many chats have it.
type TagCount struct {
	Tag string
	N   int64
}

// TagsInUse returns the tags of the chats since a time, the most used first.
func (s *Store) TagsInUse(ctx context.Context, since time.Time, limit int) ([]TagCount, error) {
	var list []TagCount
	err := s.DB.WithContext(ctx).Raw(`select t.tag, count(*) as n from chats, jsonb_array_elements_text(tags) as t(tag)
		where started_at > ? group by t.tag order by n desc, t.tag limit ?`, since, limit).Scan(&list).Error
	return list, err
}
