package people

import (
	"context"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// openRoutes adds what other programs read of contacts.
func (room *Room) openRoutes(r *httpapi.Routes) {
	httpapi.Keyed(r, httpapi.ReadContacts, "/contacts", "contacts", "Contacts in the order of their names", "?words=quill",
		func(ctx context.Context, o access.Actor, in *struct {
			Words     string `query:"words" maxLength:"200" doc:"All must be there, in name, email, phone or company"`
			AfterName string `query:"nextName" doc:"Of the page before"`
			AfterID   string `query:"nextId" doc:"Of the page before"`
		}) (ContactList, error) {
			return room.Contacts(ctx, o, ContactsAsked{Words: in.Words, AfterName: in.AfterName, AfterID: in.AfterID})
		})
	httpapi.Keyed(r, httpapi.ReadContacts, "/contacts/{id}", "contact", "One contact with the team's own fields", "",
		func(ctx context.Context, _ access.Actor, in *httpapi.IDPath) (view.ContactView, error) {
			c, err := room.Register.ContactByID(ctx, in.ID)
			if err != nil {
				return view.ContactView{}, err
			}
			return view.Contact(c), nil
		})
}
