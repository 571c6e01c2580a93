package site

import (
	"net/http"

	"github.com/google/uuid"

	"stoop/internal/httpapi"
	"stoop/internal/problem"
)

// Routes adds what a watched site's pages ask. Their requests come from the
// site's own origin and carry no cookie.
func (room *Room) Routes(r *httpapi.Routes) {
	r.Site.Options("/widget/{key}/pulse", func(w http.ResponseWriter, q *http.Request) {
		if _, ok := r.SiteWidget(w, q); ok {
			w.Header().Set("Access-Control-Allow-Methods", "POST")
			w.Header().Set("Access-Control-Allow-Headers", "Content-Type")
			w.Header().Set("Access-Control-Max-Age", "86400")
			w.WriteHeader(http.StatusNoContent)
		}
	})
	r.Site.Post("/widget/{key}/pulse", func(w http.ResponseWriter, q *http.Request) { room.pulse(r, w, q) })
	r.Site.Post("/widget/{key}/leave", func(w http.ResponseWriter, q *http.Request) { room.leave(r, w, q) })
}

// pulse takes note of an open page and answers with the widget as it is now.
func (room *Room) pulse(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	widget, ok := r.SiteWidget(w, q)
	if !ok {
		return
	}
	page, ok := readPage(w, q)
	if !ok {
		return
	}
	page.UserAgent, page.Address = q.UserAgent(), httpapi.AddressOf(q)
	err := room.People.MayEnter(q.Context(), "", page.Address)
	if err == nil {
		err = room.Pulse(q.Context(), widget, page)
	}
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	view, err := room.Floor.WidgetView(q.Context(), widget)
	r.Write(w, q, view, err)
}

// leave takes note of a closed page. Browsers send it while the page goes
// away, so nobody reads the answer.
func (room *Room) leave(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	widget, ok := r.SiteWidget(w, q)
	if !ok {
		return
	}
	page, ok := readPage(w, q)
	if !ok {
		return
	}
	if err := room.Leave(q.Context(), widget, page.VisitID); err != nil {
		r.Fail(w, q, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// readPage reads what a page tells. The content type is not asked for: a page
// that is going away can only send text.
func readPage(w http.ResponseWriter, q *http.Request) (Page, bool) {
	var page Page
	if !httpapi.ReadJSON(w, q, &page) {
		return page, false
	}
	if uuid.Validate(page.VisitID) != nil {
		httpapi.WriteProblem(w, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must be a JSON object with a visitId (a UUID)."))
		return page, false
	}
	return page, true
}
