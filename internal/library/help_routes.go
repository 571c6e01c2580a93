package library

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"stoop/internal/httpapi"
)

// Asking is what a panel sends for a visitor who looks for an answer.
type Asking struct {
	Token    string `json:"token"`
	Language string `json:"language" doc:"That the panel speaks"`
	Page     string `json:"page" doc:"Address of the page around"`
	Words    string `json:"words"`
	Helped   bool   `json:"helped"`
}

// helpRoutes adds what panels ask.
func (room *Room) helpRoutes(r *httpapi.Routes) {
	on := func(path string, answer func(q *http.Request, who Reader, in Asking) (any, error)) {
		r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/"+path, func(w http.ResponseWriter, q *http.Request) {
			var in Asking
			if !httpapi.ReadJSON(w, q, &in) {
				return
			}
			who, err := room.readerOf(r, q, in)
			var out any
			if err == nil {
				out, err = answer(q, who, in)
			}
			r.Write(w, q, out, err)
		})
	}
	on("help", func(q *http.Request, who Reader, in Asking) (any, error) {
		return room.HelpOn(q.Context(), who, in.Page)
	})
	on("articles", func(q *http.Request, who Reader, in Asking) (any, error) {
		return room.Find(q.Context(), who, in.Words)
	})
	on("articles/{id}", func(q *http.Request, who Reader, _ Asking) (any, error) {
		return room.Read(q.Context(), who, chi.URLParam(q, "id"))
	})
	on("articles/{id}/helped", func(q *http.Request, who Reader, in Asking) (any, error) {
		return struct{}{}, room.Helped(q.Context(), who, chi.URLParam(q, "id"), in.Helped)
	})
}

func (room *Room) readerOf(r *httpapi.Routes, q *http.Request, in Asking) (Reader, error) {
	v, err := r.VisitorIn(q, room.Settings, in.Token, room.People)
	if err != nil {
		return Reader{}, err
	}
	w, err := room.Settings.WidgetByKey(q.Context(), chi.URLParam(q, "key"))
	return Reader{Visitor: v, Address: httpapi.AddressOf(q), Widget: w.Design, Language: in.Language}, err
}
