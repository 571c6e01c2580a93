package outside

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console and panels ask of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/record", "record", "What the system outside says of the person behind a chat",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (RecordView, error) {
			return room.RecordOf(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/record", "add-record", "Add the person behind a chat as a customer",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (RecordView, error) {
			return room.AddRecord(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/contacts/{id}/record", "contact-record", "What the system outside says of a contact",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) (RecordView, error) {
			return room.RecordWith(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/cards", "cards", "Find what can be sent as a card",
		func(ctx context.Context, _ access.Actor, in *struct {
			Words string `query:"words" maxLength:"200"`
		}) ([]view.CardView, error) {
			cards, err := room.Cards(ctx, in.Words)
			list := make([]view.CardView, len(cards))
			for i, c := range cards {
				list[i] = *view.Card(c)
			}
			return list, err
		})
	r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/lookup", func(w http.ResponseWriter, q *http.Request) {
		var in Looking
		if !httpapi.ReadJSON(w, q, &in) {
			return
		}
		card, err := room.look(r, q, in)
		r.Write(w, q, card, err)
	})
}

// Looking is how a visitor asks for a booking of theirs.
type Looking struct {
	Token  string `json:"token"`
	Number string `json:"number"`
	Name   string `json:"name"`
}

func (room *Room) look(r *httpapi.Routes, q *http.Request, in Looking) (*view.CardView, error) {
	v, err := r.VisitorIn(q, room.Settings, in.Token, room.People)
	if err != nil {
		return nil, err
	}
	c, err := room.Lookup(q.Context(), v.ID, httpapi.AddressOf(q), in.Number, in.Name)
	if err != nil {
		return nil, err
	}
	return view.Card(c), nil
}
