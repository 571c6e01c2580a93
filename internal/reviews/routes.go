package reviews

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/review-form", "review-form", "By what chats are reviewed",
		func(ctx context.Context, _ access.Actor, _ *httpapi.Nothing) (settings.ReviewForm, error) {
			return room.Form(ctx)
		})
	httpapi.Answer(r, http.MethodPut, "/api/review-form", "save-review-form", "Change by what chats are reviewed",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.ReviewForm]) (settings.ReviewForm, error) {
			return room.SaveForm(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/review-draws", "review-draws", "Chats that were drawn for review",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]Draw, error) {
			return room.Draws(ctx, o)
		})
	httpapi.Answer(r, http.MethodPost, "/api/review-draws", "draw-reviews", "Draw a fair sample of chats",
		func(ctx context.Context, o access.Actor, in *struct {
			facts.Asked
			Body DrawOrder
		}) (Draw, error) {
			return room.Draw(ctx, o, in.Asked, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/review-draws/{id}", "end-review-draw", "Put away what is left of a draw",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.EndDraw(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/review-draws/{id}", "reviews-of-draw", "The chats of a draw",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) ([]Review, error) {
			return room.OfDraw(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/review-results", "review-results", "What reviews add up to, by operator",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]Result, error) {
			return room.Results(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/reviews/{id}", "save-review", "Keep what a lead says of a chat",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body ReviewSaved
		}) (Review, error) {
			return room.Save(ctx, o, in.ID, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/reviews/mine", "my-reviews", "What leads said of my chats",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]Review, error) {
			return room.Mine(ctx, o)
		})
	httpapi.Do(r, http.MethodPost, "/api/reviews/{id}/answer", "answer-review", "Note that I read what was said of a chat of mine",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body struct {
				Words string `json:"words" maxLength:"5000"`
			}
		}) error {
			return room.Answer(ctx, o, in.ID, in.Body.Words)
		})
}
