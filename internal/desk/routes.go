package desk

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/desk", "desk", "What the Desk starts from",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (Desk, error) {
			return room.Desk(ctx, o)
		})
	httpapi.Answer(r, http.MethodGet, "/api/figures", "figures", "Figures of the status strip",
		func(ctx context.Context, _ access.Actor, _ *httpapi.Nothing) (Figures, error) {
			return room.Figures(ctx)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}", "script", "A chat and the events after a number",
		func(ctx context.Context, o access.Actor, in *struct {
			ID    string `path:"id"`
			After int64  `query:"after" minimum:"0"`

			Beside string `query:"beside" doc:"For an earlier chat: the one of the same person that I have now"`
		}) (Script, error) {
			return room.Script(ctx, o, in.ID, in.After, in.Beside)
		})
	httpapi.Do(r, http.MethodPatch, "/api/me/preferences", "set-preferences", "Change how I want my console",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.Preferences]) error {
			return room.SetPreferences(ctx, o, in.Body)
		})
}
