package setup

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// TakenIn is what a configuration file changes, or would.
type TakenIn struct {
	State   string        `json:"state" doc:"Mark of the set-up as it is now; applying wants it"`
	Changes []ChangeView  `json:"changes" doc:"What differs afterwards"`
	Notes   []string      `json:"notes" doc:"What of the file is left out, and why"`
	Wrong   []WrongInFile `json:"wrong" doc:"What keeps it from being applied"`
	Newer   int           `json:"newer" doc:"How many things were changed here since the file was made"`
	Applied bool          `json:"applied"`
}

// WrongInFile is something in a file that cannot be as it is.
type WrongInFile struct {
	Where string `json:"where" doc:"Kind and name of the thing"`
	Field string `json:"field"`
	Words string `json:"words"`
}

// TakeIn tells what a configuration file would change, or with apply changes it: all of
// it or nothing. State is the mark that telling gave, so that nobody's change in between
// is overwritten. Nothing is ever removed.
func (room *Room) TakeIn(ctx context.Context, o access.Actor, file []byte, apply bool, state string) (TakenIn, error) {
	if err := o.Must(access.SetUp); err != nil {
		return TakenIn{}, err
	}
	c, err := ReadConfiguration(file)
	if err != nil {
		return TakenIn{}, err
	}
	articles, err := room.Library.ForVisitors(ctx)
	if err != nil {
		return TakenIn{}, err
	}
	t := &taking{file: c, room: room, by: o, articles: articles}
	if !apply {
		state = ""
	}
	changes, was, err := room.Settings.Tables.Together(ctx, state, !apply, func(inside settings.Tables) error {
		if err := t.all(ctx, inside); err != nil {
			return err
		}
		if apply && len(t.wrong) > 0 {
			return form.Refuse([]form.Wrong{{Field: "file", Words: "Something in this file cannot be as it is. Look at what would change."}})
		}
		return nil
	})
	if err != nil {
		return TakenIn{}, err
	}
	out := TakenIn{State: was, Changes: []ChangeView{}, Notes: append([]string{}, t.notes...), Wrong: append([]WrongInFile{}, t.wrong...), Applied: apply}
	for i := range changes {
		out.Changes = append(out.Changes, room.changeView(changes[i]))
	}
	if !apply {
		out.Newer, err = room.Settings.Tables.CountChanges(ctx, c.MadeAt)
		return out, err
	}
	room.Log.Info("a configuration was taken in", "by", o.ID, "changes", len(changes), "madeAt", c.MadeAt)
	room.Changed()
	for _, id := range t.moved {
		room.Live.Reconnect(id)
	}
	room.Floor.TeamMoved(ctx)
	return out, nil
}

// taking is a file on its way in. It does what an admin would do by hand, by the same
// acts, so that the same is refused.
type taking struct {
	file     Configuration
	room     *Room
	by       access.Actor
	articles []view.ArticleTitle

	inner       *Room // on the transaction
	people      map[string]string
	hours       map[string]string
	departments map[string]string
	known       map[string]string // articles
	flows       map[string]settings.LiveFlow
	moved       []string // operators whose connections are made anew
	notes       []string
	wrong       []WrongInFile
}

// all takes in everything, in the order in which one thing needs another.
func (t *taking) all(ctx context.Context, inside settings.Tables) error {
	t.inner = t.room.inside(t, inside)
	t.people, t.hours, t.departments, t.known = map[string]string{}, map[string]string{}, map[string]string{}, map[string]string{}
	var err error
	if t.flows, err = inside.LiveFlows(ctx); err != nil {
		return err
	}
	for _, step := range []func(context.Context) error{t.takeTeam, t.takeHours, t.takeDepartments, t.takeRules, t.takeArticles, t.takeWidgets, t.takeDocuments} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	return nil
}

// same reports whether two things are written alike.
func same(a, b any) bool {
	one, err := json.Marshal(a)
	other, err2 := json.Marshal(b)
	return err == nil && err2 == nil && bytes.Equal(one, other)
}

