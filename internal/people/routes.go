package people

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	room.openRoutes(r)
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/about", "about", "What is known of the person behind a chat",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (AboutView, error) {
			return room.About(ctx, o, in.ID)
		})
	type contact struct {
		ID   string `path:"id"`
		Body view.ContactView
	}
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/contact", "save-contact", "Change the contact behind a chat",
		func(ctx context.Context, o access.Actor, in *contact) (view.ContactView, error) {
			return room.SaveContact(ctx, o, in.ID, in.Body)
		})
	type words struct {
		ID   string `path:"id"`
		Body httpapi.Words
	}
	httpapi.Do(r, http.MethodPost, "/api/chats/{id}/contact/notes", "add-contact-note", "Note something about the contact behind a chat",
		func(ctx context.Context, o access.Actor, in *words) error {
			return room.AddContactNote(ctx, o, in.ID, in.Body.Text)
		})
	httpapi.Do(r, http.MethodDelete, "/api/contact-notes/{id}", "remove-contact-note", "Delete a note of mine",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveContactNote(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/contacts", "contacts", "Contacts in the order of their names",
		func(ctx context.Context, o access.Actor, in *ContactsAsked) (ContactList, error) {
			return room.Contacts(ctx, o, *in)
		})
	httpapi.Answer(r, http.MethodPost, "/api/contacts", "add-contact", "Add a contact",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[view.ContactView]) (view.ContactView, error) {
			in.Body.ID = ""
			return room.SaveContactPage(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/contacts/{id}", "contact", "All that is known of one contact",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) (ContactPage, error) {
			return room.ContactPage(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPut, "/api/contacts/{id}", "change-contact", "Change a contact",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body view.ContactView
		}) (view.ContactView, error) {
			in.Body.ID = in.ID
			return room.SaveContactPage(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodPost, "/api/contacts/{id}/notes", "note-on-contact", "Note something about a contact",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body httpapi.Words
		}) error {
			return room.NoteOn(ctx, o, in.ID, in.Body.Text)
		})
	httpapi.Answer(r, http.MethodPost, "/api/contacts/{id}/merge", "merge-contacts", "Make one contact of two",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body MergeOrder
		}) (view.ContactView, error) {
			return room.Merge(ctx, o, in.ID, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/contacts/{id}/split", "split-contact", "Make a new contact of some browsers of one",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body SplitOrder
		}) (view.ContactView, error) {
			return room.Split(ctx, o, in.ID, in.Body)
		})
	httpapi.Do(r, http.MethodPut, "/api/contacts/{id}/browsers/{browser}", "join-browser", "Make a browser one of a contact's",
		func(ctx context.Context, o access.Actor, in *struct {
			ID      string `path:"id" format:"uuid"`
			Browser string `path:"browser" format:"uuid"`
		}) error {
			return room.JoinBrowser(ctx, o, in.ID, in.Browser)
		})
	httpapi.Answer(r, http.MethodPost, "/api/contacts/{id}/letters", "write-to-contact", "Write to a contact who is not here, by email",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body LetterTo
		}) (Written, error) {
			return room.WriteTo(ctx, o, in.ID, in.Body)
		})
	type contactsFile struct {
		Apply bool `query:"apply" doc:"Store what the file adds and changes; else only say what it would do"`
		Body  struct {
			File string `json:"file" maxLength:"8000000" doc:"CSV, or vCards"`
		}
	}
	httpapi.AnswerLarge(r, http.MethodPost, "/api/contacts/import", "import-contacts", "Compare a file with the contacts, or take it in",
		func(ctx context.Context, o access.Actor, in *contactsFile) (ContactImport, error) {
			return room.ImportContacts(ctx, o, []byte(in.Body.File), in.Apply)
		})
	r.Team.Get("/api/contacts.csv", room.contactsFile(r, "text/csv; charset=utf-8; header=present", "contacts.csv", false))
	r.Team.Get("/api/contacts.vcf", room.contactsFile(r, "text/vcard; charset=utf-8", "contacts.vcf", true))
	httpapi.Do(r, http.MethodPost, "/api/bans", "ban", "Shut a visitor or a network out",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[BanOrder]) error {
			return room.Ban(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/bans", "bans", "Who is shut out",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]BanView, error) {
			return room.Bans(ctx, o)
		})
	httpapi.Do(r, http.MethodDelete, "/api/bans/{id}", "lift-ban", "Let somebody in again",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.LiftBan(ctx, o, in.ID)
		})
}

// contactsFile serves all contacts as a file. It is made whole before it is sent: half
// of one would look like all of them.
func (room *Room) contactsFile(r *httpapi.Routes, kind, name string, cards bool) http.HandlerFunc {
	return func(w http.ResponseWriter, q *http.Request) {
		o, err := r.Operator(q.Context())
		var file bytes.Buffer
		if err == nil {
			err = room.ExportContacts(q.Context(), o, &file, cards)
		}
		if err != nil {
			r.Fail(w, q, err)
			return
		}
		w.Header().Set("Content-Type", kind)
		w.Header().Set("Content-Disposition", `attachment; filename="`+name+`"`)
		http.ServeContent(w, q, name, time.Time{}, bytes.NewReader(file.Bytes()))
	}
}
