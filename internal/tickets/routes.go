package tickets

import (
	"context"
	"net/http"

	"github.com/go-chi/chi/v5"

	"stoop/core/access"
	"stoop/core/ticket"
	"stoop/internal/httpapi"
)

// Routes adds what the console and panels ask of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/tickets", "tickets", "Look for tickets",
		func(ctx context.Context, o access.Actor, in *struct {
			Asked
			Skip int `query:"skip" minimum:"0" maximum:"10000" doc:"How many stand before the page"`
		}) (Tickets, error) {
			return room.List(ctx, o, in.Asked, in.Skip)
		})
	httpapi.Answer(r, http.MethodPost, "/api/tickets", "make-ticket", "Make a ticket, from a chat or from none",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[TicketMaking]) (TicketView, error) {
			return room.Make(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/tickets/due", "tickets-due", "What is due for me before the day ends",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (TicketsDue, error) {
			return room.Due(ctx, o)
		})
	httpapi.Answer(r, http.MethodGet, "/api/tickets/draft", "ticket-draft", "What a ticket could be made of",
		func(ctx context.Context, o access.Actor, in *struct {
			Chat       string `query:"chat" doc:"Id"`
			Message    int64  `query:"message" minimum:"0"`
			Department string `query:"department" doc:"Id, to see when it would be due there"`
		}) (TicketDraft, error) {
			return room.Draft(ctx, o, in.Chat, in.Message, in.Department)
		})
	httpapi.Answer(r, http.MethodGet, "/api/tickets/report", "ticket-report", "What tickets add up to",
		func(ctx context.Context, o access.Actor, in *struct {
			From       string `query:"from" required:"true" maxLength:"10" doc:"A day, like 2026-03-31"`
			To         string `query:"to" required:"true" maxLength:"10"`
			Department string `query:"department" doc:"Id"`
		}) (TicketReport, error) {
			return room.Report(ctx, o, in.From, in.To, in.Department)
		})
	r.Team.Get("/api/tickets/report/file", func(w http.ResponseWriter, q *http.Request) { room.serveReport(r, w, q) })
	httpapi.Answer(r, http.MethodPost, "/api/tickets/many", "change-tickets", "Change many tickets, each by itself",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[TicketBulk]) (TicketBulkDone, error) {
			return room.SetMany(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/tickets/number/{number}", "ticket-by-number", "A ticket by its number",
		func(ctx context.Context, o access.Actor, in *struct {
			Number int64 `path:"number" minimum:"1"`
		}) (TicketView, error) {
			return room.ShowNumber(ctx, o, in.Number)
		})
	httpapi.Answer(r, http.MethodPatch, "/api/tickets/{id}", "change-ticket", "Change what stands on a ticket",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body ticket.Change
		}) (TicketView, error) {
			return room.Set(ctx, o, in.ID, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/tickets/{id}/words", "answer-ticket", "Answer the customer",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body struct {
				httpapi.Message
				Then string `json:"then,omitempty" enum:"open,us,customer,done" doc:"What the ticket waits for afterwards, if not for the customer"`
			}
		}) (TicketView, error) {
			return room.Say(ctx, o, in.ID, in.Body.ClientID, in.Body.Text, in.Body.Then)
		})
	httpapi.Answer(r, http.MethodPost, "/api/tickets/{id}/notes", "note-ticket", "Note something for the team",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body httpapi.Message
		}) (TicketView, error) {
			return room.Note(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		})
	httpapi.Answer(r, http.MethodPost, "/api/tickets/{id}/calls", "call-made", "Put down how a call went",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body CallTold
		}) (TicketView, error) {
			return room.Called(ctx, o, in.ID, in.Body)
		})
	httpapi.Do(r, http.MethodPost, "/api/tickets/{id}/ring", "ring-customer", "Let the telephone system ring the customer",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error { return room.Ring(ctx, o, in.ID) })
	httpapi.Answer(r, http.MethodPost, "/api/tickets/{id}/merge", "merge-ticket", "Let a ticket go on in another one",
		func(ctx context.Context, o access.Actor, in *struct {
			httpapi.IDPath
			Body struct {
				Into string `json:"into" format:"uuid"`
			}
		}) (TicketView, error) {
			return room.Merge(ctx, o, in.ID, in.Body.Into)
		})
	type ofChat struct {
		httpapi.IDPath
		Chat string `path:"chat" format:"uuid"`
	}
	httpapi.Answer(r, http.MethodGet, "/api/tickets/{id}/chats/{chat}", "ticket-chat", "A chat that belongs to a ticket",
		func(ctx context.Context, o access.Actor, in *ofChat) (TicketScript, error) {
			return room.Script(ctx, o, in.ID, in.Chat)
		})
	httpapi.Answer(r, http.MethodPut, "/api/tickets/{id}/chats/{chat}", "link-chat", "Say that a chat belongs to a ticket",
		func(ctx context.Context, o access.Actor, in *ofChat) (TicketView, error) {
			return room.Link(ctx, o, in.ID, in.Chat, true)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/tickets/{id}/chats/{chat}", "unlink-chat", "Say that a chat does not belong to a ticket",
		func(ctx context.Context, o access.Actor, in *ofChat) (TicketView, error) {
			return room.Link(ctx, o, in.ID, in.Chat, false)
		})
	room.panelRoutes(r)
}

// OwnAsked is what a panel sends for a visitor about their tickets.
type OwnAsked struct {
	Token    string `json:"token"`
	ClientID string `json:"clientId,omitempty"`
	Text     string `json:"text,omitempty"`
}

func (room *Room) panelRoutes(r *httpapi.Routes) {
	on := func(path string, answer func(ctx context.Context, v access.Visitor, id string, in OwnAsked) (any, error)) {
		r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/"+path, func(w http.ResponseWriter, q *http.Request) {
			var in OwnAsked
			if !httpapi.ReadJSON(w, q, &in) {
				return
			}
			v, err := r.VisitorIn(q, room.Settings, in.Token, room.People)
			var out any
			if err == nil {
				out, err = answer(q.Context(), v, chi.URLParam(q, "id"), in)
			}
			r.Write(w, q, out, err)
		})
	}
	on("tickets/{id}/call-off", func(ctx context.Context, v access.Visitor, id string, _ OwnAsked) (any, error) {
		return room.CallOff(ctx, v, id)
	})
	on("call-times", func(ctx context.Context, v access.Visitor, _ string, _ OwnAsked) (any, error) {
		return room.Times(ctx, v)
	})
	r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/calls", func(w http.ResponseWriter, q *http.Request) {
		var in CallWish
		if !httpapi.ReadJSON(w, q, &in) {
			return
		}
		v, err := r.VisitorIn(q, room.Settings, in.Token, room.People)
		var out any
		if err == nil {
			out, err = room.Wish(q.Context(), v, in)
		}
		r.Write(w, q, out, err)
	})
	on("tickets", func(ctx context.Context, v access.Visitor, _ string, _ OwnAsked) (any, error) {
		return room.Own(ctx, v)
	})
	on("tickets/{id}/answer", func(ctx context.Context, v access.Visitor, id string, in OwnAsked) (any, error) {
		return room.OwnAnswer(ctx, v, id, in.ClientID, in.Text)
	})
}
