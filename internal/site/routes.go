package site

import (
	"net/http"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/visit"
	"stoop/internal/httpapi"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// Routes adds what a watched site's pages ask, and what the console asks of it.
// Pages' requests come from the site's own origin and carry no cookie.
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
	r.Site.Post("/widget/{key}/invitation", func(w http.ResponseWriter, q *http.Request) {
		var in struct {
			Token  string `json:"token"`
			ID     string `json:"id"`
			Answer string `json:"answer"`
		}
		if v, ok := room.fromPage(r, w, q, &in, func() string { return in.Token }); ok {
			room.done(r, w, q, room.answered(q.Context(), v, in.ID, in.Answer))
		}
	})
	r.Site.Post("/widget/{key}/data", func(w http.ResponseWriter, q *http.Request) {
		var in SaidOfVisitor
		if v, ok := room.fromPage(r, w, q, &in, func() string { return in.Token }); ok {
			room.done(r, w, q, room.said(q.Context(), v, in))
		}
	})
	room.consoleRoutes(r)
}

// fromPage reads what a page's script sends, and whose page it is; a refusal it has
// answered already.
func (room *Room) fromPage(r *httpapi.Routes, w http.ResponseWriter, q *http.Request, into any, token func() string) (access.Visitor, bool) {
	widget, ok := r.SiteWidget(w, q)
	if !ok || !httpapi.ReadJSON(w, q, into) {
		return access.Visitor{}, false
	}
	v := visitorOf(r, widget, token())
	if v.ID == "" {
		httpapi.WriteProblem(w, problem.New(http.StatusUnauthorized, "no-visitor", "It is not known whose page this is", "Nothing is collected of this visitor, or the page has not been reported yet."))
		return v, false
	}
	if err := room.People.MayEnter(q.Context(), v.ID, httpapi.AddressOf(q)); err != nil {
		r.Fail(w, q, err)
		return v, false
	}
	return v, true
}

// done answers that something was done, or why not.
func (room *Room) done(r *httpapi.Routes, w http.ResponseWriter, q *http.Request, err error) {
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
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
	answer, err := room.pulsed(r, q, widget, page)
	r.Write(w, q, answer, err)
}

func (room *Room) pulsed(r *httpapi.Routes, q *http.Request, widget settings.Widget, page Page) (answer Answer, err error) {
	ctx := q.Context()
	page.userAgent, page.address = q.UserAgent(), httpapi.AddressOf(q)
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return answer, err
	}
	page.refuses = signals(q.Header, s.Site.Privacy)
	visitor := visitorOf(r, widget, page.Token)
	if err := room.People.MayEnter(ctx, visitor.ID, page.address); err != nil {
		return answer, err
	}
	if answer.WidgetView, err = room.Floor.WidgetView(ctx, widget, strings.SplitN(page.Speaks, ",", 20)...); err != nil {
		return answer, err
	}
	answer.Hidden = widget.Off || !widget.Shows(page.URL)
	if widget.Off {
		return answer, nil
	}
	if s.Site.Privacy.AskConsent && !page.Consent && !page.refuses && !s.Site.Privacy.CollectNothing {
		answer.Consent = s.Site.Privacy.ConsentText
	}
	if widget.FirstSeen == nil && visit.DeviceOf(page.userAgent).Kind != visit.Bot {
		room.seenFirst(ctx, widget)
	}
	visitor, isNew := room.report(ctx, s, widget, visitor, page)
	answer.Invitation = invitationView(s, room.Guests.Standing(visitor.ID, page.Tab))
	if isNew {
		answer.Token, err = r.TokenFor(visitor)
	}
	return answer, err
}

// visitorOf returns whom a token of a page names; nobody if it is of no use.
func visitorOf(r *httpapi.Routes, w settings.Widget, token string) access.Visitor {
	if token == "" {
		return access.Visitor{}
	}
	v, err := r.Visitor(token)
	if err != nil || v.WidgetID != w.ID || uuid.Validate(v.ID) != nil {
		return access.Visitor{}
	}
	return v
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
	if v := visitorOf(r, widget, page.Token); v.ID != "" {
		room.Guests.Leave(v.ID, page.Tab, milliseconds(page.Attended), room.Now())
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
	if uuid.Validate(page.Tab) != nil {
		httpapi.WriteProblem(w, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must be a JSON object with a tab (a UUID)."))
		return page, false
	}
	return page, true
}
