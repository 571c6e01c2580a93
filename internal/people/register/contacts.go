package register

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/internal/store"
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

// Contact returns the contact with an email address.
func (s Tables) Contact(ctx context.Context, email string) (Contact, error) {
	var c Contact
	err := s.DB.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&c).Error
	return c, store.NotFound(err)
}

// AskContact adds to a batch the question for the contact with an email address, or
// else with that of a visitor; there is none unless its id is set.
func (s Tables) AskContact(b *pgx.Batch, visitorID, email string, c *Contact) {
	b.Queue(`select id::text, email, name, phone, company, account_owner_id::text, fields, outside, version, created_at from contacts
		where lower(email) = lower(coalesce(nullif($2, ''), (select nullif(email, '') from visitors where id = $1)))`, visitorID, email).QueryRow(func(row pgx.Row) error {
		return store.IgnoreNoRows(row.Scan(&c.ID, &c.Email, &c.Name, &c.Phone, &c.Company, &c.AccountOwnerID, &c.Fields, &c.Outside, &c.Version, &c.CreatedAt))
	})
}

// ContactOf returns the contact of a visitor: the one they are linked to, or
// the one with the email that they gave.
func (s Tables) ContactOf(ctx context.Context, visitorID string) (Contact, error) {
	var c Contact
	err := s.DB.WithContext(ctx).Joins("join visitors v on v.contact_id = contacts.id or v.contact_id is null and v.email <> '' and lower(v.email) = lower(contacts.email)").
		Where("v.id = ?", visitorID).Take(&c).Error
	return c, store.NotFound(err)
}

// SaveContact stores a contact: a new one with version 0, or the stored one if
// it has still the version that was read, else the error is ErrChanged. Another
// contact with the same email makes it ErrNameTaken.
func (s Tables) SaveContact(ctx context.Context, c Contact) (Contact, error) {
	if c.Fields == nil {
		c.Fields = map[string]string{}
	}
	if c.Outside == nil {
		c.Outside = map[string]string{}
	}
	err := store.SaveRow(s.DB.WithContext(ctx), &c, c.ID, c.Version, func(next int64) { c.Version = next }, "contacts_email")
	return c, err
}

// LinkContact tells who a visitor is.
func (s Tables) LinkContact(ctx context.Context, visitorID, contactID string) error {
	return s.DB.WithContext(ctx).Exec("update visitors set contact_id = ? where id = ?", contactID, visitorID).Error
}