// inside returns the room on a transaction, of which nobody is told.
func (room *Room) inside(t *taking, tables settings.Tables) *Room {
	return &Room{
		Settings: &settings.Cache{Tables: tables}, Live: t, Floor: silentFloor{}, Library: t, Log: slog.New(slog.DiscardHandler), Now: room.Now, Zone: room.Zone, Changed: func() {},
	}
}

// tried notes what is wrong with a thing; any other error stops.
func (t *taking) tried(where string, err error) error {
	var bad *form.BadFieldsError
	var used *InUseError
	switch {
	case errors.As(err, &bad):
		for _, w := range bad.Wrong {
			t.wrong = append(t.wrong, WrongInFile{where, w.Field, w.Words})
		}
		return nil
	case errors.As(err, &used):
		t.wrong = append(t.wrong, WrongInFile{where, "", used.Words})
		return nil
	}
	return err
}

func (t *taking) note(words string, values ...any) {
	t.notes = append(t.notes, fmt.Sprintf(words, values...))
}

func (t *taking) takeTeam(ctx context.Context) error {
	s, err := t.inner.Settings.Read(ctx)
	if err != nil {
		return err
	}
	for _, p := range t.file.Team {
		at := slices.IndexFunc(s.Team, func(o settings.Operator) bool { return strings.EqualFold(o.Email, strings.TrimSpace(p.Email)) })
		if at < 0 || !s.Team[at].Active {
			t.note("%s (%s) is not in the team here and is left out. Invite them first.", p.Name, p.Email)
			continue
		}
		o := s.Team[at]
		t.people[p.ID] = o.ID
		now := configured(o)
		p.ID, p.Email, p.Name = now.ID, now.Email, now.Name
		if p.Percent == 0 {
			p.Percent = now.Percent
		}
		if p.Capacity == now.Capacity && p.Percent == now.Percent && p.ShownName == now.ShownName && p.Welcome == now.Welcome && slices.Equal(p.Languages, now.Languages) {
			continue
		}
		in := PersonSettings{
			ID: o.ID, Version: o.Version, Name: o.Name, Email: o.Email, Role: string(o.Role), Active: true, Capacity: p.Capacity, Percent: p.Percent,
			Languages: append([]string{}, p.Languages...), ShownName: p.ShownName, Welcome: p.Welcome,
		}
		for _, d := range s.InUse {
			for _, m := range d.Members {
				if m.OperatorID == o.ID {
					in.Departments = append(in.Departments, PlaceSettings{d.ID, m.Backup})
				}
			}
		}
		_, err := t.inner.SavePerson(ctx, t.by, in)
		if err := t.tried("person "+o.Name, err); err != nil {
			return err
		}
	}
	return nil
}

func (t *taking) takeHours(ctx context.Context) error {
	all, err := t.inner.Settings.Tables.AllHours(ctx)
	if err != nil {
		return err
	}
	for _, h := range t.file.Hours {
		named := h.ID
		at := slices.IndexFunc(all, func(x settings.Hours) bool { return x.ID == named })
		if at < 0 {
			at = slices.IndexFunc(all, func(x settings.Hours) bool { return strings.EqualFold(x.Name, h.Name) })
		}
		h.ID, h.Version = "", 0
		if at >= 0 {
			h.ID, h.Version = all[at].ID, all[at].Version
			now := hoursSettings(all[at], t.room.Now())
			now.Status, h.Status, h.UsedBy = nil, nil, nil
			if t.hours[named] = h.ID; same(h, now) {
				continue
			}
		}
		saved, err := t.inner.SaveHours(ctx, t.by, h)
		if err != nil {
			saved.ID = h.ID
		}
		if err := t.tried("hours "+h.Name, err); err != nil {
			return err
		}
		t.hours[named] = saved.ID
	}
	return nil
}

