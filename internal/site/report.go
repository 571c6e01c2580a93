package site

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/visit"
	"stoop/internal/chatlog"
	"stoop/internal/places"
	"stoop/internal/setup/settings"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// PlaceChanged: a visitor went to another page, came or left.
type PlaceChanged struct {
	Type  string         `json:"type" enum:"place"`
	Place view.PlaceView `json:"place"`
}

// Page is what a page of the site tells about itself. It tells durations and never
// times: browsers' clocks are wrong.
type Page struct {
	Tab      string `json:"tab" format:"uuid" doc:"Made by the page, for as long as it is loaded"`
	Token    string `json:"token,omitempty" doc:"Proves who the visitor is; missing the first time"`
	URL      string `json:"url"`
	Title    string `json:"title"`
	Referrer string `json:"referrer,omitempty"`
	Language string `json:"language,omitempty"`
	Speaks   string `json:"speaks,omitempty" doc:"Languages in which the chat may speak here, with commas between them: the page's, then the browser's"`
	Attended int64  `json:"attended,omitempty" doc:"Milliseconds that the page was in view and something was moved"`
	Left     int64  `json:"left,omitempty" doc:"The same of the page before, when this one took its place without being loaded"`
	Idle     bool   `json:"idle,omitempty" doc:"Out of view, or nothing was moved for a minute"`
	Form     bool   `json:"form,omitempty" doc:"The last thing that was done was in a form"`
	Consent  bool   `json:"consent,omitempty" doc:"The visitor agreed to be seen"`

	userAgent, address string
	refuses            bool // sends a signal that they do not want to be tracked
}

// Answer is what a page is told.
type Answer struct {
	view.WidgetView
	Token      string          `json:"token,omitempty" doc:"For the visitor whom the page brought"`
	Hidden     bool            `json:"hidden" doc:"The chat is not shown on this page"`
	Invitation *InvitationView `json:"invitation,omitempty"`

	Consent string `json:"consent,omitempty" doc:"What the visitor is to be asked before anything is collected"`
}

// signals reads what a browser says of tracking: Do Not Track (W3C Tracking
// Preference Expression) and Global Privacy Control (Sec-GPC).
func signals(h http.Header, p settings.Privacy) bool {
	return p.DoNotTrack && h.Get("DNT") == "1" || p.GlobalPrivacyControl && h.Get("Sec-GPC") == "1"
}

// report takes note of an open page, unless nothing may be collected of whoever
// looks at it. It returns the visitor, with whether nobody had this id before.
func (room *Room) report(ctx context.Context, s *settings.Settings, w settings.Widget, v access.Visitor, p Page) (visitor access.Visitor, isNew bool) {
	privacy := s.Site.Privacy
	if privacy.CollectNothing || p.refuses || privacy.AskConsent && !p.Consent {
		return v, false
	}
	device := visit.DeviceOf(p.userAgent)
	if device.Kind == visit.Bot {
		return v, false // robots are nobody
	}
	if isNew = v.ID == ""; isNew {
		v = access.Visitor{ID: uuid.NewString(), WidgetID: w.ID}
	}
	now := room.Now()
	place := room.Places.Of(p.address)
	address := p.address
	if privacy.ShortenAddress {
		address = places.Shortened(address)
	}
	url, referrer := visit.CleanURL(chat.CleanLine(p.URL, 2000), privacy.QueryParameters), chat.CleanLine(p.Referrer, 2000)
	guest, moved := room.Guests.Report(s.Site.Rules(room.Zone), guests.Report{
		Report: visit.Report{
			Tab: p.Tab, URL: url, Title: chat.CleanLine(p.Title, 200), Source: visit.SourceOf(p.URL, referrer, hostsOf(w)...),
			Attended: milliseconds(p.Attended), Left: milliseconds(p.Left), Idle: p.Idle, At: now,
		},
		VisitorID: v.ID, WidgetID: w.ID, New: isNew, Form: p.Form, Referrer: visit.CleanURL(referrer, nil), Place: place,
		UserAgent: chat.CleanLine(p.userAgent, 400), Language: chat.CleanLine(p.Language, 35), Address: address,
	})
	if moved && guest != nil && guest.Chat != nil {
		if err := room.tellPlace(ctx, v.ID, guest.Visit); err != nil {
			room.Log.Error("a visitor's place could not be told", "visitor", v.ID, "error", err)
		}
	}
	return v, isNew
}

// milliseconds reads a duration that a page tells, of a day at most.
func milliseconds(told int64) time.Duration {
	return time.Duration(min(max(told, 0), (24*time.Hour).Milliseconds())) * time.Millisecond
}

// hostsOf returns the hosts of a widget's own sites.
func hostsOf(w settings.Widget) []string {
	hosts := make([]string, 0, len(w.Sites))
	for _, s := range w.Sites {
		if u, err := url.Parse(s); err == nil {
			hosts = append(hosts, u.Hostname())
		}
	}
	return hosts
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

// seenFirst notes that a real page carries a widget, for the admin who waits for it.
func (room *Room) seenFirst(ctx context.Context, w settings.Widget) {
	if err := room.Settings.Tables.SeenFirst(ctx, w.ID, room.Now()); err != nil {
		room.Log.Error("that a widget was seen for the first time was not noted; its next page does", "widget", w.Key, "error", err)
	}
}
