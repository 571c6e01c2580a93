package register

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// Everybody returns the visitors behind a contact: those who are linked with it and,
// besides, those who only gave its email, who may be somebody else.
func (s Tables) Everybody(ctx context.Context, contactID string) (linked, claimed []string, err error) {
	if linked, err = s.IDs(ctx, "select id::text from visitors where contact_id = $1 order by created_at", contactID); err != nil {
		return nil, nil, err
	}
	claimed, err = s.IDs(ctx, `select v.id::text from visitors v join contacts c on c.id = $1 and lower(v.email) = lower(c.email)
		where v.email <> '' and v.contact_id is distinct from c.id order by v.created_at`, contactID)
	return linked, claimed, err
}

// Erase deletes visitors, and a contact unless its id is empty. What else hangs on their
// rows goes with them.
func Erase(ctx context.Context, tx pgx.Tx, visitorIDs []string, contactID string) error {
	if _, err := tx.Exec(ctx, "delete from visitors where id = any($1::uuid[])", visitorIDs); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, "delete from contacts where id::text = $1", contactID)
	return err
}

// EraseForm takes away what visitors told of themselves who have nothing to do with the
// team any more: all their chats are without it.
func EraseForm(ctx context.Context, tx pgx.Tx, chatIDs []string) error {
	_, err := tx.Exec(ctx, `update visitors set name = '', email = '', phone = '', answers = '{}', email_proven = false
		where id in (select visitor_id from chats where id = any($1::uuid[])) and not exists (select from chats c where c.visitor_id = visitors.id and not c.form_gone)`, chatIDs)
	return err
}
