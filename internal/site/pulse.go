package site

import (
	"context"
	"errors"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// PlaceChanged: a visitor went to another page, came or left.
type PlaceChanged struct {
	Type  string         `json:"type" enum:"place"`
	Place view.PlaceView `json:"place"`
}

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
func (room *Room) Pulse(ctx context.Context, w settings.Widget, p Page) error {
	v, moved, err := room.Visits.Pulse(ctx, visits.Visit{
		ID: p.VisitID, WidgetID: w.ID, SeenAt: room.Now(),
		PageURL: chat.CleanLine(p.URL, 2000), PageTitle: chat.CleanLine(p.Title, 200),
		Referrer: chat.CleanLine(p.Referrer, 2000), Language: chat.CleanLine(p.Language, 35), UserAgent: chat.CleanLine(p.UserAgent, 400),
		Address: p.Address,
	})
	if err != nil {
		return err
	}
	if moved && v.VisitorID != nil {
		return room.tellPlace(ctx, *v.VisitorID, v)
	}
	return nil
}

// Leave stores that the page of a visit was closed.
func (room *Room) Leave(ctx context.Context, w settings.Widget, visitID string) error {
	return room.Visits.Leave(ctx, visitID, w.ID, room.Now())
}

// Link tells whose visit it is.
func (room *Room) Link(ctx context.Context, visitID, widgetID, visitorID string) error {
	if err := room.Visits.LinkVisit(ctx, visitID, widgetID, visitorID); err != nil {
		return err
	}
	room.AnnouncePlace(ctx, visitorID)
	return nil
}

// AnnouncePlace tells those who see a visitor's chat where the visitor is.
func (room *Room) AnnouncePlace(ctx context.Context, visitorID string) {
	c, err := room.Chats.OpenChatOf(ctx, visitorID, "")
	if errors.Is(err, store.ErrNotFound) {
		return // nobody sees them yet
	}
	var known visits.Known
	if err == nil {
		known, err = room.Visits.KnownOf(ctx, visitorID)
	}
	if err != nil {
		room.Log.Error("a visitor's place could not be told", "visitor", visitorID, "error", err)
		return
	}
	room.TellPlace(ctx, c, known.Latest)
}

func (room *Room) tellPlace(ctx context.Context, visitorID string, v visits.Visit) error {
	c, err := room.Chats.OpenChatOf(ctx, visitorID, "")
	if err == nil {
		room.TellPlace(ctx, c, v)
	}
	return store.IgnoreMissing(err)
}

// TellPlace tells those who may see a chat where its visitor is: an
// address on a site can say more than where somebody is.
func (room *Room) TellPlace(ctx context.Context, c chatlog.Chat, v visits.Visit) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		room.Log.Error("a visitor's place could not be told", "visitor", c.VisitorID, "error", err)
		return
	}
	place := PlaceChanged{Type: "place", Place: room.View.Place(c.VisitorID, v)}
	room.Live.ToLeads(place)
	room.Live.ToAudience(s.AudienceOf(c.State), place)
}
