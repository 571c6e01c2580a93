// Package register keeps who is known: visitors, and the contacts behind them.
package register

import (
	"context"

	"stoop/internal/site/visits"
	"stoop/internal/store"
)

// Tables are those of visitors and contacts.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Met is what is known of somebody who arrives.
type Met struct {
	Visitor      Visitor
	Stays        visits.Known
	Contact      Contact // the zero value when nobody is known by their email
	LastOperator string  // who owned their last chat that ended; may be empty
}

// SamePerson returns the ids of the visitors who are one person with a visitor,
// and their own: of the same contact, or who gave the same email.
func (s Tables) SamePerson(ctx context.Context, visitorID string) ([]string, error) {
	return s.IDs(ctx, `
		with me as (select id, contact_id, lower(nullif(email, '')) as email from visitors where id = $1),
		known as (
			select contact_id as id from me where contact_id is not null
			union select c.id from contacts c join me on lower(c.email) = me.email
		)
		select id::text from me
		union select v.id::text from visitors v join known on v.contact_id = known.id
		union select v.id::text from visitors v join me on lower(v.email) = me.email and v.email <> ''
		union select v.id::text from visitors v join contacts c on lower(v.email) = lower(c.email) and v.email <> '' join known on known.id = c.id`, visitorID)
}