// takeDepartments makes them all before they overflow to each other.
func (t *taking) takeDepartments(ctx context.Context) error {
	s, err := t.inner.Settings.Read(ctx)
	if err != nil {
		return err
	}
	later := []DepartmentSettings{}
	for _, d := range t.file.Departments {
		named := d.ID
		at := slices.IndexFunc(s.InUse, func(x settings.Department) bool { return x.ID == named })
		if at < 0 {
			at = slices.IndexFunc(s.InUse, func(x settings.Department) bool { return strings.EqualFold(x.Name, d.Name) })
		}
		d.Members = t.membersOf(d)
		if d.HoursID != "" {
			d.HoursID = t.hours[d.HoursID]
		}
		if at >= 0 {
			d.ID, d.Version = s.InUse[at].ID, s.InUse[at].Version
			t.departments[named] = d.ID
			later = append(later, d)
			continue
		}
		whole := d
		d.ID, d.Version, d.OverflowTo, d.IsDefault = "", 0, []string{}, false
		saved, err := t.inner.SaveDepartment(ctx, t.by, d)
		if refused := t.tried("department "+d.Name, err); refused != nil {
			return refused
		}
		if err != nil {
			continue
		}
		t.departments[named] = saved.ID
		whole.ID, whole.Version = saved.ID, saved.Version
		later = append(later, whole)
	}
	// The default one first: there is always one.
	slices.SortStableFunc(later, func(a, b DepartmentSettings) int {
		if a.IsDefault == b.IsDefault {
			return 0
		}
		if a.IsDefault {
			return -1
		}
		return 1
	})
	for _, d := range later {
		to := []string{}
		for _, id := range d.OverflowTo {
			if here, there := t.departments[id]; there {
				to = append(to, here)
			}
		}
		d.OverflowTo = to
		if now, there := s.Departments[d.ID]; there && same(d, settingsOf(now)) {
			continue
		}
		_, err := t.inner.SaveDepartment(ctx, t.by, d)
		if err := t.tried("department "+d.Name, err); err != nil {
			return err
		}
	}
	return nil
}

func (t *taking) membersOf(d DepartmentSettings) []MemberSettings {
	members := []MemberSettings{}
	for _, m := range d.Members {
		if here, there := t.people[m.OperatorID]; there {
			members = append(members, MemberSettings{here, m.Backup})
		}
	}
	return members
}

func (t *taking) takeRules(ctx context.Context) error {
	if t.file.Rules == nil {
		return nil
	}
	now, version, err := t.inner.Settings.Tables.Rules(ctx)
	if err != nil {
		return err
	}
	list := RuleList{Version: version, Rules: []routing.Rule{}}
	for _, r := range t.file.Rules {
		if r.Department != "" {
			r.Department = t.departments[r.Department]
		}
		if r.Operator != "" {
			here, there := t.people[r.Operator]
			if !there {
				t.note("The rule “%s” sends to somebody who is not in the team here and is left out.", r.Name)
				continue
			}
			r.Operator = here
		}
		list.Rules = append(list.Rules, r)
	}
	if same(list.Rules, settings.CoreRules(now)) {
		return nil
	}
	_, err = t.inner.SaveRules(ctx, t.by, list)
	return t.tried("rules", err)
}

// Reconnect implements Live: it is done when all is stored.
func (t *taking) Reconnect(operatorID string) { t.moved = append(t.moved, operatorID) }

// FAQs implements Library; nobody asks while a file is taken in.
func (t *taking) FAQs(context.Context, widget.Design, string) ([]view.ArticleTitle, error) {
	return nil, nil
}

// LacksArticles implements Library, by what was read before: the transaction holds a
// connection, and must not wait for another.
func (t *taking) LacksArticles(_ context.Context, ids []string) ([]string, error) {
	return slices.DeleteFunc(slices.Clone(ids), func(id string) bool {
		return slices.ContainsFunc(t.articles, func(a view.ArticleTitle) bool { return a.ID == id })
	}), nil
}

// ForVisitors implements Library.
func (t *taking) ForVisitors(context.Context) ([]view.ArticleTitle, error) { return t.articles, nil }

// silentFloor is told nothing while a file is taken in: it may not be.
type silentFloor struct{ Floor }

// TeamMoved implements Floor.
func (silentFloor) TeamMoved(context.Context) {}

// Release implements Floor: whoever is put out in a draft keeps their chats.
func (silentFloor) Release(context.Context, string, bool) error { return nil }
