package hooks

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	type one struct {
		ID string `path:"id"`
	}
	httpapi.Answer(r, http.MethodGet, "/api/webhooks", "webhooks", "The other systems that are told what happens",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]WebhookView, error) {
			return room.All(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/webhooks", "save-webhook", "Make or change a webhook",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[WebhookView]) (WebhookView, error) {
			return room.Save(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/webhooks/{id}", "remove-webhook", "Delete a webhook with its log",
		func(ctx context.Context, o access.Actor, in *one) error { return room.Remove(ctx, o, in.ID) })
	httpapi.Answer(r, http.MethodPost, "/api/webhooks/{id}/secret", "rotate-webhook-secret", "Give a webhook another secret; for a day both hold",
		func(ctx context.Context, o access.Actor, in *one) (WebhookView, error) {
			return room.Rotate(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/webhooks/{id}/resume", "resume-webhook", "Tell a webhook again that was let alone",
		func(ctx context.Context, o access.Actor, in *one) (WebhookView, error) {
			return room.Resume(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/webhooks/{id}/test", "test-webhook", "Tell a webhook something that never happened",
		func(ctx context.Context, o access.Actor, in *one) (DeliveryView, error) {
			return room.Test(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/webhooks/{id}/deliveries", "webhook-deliveries", "What a webhook was or is to be told, the latest first",
		func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Which  string `query:"which" enum:"all,waiting,failed" default:"all"`
			Before int64  `query:"before" minimum:"0" doc:"The seq of the last one that is known"`
		}) ([]DeliveryView, error) {
			return room.Deliveries(ctx, o, in.ID, in.Which, in.Before)
		})
	httpapi.Do(r, http.MethodPost, "/api/webhook-deliveries/{id}/again", "send-webhook-again", "Send something once more",
		func(ctx context.Context, o access.Actor, in *one) error { return room.Again(ctx, o, in.ID) })
}
