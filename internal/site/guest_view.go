package site

import (
	"hash/fnv"
	"strings"
	"time"

	"stoop/core/invite"
	"stoop/core/routing"
	"stoop/core/visit"
	"stoop/internal/places"
	"stoop/internal/setup/settings"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
)

// State is what somebody on a site is doing, as the team sees it.
type State string

// The states. Who is served is waiting or in a chat.
const (
	Browsing State = "browsing"
	Idle     State = "idle"
	Invited  State = "invited"
	Waits    State = "waiting"
	InChat   State = "chat"
	Message  State = "message" // left one, and it is not answered yet
	Gone     State = "gone"    // left a moment ago, and is shown because somebody points at the list
)

// GuestView is somebody on a site, as a row.
type GuestView struct {
	ID         string         `json:"id"`
	Number     int            `json:"number" doc:"By which the team speaks of somebody without a name"`
	Name       string         `json:"name,omitempty"`
	Email      string         `json:"email,omitempty"`
	ContactID  string         `json:"contactId,omitempty"`
	Place      places.Place   `json:"place"`
	PageURL    string         `json:"pageUrl"`
	PageTitle  string         `json:"pageTitle"`
	PageSince  time.Time      `json:"pageSince"`
	Pages      int            `json:"pages"`
	Tabs       int            `json:"tabs"`
	StartedAt  time.Time      `json:"startedAt"`
	Source     visit.Source   `json:"source"`
	Device     visit.Device   `json:"device"`
	Language   string         `json:"language"`
	Visits     int            `json:"visits" doc:"With this one"`
	Chats      int            `json:"chats" doc:"That they had before"`
	Score      int            `json:"score"`
	Topics     []string       `json:"topics"`
	Reasons    []visit.Reason `json:"reasons" doc:"What the score is made of"`
	Basket     *visits.Basket `json:"basket,omitempty"`
	State      State          `json:"state" enum:"browsing,idle,invited,waiting,chat,message,gone"`
	StateSince time.Time      `json:"stateSince"`
	ChatID     string         `json:"chatId,omitempty"`
	OwnerID    string         `json:"ownerId,omitempty"`
	OwnerName  string         `json:"ownerName,omitempty"`
	Department string         `json:"department,omitempty" doc:"Of their chat, or to which one would go"`
	WidgetKey  string         `json:"widget,omitempty"`
	Data       []FieldSeen    `json:"data,omitempty" doc:"What the site said, as far as the team sees it"`

	facts      routing.Facts
	history    invite.History
	invitation *visits.Invitation
	formSince  *time.Time // they have done nothing since, in a form which they began
	tabs       []string   // in which they could read an invitation, the one in view first
	own        bool       // their pages talk to this server
	widgetID   string
	visitID    string
	to         string // department to which a chat would go
}

// FieldSeen is something that the site said of a visitor.
type FieldSeen struct {
	Label   string `json:"label"`
	Value   string `json:"value"`
	Vouched bool   `json:"vouched" doc:"Signed by the site; else anybody could have said it"`
}

// numberOf gives somebody without a name a number that stays the same.
func numberOf(visitorID string) int {
	h := fnv.New32a()
	_, _ = h.Write([]byte(visitorID)) // never fails
	return 1000 + int(h.Sum32()%9000)
}

// guestView returns somebody as a row.
func (room *Room) guestView(s *settings.Settings, g *guests.Guest, now time.Time) *GuestView {
	v := g.Visit
	known := visits.Known{Latest: v, Visits: g.Earlier + 1}
	facts := known.Facts(s.Site.Interest, now)
	interest := known.Interest(s.Site.Interest)
	row := &GuestView{
		ID: v.VisitorID, Number: numberOf(v.VisitorID), Name: g.Person.Name, Email: g.Person.Email, ContactID: g.Person.ContactID, Place: v.Place,
		PageURL: v.PageURL, PageTitle: v.PageTitle, PageSince: v.PageSince, Pages: v.Stay.Pages, Tabs: len(v.Stay.Tabs), StartedAt: v.StartedAt,
		Source: v.Stay.Source, Device: g.Device, Language: v.Language, Visits: g.Earlier + 1, Chats: g.Person.Chats,
		Score: interest.Score, Topics: interest.Topics, Reasons: interest.Reasons, Basket: v.Basket, State: Browsing, StateSince: v.StartedAt,
	}
	widget := s.Widgets[v.WidgetID]
	row.WidgetKey, row.widgetID, row.visitID, row.facts, row.history, row.invitation = widget.Key, v.WidgetID, v.ID, facts, g.History(), v.Invited
	row.own, row.tabs, row.Data = g.Own, tabsOf(v.Stay), fieldsSeen(s, v.Data)
	if since, idle := v.Stay.Idle(); idle {
		row.State, row.StateSince = Idle, since
		if g.Form {
			row.formSince = &since
		}
	}
	if c := g.Chat; c != nil {
		row.ChatID, row.StateSince, row.OwnerID = c.ID, c.Since, c.OwnerID
		row.Department = s.Departments[c.Department].Name
		switch {
		case c.Message:
			row.State = Message
		case c.OwnerID == "":
			row.State = Waits
		default:
			row.State, row.OwnerName = InChat, s.Operators[c.OwnerID].Name
		}
		return row
	}
	if i := v.Invited; i != nil {
		row.State, row.StateSince, row.OwnerID, row.OwnerName = Invited, i.At, i.OperatorID, s.Operators[i.OperatorID].Name
	}
	row.to = room.Floor.Destination(s, widget, facts)
	row.Department = s.Departments[row.to].Name
	return row
}

// tabsOf returns the open pages, the one that is looked at first.
func tabsOf(stay visit.Stay) []string {
	first := stay.Now().Tab
	var tabs []string
	for tab := range stay.Tabs {
		if tab == first {
			tabs = append([]string{tab}, tabs...)
		} else {
			tabs = append(tabs, tab)
		}
	}
	return tabs
}

// fieldsSeen returns what the site said of somebody, as the admin wants it seen.
func fieldsSeen(s *settings.Settings, d visits.Data) (seen []FieldSeen) {
	for _, f := range s.SiteData.Fields {
		if value, said := d.Vouched[f.Name]; said {
			seen = append(seen, FieldSeen{f.Label, value, true})
		} else if value, said := d.Claimed[f.Name]; said {
			seen = append(seen, FieldSeen{f.Label, value, false})
		}
	}
	return seen
}

// firstName returns the first word of a name.
func firstName(name string) string {
	first, _, _ := strings.Cut(name, " ")
	return first
}
