package site

import (
	"context"
	"errors"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/core/visit"
	"stoop/internal/httpapi"
	"stoop/internal/live"
	"stoop/internal/site/visits"
)

// UnlookCall names a look that ends.
type UnlookCall struct {
	ID string `json:"id"`
}

// Calls adds what is asked of this room over the live connection.
func (room *Room) Calls(c *live.Calls) {
	live.OnOperator(c, "look", func(ctx context.Context, o access.Actor, in Look) (any, error) {
		line, ok := live.LineOf(ctx)
		if !ok {
			return nil, errors.New("a look came without a connection")
		}
		return nil, room.Look(ctx, o, line, in)
	})
	live.OnOperator(c, "unlook", func(ctx context.Context, _ access.Actor, in UnlookCall) (any, error) {
		if line, ok := live.LineOf(ctx); ok {
			room.Unlook(line, in.ID)
		}
		return nil, nil
	})
}

// GuestSheet is what is known of a visitor beside what they do now.
type GuestSheet struct {
	Past []PastVisit `json:"past" doc:"Earlier visits, newest first"`
	More bool        `json:"more" doc:"There were visits before those"`
}

// PastVisit is a visit that is over.
type PastVisit struct {
	ID        string         `json:"id"`
	StartedAt time.Time      `json:"startedAt"`
	SeenAt    time.Time      `json:"seenAt"`
	Attended  int64          `json:"attended" doc:"Milliseconds"`
	Pages     int            `json:"pages"`
	Source    visit.Source   `json:"source"`
	Path      []visit.View   `json:"path"`
	Place     string         `json:"place,omitempty"`
	Country   string         `json:"country,omitempty"`
	Basket    *visits.Basket `json:"basket,omitempty"`
}

// pastAtOnce is how many earlier visits are shown.
const pastAtOnce = 20

// Sheet returns what is known of a visitor beside what they do now.
func (room *Room) Sheet(ctx context.Context, visitorID string) (GuestSheet, error) {
	out := GuestSheet{Past: []PastVisit{}}
	now := ""
	if g, here := room.Guests.Guest(visitorID); here {
		now = g.Visit.ID
	}
	list, err := room.Visits.Past(ctx, []string{visitorID}, room.Now().Add(time.Hour), pastAtOnce+2)
	if err != nil {
		return out, err
	}
	for _, v := range list {
		if v.ID == now {
			continue
		}
		if len(out.Past) == pastAtOnce {
			out.More = true
			break
		}
		out.Past = append(out.Past, pastVisit(v))
	}
	return out, nil
}

// PathThen is the visit during which a chat began.
type PathThen struct {
	Visit *PastVisit `json:"visit,omitempty" doc:"Missing when it is not known any more, or never was"`
}

// visitReaches is how long after a visit was heard of last a chat may still belong to it.
const visitReaches = 30 * time.Minute

// PathThen returns on what visit a chat began that somebody may read.
func (room *Room) PathThen(ctx context.Context, o access.Actor, chatID string) (out PathThen, err error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return out, err
	}
	list, err := room.Visits.Past(ctx, []string{c.VisitorID}, c.StartedAt.Add(time.Second), 1)
	if err != nil || len(list) == 0 || list[0].SeenAt.Add(visitReaches).Before(c.StartedAt) {
		return out, err
	}
	past := pastVisit(list[0])
	out.Visit = &past
	return out, nil
}

func pastVisit(v visits.Visit) PastVisit {
	path := v.Stay.Views
	if path == nil {
		path = []visit.View{}
	}
	return PastVisit{
		ID: v.ID, StartedAt: v.StartedAt, SeenAt: v.SeenAt, Attended: v.Stay.Attended().Milliseconds(), Pages: v.Stay.Pages,
		Source: v.Stay.Source, Path: path, Place: v.Place.Name, Country: v.Place.Country, Basket: v.Basket,
	}
}

// consoleRoutes adds what the console asks of this room.
func (room *Room) consoleRoutes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/visitors/{id}", "visitor-sheet", "What is known of a visitor beside what they do now",
		func(ctx context.Context, _ access.Actor, in *httpapi.IDPath) (GuestSheet, error) {
			return room.Sheet(ctx, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/path", "chat-path", "The visit during which a chat began",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (PathThen, error) {
			return room.PathThen(ctx, o, in.ID)
		})
	httpapi.Do(r, http.MethodPost, "/api/visitors/{id}/invitation", "invite", "Invite a visitor to a chat, in my own name",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id" format:"uuid"`
			Body InviteOrder
		}) error {
			return room.InviteByHand(ctx, o, in.ID, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/visitors/{id}/invitation", "withdraw-invitation", "Take an invitation back that stands",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.Withdraw(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/invitations/counts", "invitation-counts", "What came of invitations in the last thirty days",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]RuleCounts, error) {
			if !o.May(access.SeeEveryFloor) {
				return nil, access.ErrNotAllowed
			}
			return room.InvitationCounts(ctx)
		})
}
