package httpapi

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"stoop/core/access"
	"stoop/internal/app"
)

// handOnOperations are those by which a chat passes between people.
func (s *server) handOnOperations(api huma.API) {
	register(s, api, http.MethodPost, "/api/chats/{id}/pass", "pass", "Let an offer go by, or decline a chat handed on",
		asOperator(s, func(ctx context.Context, o access.Actor, in *chatPath) (*nothing, error) {
			return nil, s.App.Pass(ctx, o, in.ID)
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/hand-on", "hand-on", "Offer a chat to another operator or department",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				OperatorID   string `json:"operatorId,omitempty"`
				DepartmentID string `json:"departmentId,omitempty"`
				Note         string `json:"note,omitempty" maxLength:"1000" doc:"For who takes it; the visitor never sees it"`
			}
		}) (*body[app.ChatView], error) {
			view, err := s.App.HandOn(ctx, o, in.ID, in.Body.OperatorID, in.Body.DepartmentID, in.Body.Note)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/take-back", "take-back", "Withdraw what I have begun to hand on",
		asOperator(s, func(ctx context.Context, o access.Actor, in *chatPath) (*body[app.ChatView], error) {
			view, err := s.App.TakeBack(ctx, o, in.ID)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/put-back", "put-back", "Return a chat to its queue",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Note string `json:"note,omitempty" maxLength:"1000"`
			}
		}) (*body[app.ChatView], error) {
			view, err := s.App.PutBack(ctx, o, in.ID, in.Body.Note)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/wrap-up", "wrap-up", "End the wrap-up of an ended chat",
		asOperator(s, func(ctx context.Context, o access.Actor, in *chatPath) (*nothing, error) {
			return nil, s.App.WrapUp(ctx, o, in.ID)
		}))
	register(s, api, http.MethodPut, "/api/chats/{id}/colleagues/{operator}", "add-colleague", "Let a colleague speak in a chat",
		asOperator(s, func(ctx context.Context, o access.Actor, in *colleaguePath) (*body[app.ChatView], error) {
			view, err := s.App.Add(ctx, o, in.ID, in.Operator)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodDelete, "/api/chats/{id}/colleagues/{operator}", "remove-colleague", "Take a colleague out of a chat, or leave it",
		asOperator(s, func(ctx context.Context, o access.Actor, in *colleaguePath) (*body[app.ChatView], error) {
			view, err := s.App.LeaveChat(ctx, o, in.ID, in.Operator)
			return &body[app.ChatView]{Body: view}, err
		}))
	register(s, api, http.MethodGet, "/api/floor", "floor", "Departments with queue, longest wait and who is there",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[app.FloorView], error) {
			floor, err := s.App.Floor(ctx, o)
			return &body[app.FloorView]{Body: floor}, err
		}))
}

type colleaguePath struct {
	ID       string `path:"id"`
	Operator string `path:"operator" format:"uuid"`
}
