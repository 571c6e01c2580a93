package people

import (
	"context"
	"errors"

	"stoop/internal/store"
)

// Vouched takes note of who a visitor is, for which the site vouches: the contact with
// the site's own id, or with the email that it names.
func (room *Room) Vouched(ctx context.Context, visitorID, siteID, name, email, phone string) error {
	if name != "" || email != "" || phone != "" {
		if err := room.Register.NameVisitor(ctx, visitorID, name, email, phone, nil); err != nil {
			return err
		}
	}
	contactID, err := room.Register.Join(ctx, visitorID, siteID, name, email, phone, room.Now())
	if err == nil {
		room.Outside.Learn(contactID, email)
	}
	return err
}

// Proven takes note that a visitor reads what is mailed to the email that they gave:
// they came back by a link in a mail.
func (room *Room) Proven(ctx context.Context, visitorID string) error {
	v, err := room.Register.Visitor(ctx, visitorID)
	if errors.Is(err, store.ErrNotFound) || err == nil && v.Email == "" {
		return nil
	}
	if err != nil {
		return err
	}
	contactID, err := room.Register.Join(ctx, visitorID, "", v.Name, v.Email, v.Phone, room.Now())
	if err == nil {
		room.Outside.Learn(contactID, v.Email)
	}
	return err
}
