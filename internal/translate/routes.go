package translate

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/translator", "translator", "What can be translated",
		func(ctx context.Context, _ access.Actor, _ *httpapi.Nothing) (Ability, error) {
			return room.Ability(ctx)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/language", "guess-language", "In which language a visitor seems to write",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (Guess, error) {
			return room.GuessOf(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/translation", "translate", "Translate a chat both ways",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Theirs  string `json:"theirs" maxLength:"20"`
				Ours    string `json:"ours" maxLength:"20"`
				Guessed bool   `json:"guessed,omitempty"`
			}
		}) (view.ChatView, error) {
			return room.Begin(ctx, o, in.ID, in.Body.Theirs, in.Body.Ours, in.Body.Guessed)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/chats/{id}/translation", "end-translation", "Translate a chat no longer",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.End(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/translations", "preview-translation", "My words as the visitor would read them",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Text string `json:"text" maxLength:"20000"`
			}
		}) (view.TranslationView, error) {
			return room.Preview(ctx, o, in.ID, in.Body.Text)
		})
}
