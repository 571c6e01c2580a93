package app

import (
	"context"
	"time"

	"stoop/core/chat"
	"stoop/internal/store"
)

// Desk is what an operator's console starts from; live messages move it on.
type Desk struct {
	Now       time.Time      `json:"now" doc:"The server's clock, against which the clocks on screen run"`
	Me        OperatorView   `json:"me"`
	Chats     []ChatView     `json:"chats" doc:"The line: all that wait, and my own"`
	Places    []PlaceView    `json:"places"`
	Operators []OperatorView `json:"operators"`
}

// Desk returns the line as an operator may see it: what waits, and what they
// hold. Leads see the chats of all.
func (a *App) Desk(ctx context.Context, o store.Operator) (Desk, error) {
	open, err := a.store.OpenChats(ctx)
	if err != nil {
		return Desk{}, err
	}
	d := Desk{Now: a.now(), Chats: []ChatView{}, Places: []PlaceView{}}
	visitors := []string{}
	for _, c := range open {
		if !maySee(o, c) {
			continue
		}
		w, err := a.widget(ctx, c.WidgetID)
		if err != nil {
			return Desk{}, err
		}
		d.Chats = append(d.Chats, a.chatView(c, w))
		visitors = append(visitors, c.VisitorID)
	}
	visits, err := a.store.LatestVisits(ctx, visitors)
	if err != nil {
		return Desk{}, err
	}
	for _, id := range visitors {
		d.Places = append(d.Places, a.placeView(id, visits[id]))
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

// maySee reports whether an operator may read a chat: everybody what waits,
// their own, and leads all.
func maySee(o store.Operator, c store.Chat) bool {
	return c.Phase == chat.Waiting || o.Role != store.RoleOperator || (c.OwnerID != nil && *c.OwnerID == o.ID)
}

func (a *App) team(ctx context.Context) ([]OperatorView, error) {
	team, err := a.store.Operators(ctx)
	views := make([]OperatorView, len(team))
	for i, o := range team {
		views[i] = a.operatorView(o)
	}
	return views, err
}

// Script is a chat with its log, or the part of it after a number.
type Script struct {
	Chat   ChatView    `json:"chat"`
	Place  PlaceView   `json:"place"`
	Events []EventView `json:"events"`
}

// Script returns the events of a chat after a number.
func (a *App) Script(ctx context.Context, o store.Operator, chatID string, after int64) (Script, error) {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return Script{}, err
	}
	if !maySee(o, c) {
		return Script{}, chat.ErrNotYours
	}
	w, err := a.widget(ctx, c.WidgetID)
	if err != nil {
		return Script{}, err
	}
	events, err := a.store.Events(ctx, chatID, after, resumeLimit)
	if err != nil {
		return Script{}, err
	}
	visits, err := a.store.LatestVisits(ctx, []string{c.VisitorID})
	if err != nil {
		return Script{}, err
	}
	return Script{Chat: a.chatView(c, w), Place: a.placeView(c.VisitorID, visits[c.VisitorID]), Events: a.eventViews(c, events)}, nil
}

// Figures are those of the status strip that the line itself does not tell.
type Figures struct {
	OnSite        int64 `json:"onSite" doc:"Visits with a page open"`
	TodayWithin   int64 `json:"todayWithin" doc:"Chats of today that were taken within the answer target"`
	TodayDecided  int64 `json:"todayDecided" doc:"Chats of today that were taken, missed, or have waited beyond the target"`
	TargetSeconds int   `json:"targetSeconds" doc:"The answer target, when all widgets have the same one; else 0"`
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
	widgets, err := a.store.Widgets(ctx)
	for i, w := range widgets {
		if i == 0 {
			f.TargetSeconds = w.AnswerTargetSeconds
		} else if f.TargetSeconds != w.AnswerTargetSeconds {
			f.TargetSeconds = 0
		}
	}
	return f, err
}
