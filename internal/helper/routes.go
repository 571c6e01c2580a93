package helper

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/core/flow"
	"stoop/internal/httpapi"
	"stoop/internal/live"
	"stoop/internal/view"
)

// PersonCall names the chat in which a visitor asks for a person.
type PersonCall struct {
	ChatID string `json:"chatId"`
}

// Calls adds what is asked of this room over the live connection.
func (room *Room) Calls(c *live.Calls) {
	live.OnVisitorWriting(c, "person", func(ctx context.Context, v access.Visitor, in PersonCall) (any, error) {
		return nil, room.PersonAsked(ctx, v, in.ChatID)
	})
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/helper/pause", "pause-helper", "Make the helper silent in a chat; the chat waits for a person",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.Pause(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/helper", "give-to-helper", "Give a chat of mine back to the helper",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.GiveBack(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/flows", "flows", "The helper's flows",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]FlowView, error) {
			return room.Flows(ctx, o)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/flows", "add-flow", "Make a flow",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[flow.Flow]) (FlowView, error) {
			return room.AddFlow(ctx, o, in.Body)
		})
	type edited struct {
		ID   string `path:"id"`
		Body FlowEdited
	}
	httpapi.Answer(r, http.MethodPut, "/api/setup/flows/{id}", "save-flow", "Keep what is being worked on of a flow",
		func(ctx context.Context, o access.Actor, in *edited) (FlowView, error) {
			return room.SaveFlow(ctx, o, in.ID, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/flows/{id}/publish", "publish-flow", "Let a flow answer as it stands",
		func(ctx context.Context, o access.Actor, in *edited) (FlowView, error) {
			return room.PublishFlow(ctx, o, in.ID, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/flows/{id}/restore", "restore-flow", "Put a former version of a flow back",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Version      int64 `json:"version" doc:"That is put back"`
				DraftVersion int64 `json:"draftVersion"`
			}
		}) (FlowView, error) {
			return room.RestoreFlow(ctx, o, in.ID, in.Body.Version, in.Body.DraftVersion)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/flows/{id}", "remove-flow", "Delete a flow that answers nowhere",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveFlow(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/flows/{id}/history", "flow-history", "The versions of a flow that answered",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) ([]FlowPast, error) {
			return room.FlowHistory(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/flows/look", "look-at-flow", "What is wrong with a flow, and how it is drawn",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[flow.Flow]) (FlowLook, error) {
			return room.LookAt(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/flows/try", "try-flow", "Take a turn of a flow with a simulated visitor",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[FlowTrial]) (FlowTurn, error) {
			return room.Try(ctx, o, in.Body)
		})
}
