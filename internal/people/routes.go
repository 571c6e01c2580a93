package people

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
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
