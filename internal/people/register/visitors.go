package register

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm/clause"

	"stoop/core/form"
	"stoop/internal/site/visits"
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

// EnsureVisitorOf stores a visitor of a widget if they are not there.
func (s Tables) EnsureVisitorOf(ctx context.Context, id, widgetID string, now time.Time) error {
	return s.EnsureVisitor(ctx, Visitor{ID: id, WidgetID: widgetID, CreatedAt: now})
}

// EnsureVisitorsOf stores the visitors of visits if they are not there.
func (s Tables) EnsureVisitorsOf(ctx context.Context, list []visits.Visit) error {
	ids, widgets, addresses, since := make([]string, len(list)), make([]string, len(list)), make([]string, len(list)), make([]time.Time, len(list))
	for i, v := range list {
		ids[i], widgets[i], addresses[i], since[i] = v.VisitorID, v.WidgetID, v.Address, v.StartedAt
	}
	_, err := s.Pool().Exec(ctx, `insert into visitors (id, widget_id, address, created_at)
		select distinct on (id) id, widget_id, address, at from unnest($1::uuid[], $2::uuid[], $3::text[], $4::timestamptz[]) as of(id, widget_id, address, at)
		order by id on conflict do nothing`, ids, widgets, addresses, since)
	return err
}

// From returns those of some visitors who were last seen in a network.
func (s Tables) From(ctx context.Context, visitorIDs []string, network string) ([]string, error) {
	return s.IDs(ctx, `select id::text from visitors where id = any ($1::uuid[]) and address <> '' and $2::cidr >>= nullif(address, '')::inet`, visitorIDs, network)
}

// Person is who a visitor is, as far as it is known.
type Person struct {
	Name, Email string
	ContactID   string
	Chats       int // that they had
}

// Persons returns who some visitors are. Of whom nothing is stored nothing is
// returned.
func (s Tables) Persons(ctx context.Context, visitorIDs []string) (map[string]Person, error) {
	rows, err := s.Pool().Query(ctx, `
		select v.id::text, coalesce(nullif(c.name, ''), v.name), coalesce(c.email, v.email), coalesce(c.id::text, ''), (select count(*) from chats where visitor_id = v.id)
		from visitors v left join contacts c on c.id = v.contact_id where v.id = any($1::uuid[])`, visitorIDs)
	if err != nil {
		return nil, err
	}
	out := map[string]Person{}
	var id string
	var p Person
	_, err = pgx.ForEachRow(rows, []any{&id, &p.Name, &p.Email, &p.ContactID, &p.Chats}, func() error {
		out[id] = p
		return nil
	})
	return out, err
}
