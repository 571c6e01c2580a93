package register

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm/clause"

	"stoop/core/form"
	"stoop/internal/store"
)

// SetAddress stores from where a visitor came last.
func (s Tables) SetAddress(ctx context.Context, visitorID, address string) error {
	return s.DB.WithContext(ctx).Exec("update visitors set address = ? where id = ? and address <> ?", address, visitorID, address).Error
}

// Visitor is a browser on a watched site.
type Visitor struct {
	ID        string
	WidgetID  string
	Name      string
	Email     string
	CreatedAt time.Time

	Phone   string
	Answers form.Answers `gorm:"serializer:json"`

	ContactID *string
	Address   string // of the network, as last seen
}

// Visitor returns one visitor.
func (s Tables) Visitor(ctx context.Context, id string) (Visitor, error) {
	var v Visitor
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&v).Error
	return v, store.NotFound(err)
}

// AskVisitor adds to a batch the question for a visitor; there is none unless their
// id is set.
func (s Tables) AskVisitor(b *pgx.Batch, id string, v *Visitor) {
	b.Queue("select id::text, widget_id::text, name, email, created_at, phone, answers, contact_id::text, address from visitors where id = $1", id).QueryRow(func(row pgx.Row) error {
		return store.IgnoreNoRows(row.Scan(&v.ID, &v.WidgetID, &v.Name, &v.Email, &v.CreatedAt, &v.Phone, &v.Answers, &v.ContactID, &v.Address))
	})
}

// NameVisitor stores what the visitor told about themselves; empty values
// leave what is known.
func (s Tables) NameVisitor(ctx context.Context, id, name, email, phone string, answers form.Answers) error {
	if answers == nil {
		answers = form.Answers{}
	}
	told, err := json.Marshal(answers)
	if err != nil {
		return err
	}
	return s.DB.WithContext(ctx).Exec(`update visitors set name = coalesce(nullif(?, ''), name), email = coalesce(nullif(?, ''), email),
		phone = coalesce(nullif(?, ''), phone), answers = answers || ?::jsonb where id = ?`, name, email, phone, string(told), id).Error
}

// EnsureVisitor stores a visitor if it is not there.
func (s Tables) EnsureVisitor(ctx context.Context, v Visitor) error {
	if v.Answers == nil {
		v.Answers = form.Answers{}
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&v).Error
}

// From returns those of some visitors who were last seen in a network.
func (s Tables) From(ctx context.Context, visitorIDs []string, network string) ([]string, error) {
	return s.IDs(ctx, `select id::text from visitors where id = any ($1::uuid[]) and address <> '' and $2::cidr >>= nullif(address, '')::inet`, visitorIDs, network)
}
