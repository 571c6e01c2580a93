package register

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

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

	SiteID *string    // by which the site vouches for them
	SeenAt *time.Time `gorm:"->"` // when they were last there
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
		where id = (select contact_id from visitors where id = $1)
			or lower(email) = lower(coalesce(nullif($2, ''), (select nullif(email, '') from visitors where id = $1)))
				and not exists (select 1 from visitors where id = $1 and contact_id is not null)`, visitorID, email).QueryRow(func(row pgx.Row) error {
		return store.IgnoreNoRows(row.Scan(&c.ID, &c.Email, &c.Name, &c.Phone, &c.Company, &c.AccountOwnerID, &c.Fields, &c.Outside, &c.Version, &c.CreatedAt))
	})
}

// ContactOf returns the contact of a visitor: the one they are linked to, or
// the one with the email that they gave, which proves nothing.
func (s Tables) ContactOf(ctx context.Context, visitorID string) (Contact, error) {
	var c Contact
	err := s.DB.WithContext(ctx).Joins("join visitors v on v.contact_id = contacts.id or v.contact_id is null and v.email <> '' and lower(v.email) = lower(contacts.email)").
		Where("v.id = ?", visitorID).Take(&c).Error
	return c, store.NotFound(err)
}

// Join makes a visitor one of the browsers of who has a proven email, or an id of the
// site's: the contact that is known by it, or else a new one. The id counts more. What
// the contact lacks is filled in, and nothing that the team wrote is replaced.
func (s Tables) Join(ctx context.Context, visitorID, siteID, name, email, phone string, now time.Time) (contactID string, err error) {
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Two pages of one person come at once: one of them makes the contact.
		if err := tx.Exec("select pg_advisory_xact_lock(hashtext('contact ' || ?))", orEmail(siteID, email)).Error; err != nil {
			return err
		}
		if email != "" && siteID != "" {
			if err := tx.Exec("select pg_advisory_xact_lock(hashtext('contact ' || ?))", orEmail("", email)).Error; err != nil {
				return err
			}
		}
		err := tx.Raw(`select coalesce((select id::text from contacts where site_id = nullif(@site, '')),
				(select id::text from contacts where lower(email) = lower(nullif(@email, '')) and (site_id is null or @site = '')), '')`,
			map[string]any{"site": siteID, "email": email}).Scan(&contactID).Error
		if err != nil {
			return err
		}
		if contactID == "" {
			contactID = uuid.NewString()
			// An email belongs to one contact; whoever comes with another's is without.
			err = tx.Exec(`insert into contacts (id, name, email, phone, site_id, outside, created_at, seen_at)
				select @id, @name, case when exists (select 1 from contacts where lower(email) = lower(@email)) then null else nullif(@email, '') end, @phone, nullif(@site, ''), '{}', @now, @now`,
				map[string]any{"id": contactID, "name": name, "email": email, "phone": phone, "site": siteID, "now": now}).Error
		} else {
			err = tx.Exec(`update contacts set name = case when name = '' then @name else name end, phone = case when phone = '' then @phone else phone end,
				site_id = coalesce(site_id, nullif(@site, '')), seen_at = @now, version = version + 1,
				email = case when email is null and not exists (select 1 from contacts where lower(email) = lower(@email)) then nullif(@email, '') else email end
				where id = @id`, map[string]any{"id": contactID, "name": name, "email": email, "phone": phone, "site": siteID, "now": now}).Error
		}
		if err != nil {
			return err
		}
		return tx.Exec("update visitors set contact_id = ?, email_proven = email_proven or ? and lower(email) = lower(?) where id = ?", contactID, email != "", email, visitorID).Error
	})
	return contactID, err
}

// JoinByNumber makes a visitor one of the ways to reach who has a telephone number from which they
// wrote: the only contact that has it, or, where there is none, a new one. Where several have it,
// the visitor stays nobody's, since it may be any of them; one who is somebody's already stays so.
func (s Tables) JoinByNumber(ctx context.Context, visitorID, number string, now time.Time) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("select pg_advisory_xact_lock(hashtext('contact ' || ?))", "number "+number).Error; err != nil {
			return err
		}
		var of []string
		err := tx.Raw("select id::text from contacts where phone <> '' and regexp_replace(phone, '[^0-9+]', '', 'g') = ? limit 2", number).Scan(&of).Error
		if err != nil || len(of) > 1 {
			return err
		}
		if len(of) == 0 {
			of = []string{uuid.NewString()}
			err = tx.Exec(`insert into contacts (id, name, phone, outside, created_at, seen_at)
				select @id, name, @phone, '{}', @now, @now from visitors where id = @visitor and contact_id is null`,
				map[string]any{"id": of[0], "phone": number, "now": now, "visitor": visitorID}).Error
		} else {
			err = tx.Exec("update contacts set seen_at = ? where id = ?", now, of[0]).Error
		}
		if err != nil {
			return err
		}
		return tx.Exec("update visitors set contact_id = ? where id = ? and contact_id is null", of[0], visitorID).Error
	})
}

func orEmail(siteID, email string) string {
	if siteID != "" {
		return "site " + siteID
	}
	return "email " + strings.ToLower(email)
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

// Customer is who is behind a chat or a contact, by which the system outside may know
// them.
type Customer struct {
	ContactID string // empty: not a contact yet
	Name      string
	Email     string
	Phone     string
	Claimed   bool // the email is only what they say
}

// SetOutside puts down what the system outside says of a contact. It is no change of
// the contact: nobody who edits it is held up.
func (s Tables) SetOutside(ctx context.Context, contactID string, said map[string]string) error {
	data, err := json.Marshal(said)
	if err != nil {
		return err
	}
	return s.DB.WithContext(ctx).Exec("update contacts set outside = cast(@said as jsonb) where id = @id and outside is distinct from cast(@said as jsonb)",
		map[string]any{"said": string(data), "id": contactID}).Error
}

// LinkContact tells who a visitor is.
func (s Tables) LinkContact(ctx context.Context, visitorID, contactID string) error {
	return s.DB.WithContext(ctx).Exec("update visitors set contact_id = ? where id = ?", contactID, visitorID).Error
}

// Looked is what routing asks of a contact.
type Looked struct {
	AccountOwner string // id of the operator who looks after them
	Outside      map[string]string
}

// LookedUp returns what routing asks of the contacts of visitors, by the visitors' ids;
// who has no contact is missing.
func (s Tables) LookedUp(ctx context.Context, visitorIDs []string) (map[string]Looked, error) {
	rows, err := s.Pool().Query(ctx, `select v.id::text, coalesce(c.account_owner_id::text, ''), c.outside
		from visitors v join contacts c on c.id = v.contact_id where v.id = any($1::uuid[])`, visitorIDs)
	if err != nil {
		return nil, err
	}
	of := map[string]Looked{}
	_, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (none struct{}, err error) {
		var id string
		var l Looked
		err = r.Scan(&id, &l.AccountOwner, &l.Outside)
		of[id] = l
		return none, err
	})
	return of, err
}
