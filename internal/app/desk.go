package app

import (
	"context"
	"slices"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/store"
)

// Desk is what an operator's console starts from; live messages move it on.
type Desk struct {
	Now         time.Time        `json:"now" doc:"The server's clock, against which the clocks on screen run"`
	Me          OperatorView     `json:"me"`
	Chats       []ChatView       `json:"chats" doc:"The line: what waits for my departments, and my own"`
	Places      []PlaceView      `json:"places"`
	Operators   []OperatorView   `json:"operators"`
	Departments []DepartmentView `json:"departments"`

	Preferences Preferences `json:"preferences" doc:"How I want my console"`
	Outcomes    []string    `json:"outcomes" doc:"How a chat can come out"`
	Currency    string      `json:"currency" doc:"Of sales"`
	Files       FileLimits  `json:"files"`
}

// FileLimits are what is let in, for saying so before an upload.
type FileLimits struct {
	MaxBytes int64    `json:"maxBytes"`
	Kinds    []string `json:"kinds"`
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
func (a *App) Desk(ctx context.Context, o access.Actor) (Desk, error) {
	open, err := a.store.OpenChats(ctx)
	if err != nil {
		return Desk{}, err
	}
	wrapUps, err := a.store.WrapUpsOf(ctx, o.ID)
	if err != nil {
		return Desk{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return Desk{}, err
	}
	d := Desk{
		Now: a.now(), Chats: []ChatView{}, Places: []PlaceView{}, Departments: []DepartmentView{},
		Outcomes: s.desk.Outcomes, Currency: s.desk.Currency, Files: s.fileLimits(),
	}
	if d.Preferences, err = a.MyPreferences(ctx, o); err != nil {
		return Desk{}, err
	}
	visitors := []string{}
	for _, c := range append(open, wrapUps...) {
		if !o.Sees(c.State) {
			continue
		}
		d.Chats = append(d.Chats, a.chatView(c, s))
		visitors = append(visitors, c.VisitorID)
	}
	visits, err := a.store.LatestVisits(ctx, visitors)
	if err != nil {
		return Desk{}, err
	}
	for _, id := range visitors {
		d.Places = append(d.Places, a.placeView(id, visits[id]))
	}
	for _, department := range s.inUse {
		d.Departments = append(d.Departments, DepartmentView{
			ID: department.ID, Name: department.Name, Open: s.open(department, d.Now), Mine: o.MemberOf(department.ID), HandOut: string(department.HandOut),
		})
	}
	if d.Operators, err = a.team(ctx); err != nil {
		return Desk{}, err
	}
	for _, member := range d.Operators {
		if member.ID == o.ID {
			d.Me = member
		}
	}
	return d, nil
}

func (s *setup) fileLimits() FileLimits {
	return FileLimits{MaxBytes: int64(s.desk.MaxMegabytes) << 20, Kinds: append([]string{}, s.desk.FileKinds...)}
}

func (a *App) team(ctx context.Context) ([]OperatorView, error) {
	team, err := a.store.Operators(ctx)
	if err != nil {
		return nil, err
	}
	here, err := a.store.HereNow(ctx)
	if err != nil {
		return nil, err
	}
	staff, err := a.store.Staff(ctx, a.now())
	if err != nil {
		return nil, err
	}
	loads := map[string]routing.Staff{}
	for _, w := range staff {
		loads[w.ID] = w
	}
	s, err := a.setup(ctx)
	if err != nil {
		return nil, err
	}
	views := []OperatorView{}
	for _, o := range team {
		if o.Active {
			views = append(views, operatorView(o, here[o.ID], loads[o.ID], s))
		}
	}
	return views, nil
}

// Script is a chat with its log, or the part of it after a number.
type Script struct {
	Chat   ChatView    `json:"chat"`
	Place  PlaceView   `json:"place"`
	Events []EventView `json:"events"`
}

// Script returns the events of a chat after a number. An earlier chat of
// somebody with whom the operator has a chat now may be read beside that one.
func (a *App) Script(ctx context.Context, o access.Actor, chatID string, after int64, beside string) (Script, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return Script{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return Script{}, err
	}
	if !o.Sees(c.State) && !a.isEarlier(ctx, o, c, beside) {
		return Script{}, chat.ErrNotYours
	}
	events, err := a.store.Events(ctx, chatID, after, resumeLimit)
	if err != nil {
		return Script{}, err
	}
	visits, err := a.store.LatestVisits(ctx, []string{c.VisitorID})
	if err != nil {
		return Script{}, err
	}
	return Script{Chat: a.chatView(c, s), Place: a.placeView(c.VisitorID, visits[c.VisitorID]), Events: viewsFor(o, a.eventViews(c, events))}, nil
}

// viewsFor returns events as somebody of the team may see them.
func viewsFor(o access.Actor, views []EventView) []EventView {
	if o.Leads() {
		return views
	}
	return forOperators(views)
}

// isEarlier reports whether a chat is one of the earlier ones of somebody with
// whom an operator has a chat now.
func (a *App) isEarlier(ctx context.Context, o access.Actor, c store.Chat, beside string) bool {
	now, err := a.store.Chat(ctx, beside)
	if err != nil || now.Phase == chat.Over && now.WrapUntil == nil && !now.NeedsOutcome || !o.Sees(now.State) {
		return false
	}
	earlier, err := a.store.EarlierChats(ctx, now.VisitorID, now.ID, earlierLimit)
	return err == nil && slices.ContainsFunc(earlier, func(e store.Chat) bool { return e.ID == c.ID })
}

// Figures are those of the status strip that the line itself does not tell.
type Figures struct {
	OnSite        int64 `json:"onSite" doc:"Visits with a page open"`
	TodayWithin   int64 `json:"todayWithin" doc:"Chats of today that were taken within the answer target"`
	TodayDecided  int64 `json:"todayDecided" doc:"Chats of today that were taken, missed, or have waited beyond the target"`
	TargetSeconds int   `json:"targetSeconds" doc:"The answer target, when all departments have the same one; else 0"`
}

// Figures returns the figures of the status strip.
func (a *App) Figures(ctx context.Context) (Figures, error) {
	now := a.now()
	day := now.In(a.zone)
	midnight := time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, a.zone)
	var f Figures
	var err error
	if f.TodayWithin, f.TodayDecided, err = a.store.Today(ctx, midnight, now); err != nil {
		return f, err
	}
	if f.OnSite, err = a.store.OnSite(ctx, now); err != nil {
		return f, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return f, err
	}
	for i, d := range s.inUse {
		if i == 0 {
			f.TargetSeconds = d.TargetSeconds
		} else if f.TargetSeconds != d.TargetSeconds {
			f.TargetSeconds = 0
		}
	}
	return f, err
}

// DepartmentsOf returns the ids of the departments that an operator is a member
// of.
func (a *App) DepartmentsOf(ctx context.Context, o access.Actor) ([]string, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, d := range s.inUse {
		if s.isMember(o.ID, d.ID) {
			ids = append(ids, d.ID)
		}
	}
	return ids, nil
}
