package desk

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Desk is what an operator's console starts from; live messages move it on.
type Desk struct {
	Now         time.Time           `json:"now" doc:"The server's clock, against which the clocks on screen run"`
	Me          view.OperatorView   `json:"me"`
	Chats       []view.ChatView     `json:"chats" doc:"The line: what waits for my departments, and my own"`
	Places      []view.PlaceView    `json:"places"`
	Operators   []view.OperatorView `json:"operators"`
	Departments []DepartmentView    `json:"departments"`

	Preferences settings.Preferences `json:"preferences" doc:"How I want my console"`
	Outcomes    []string             `json:"outcomes" doc:"How a chat can come out"`
	Currency    string               `json:"currency" doc:"Of sales"`
	Files       settings.FileLimits  `json:"files"`
	Zone        string               `json:"zone" doc:"The team's time zone, in which times are told"`
}

// DepartmentView is a department as every console knows it.
type DepartmentView struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Open bool   `json:"open" doc:"By its hours"`
	Mine bool   `json:"mine" doc:"Whether I am a member"`

	HandOut string `json:"handOut" enum:"pick,offer,assign"`
}

// Desk returns the line as an operator may see it: what waits for their
// departments, and what they hold. Leads see the chats of all.
func (room *Room) Desk(ctx context.Context, o access.Actor) (Desk, error) {
	open, err := room.Chats.OpenChats(ctx)
	if err != nil {
		return Desk{}, err
	}
	wrapUps, err := room.Tables.WrapUpsOf(ctx, o.ID)
	if err != nil {
		return Desk{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Desk{}, err
	}
	d := Desk{
		Now: room.Now(), Chats: []view.ChatView{}, Places: []view.PlaceView{}, Departments: []DepartmentView{},
		Outcomes: s.Desk.Outcomes, Currency: s.Desk.Currency, Files: s.FileLimits(), Zone: room.Zone.String(),
	}
	if d.Preferences, err = room.MyPreferences(ctx, o); err != nil {
		return Desk{}, err
	}
	visitors := []string{}
	for _, c := range append(open, wrapUps...) {
		if !o.Sees(c.State) {
			continue
		}
		d.Chats = append(d.Chats, room.View.Chat(c, s))
		visitors = append(visitors, c.VisitorID)
	}
	visits, err := room.Visits.LatestVisits(ctx, visitors)
	if err != nil {
		return Desk{}, err
	}
	for _, id := range visitors {
		d.Places = append(d.Places, room.View.Place(id, visits[id]))
	}
	for _, department := range s.InUse {
		d.Departments = append(d.Departments, DepartmentView{
			ID: department.ID, Name: department.Name, Open: s.Open(department, d.Now), Mine: o.MemberOf(department.ID), HandOut: string(department.HandOut),
		})
	}
	if d.Operators, err = room.Floor.Team(ctx); err != nil {
		return Desk{}, err
	}
	for _, member := range d.Operators {
		if member.ID == o.ID {
			d.Me = member
		}
	}
	return d, nil
}
