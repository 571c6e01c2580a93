package along

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/live"
	"stoop/internal/problem"
	"stoop/internal/view"
)

var errLargePart = problem.New(http.StatusRequestEntityTooLarge, "large-part", "This part of the page is too large", "Send it in smaller ones.")

var errManyParts = problem.New(http.StatusTooManyRequests, "many-parts", "The page changes too fast to be shown", "It is shown less often.")

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/along", "look-along", "Ask the visitor whether I may see their page",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.Ask(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/chats/{id}/along/{number}", "end-along", "Look along no longer",
		func(ctx context.Context, o access.Actor, in *httpapi.EventPath) (view.ChatView, error) {
			return room.End(ctx, o, in.ID, in.Number)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/along/{number}", "along-parts", "What was kept of looking along, part by part",
		func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Number int64  `path:"number" minimum:"1"`
			After  int    `query:"after" minimum:"0"`
		}) ([]KeptPart, error) {
			return room.KeptParts(ctx, o, in.ID, in.Number, in.After)
		})
}

// Calls adds what is asked of this room over the live connection.
func (room *Room) Calls(c *live.Calls) {
	live.OnVisitorWriting(c, "answer-along", func(ctx context.Context, v access.Visitor, in AnswerCall) (any, error) {
		return nil, room.Answer(ctx, v, in)
	})
	live.OnVisitor(c, "along", func(ctx context.Context, v access.Visitor, in PartCall) (any, error) {
		return nil, room.Part(ctx, v, in)
	})
	live.OnOperator(c, "along", func(ctx context.Context, o access.Actor, in WishCall) (any, error) {
		return nil, room.Wish(ctx, o, in)
	})
}
