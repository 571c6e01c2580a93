package floor

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodPut, "/api/me/availability", "set-availability", "Become available or away",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Available bool `json:"available"`
			}
		}) (view.OperatorView, error) {
			return room.SetAvailable(ctx, o, in.Body.Available)
		})
	httpapi.Do(r, http.MethodPost, "/api/chats/{id}/pass", "pass", "Let an offer go by, or decline a chat handed on",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) error {
			return room.Pass(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/floor", "floor", "Departments with queue, longest wait and who is there",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (FloorView, error) {
			return room.Floor(ctx, o)
		})
}
