package app

import (
	"context"

	"stoop/core/chat"
	"stoop/internal/store"
)

// Page is what a page of the site tells about a visit.
type Page struct {
	VisitID   string `json:"visitId" format:"uuid" doc:"Made by the page, kept for one stay"`
	URL       string `json:"url"`
	Title     string `json:"title"`
	Referrer  string `json:"referrer,omitempty"`
	Language  string `json:"language,omitempty"`
	UserAgent string `json:"-"`
	Address   string `json:"-"`
}

// Pulse stores that a page is open now and tells the team when a visitor in a
// chat went to another page.
func (a *App) Pulse(ctx context.Context, w store.Widget, p Page) error {
	v, moved, err := a.store.Pulse(ctx, store.Visit{
		ID: p.VisitID, WidgetID: w.ID, SeenAt: a.now(),
		PageURL: chat.CleanLine(p.URL, 2000), PageTitle: chat.CleanLine(p.Title, 200),
		Referrer: chat.CleanLine(p.Referrer, 2000), Language: chat.CleanLine(p.Language, 35), UserAgent: chat.CleanLine(p.UserAgent, 400),
		Address: p.Address,
	})
	if err != nil {
		return err
	}
	if moved && v.VisitorID != nil {
		return a.tellPlace(ctx, *v.VisitorID, v)
	}
	return nil
}

// Leave stores that the page of a visit was closed.
func (a *App) Leave(ctx context.Context, w store.Widget, visitID string) error {
	return a.store.Leave(ctx, visitID, w.ID, a.now())
}

// Link tells whose visit it is.
func (a *App) Link(ctx context.Context, v VisitorActor, visitID string) error {
	if err := a.store.LinkVisit(ctx, visitID, v.WidgetID, v.ID); err != nil {
		return err
	}
	a.announcePlace(ctx, v.ID)
	return nil
}

func (a *App) announcePlace(ctx context.Context, visitorID string) {
	visits, err := a.store.LatestVisits(ctx, []string{visitorID})
	if err == nil {
		err = a.tellPlace(ctx, visitorID, visits[visitorID])
	}
	if err != nil {
		a.log.Error("a visitor's place could not be told", "visitor", visitorID, "error", err)
	}
}

// tellPlace tells those who may see a visitor's chat where the visitor is: an
// address on a site can say more than where somebody is.
func (a *App) tellPlace(ctx context.Context, visitorID string, v store.Visit) error {
	c, err := a.store.OpenChatOf(ctx, visitorID, "")
	if err != nil {
		return ignoreMissing(err)
	}
	s, err := a.setup(ctx)
	if err != nil {
		return err
	}
	place := PlaceChanged{Type: "place", Place: a.placeView(visitorID, v)}
	a.live.ToLeads(place)
	a.toOperators(s, c.State, place)
	return nil
}
