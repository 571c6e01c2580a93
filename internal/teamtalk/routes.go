package teamtalk

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
)

// Routes adds what the console asks of this room.
func (t *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/rooms", "rooms", "My rooms of the team talk",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]RoomView, error) {
			return t.Rooms(ctx, o)
		})
	type room struct {
		Body struct {
			Name    string   `json:"name,omitempty" maxLength:"200" doc:"Empty with one other person"`
			Members []string `json:"members" doc:"Ids; none: everybody"`
		}
	}
	httpapi.Answer(r, http.MethodPost, "/api/rooms", "make-room", "Open a room",
		func(ctx context.Context, o access.Actor, in *room) (RoomView, error) {
			return t.MakeRoom(ctx, o, in.Body.Name, in.Body.Members)
		})
	httpapi.Do(r, http.MethodDelete, "/api/rooms/{id}/me", "leave-room", "Leave a room",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return t.LeaveRoom(ctx, o, in.ID)
		})
	type talkBefore struct {
		ID     string `path:"id" format:"uuid"`
		Before int64  `query:"before" minimum:"0" doc:"Messages before this id; 0 for the newest"`
	}
	httpapi.Answer(r, http.MethodGet, "/api/rooms/{id}/messages", "talk-in", "Messages of a room",
		func(ctx context.Context, o access.Actor, in *talkBefore) ([]TalkView, error) {
			return t.TalkIn(ctx, o, in.ID, in.Before)
		})
	type talk struct {
		ID   string `path:"id" format:"uuid"`
		Body httpapi.Message
	}
	httpapi.Answer(r, http.MethodPost, "/api/rooms/{id}/messages", "talk", "Write in a room",
		func(ctx context.Context, o access.Actor, in *talk) (TalkView, error) {
			return t.Talk(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		})
	type seen struct {
		ID   string `path:"id" format:"uuid"`
		Body struct {
			UpTo int64 `json:"upTo" minimum:"0"`
		}
	}
	httpapi.Do(r, http.MethodPut, "/api/rooms/{id}/seen", "see-talk", "Note how far I have read a room",
		func(ctx context.Context, o access.Actor, in *seen) error {
			return t.SeeTalk(ctx, o, in.ID, in.Body.UpTo)
		})
}
