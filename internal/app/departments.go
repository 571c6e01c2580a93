package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/store"
)

// DepartmentSettings are what an admin says of a department.
type DepartmentSettings struct {
	ID             string           `json:"id,omitempty" doc:"Empty for a new one"`
	Version        int64            `json:"version" doc:"As it was read; 0 for a new one"`
	Name           string           `json:"name"`
	HoursID        string           `json:"hoursId,omitempty" doc:"Empty: open around the clock"`
	HandOut        string           `json:"handOut" enum:"pick,offer,assign"`
	Choice         string           `json:"choice" enum:"fewest,turn,share"`
	LastFirst      bool             `json:"lastFirst" doc:"The operator of last time first"`
	LanguagesFirst bool             `json:"languagesFirst" doc:"Who speaks the visitor's language first"`
	Capacity       int              `json:"capacity"`
	TargetSeconds  int              `json:"targetSeconds"`
	OfferSeconds   int              `json:"offerSeconds"`
	PassLimit      int              `json:"passLimit"`
	HandOnSeconds  int              `json:"handOnSeconds"`
	WrapUpSeconds  int              `json:"wrapUpSeconds"`
	WrapUpRequired bool             `json:"wrapUpRequired" doc:"An outcome, before a chat is put away"`
	SilentRemind   int              `json:"silentRemind" doc:"Seconds of a visitor's silence until they are reminded; 0 for never"`
	SilentEnd      int              `json:"silentEnd" doc:"Seconds from then until the chat ends"`
	OverflowTo     []string         `json:"overflowTo"`
	OverflowAfter  int              `json:"overflowAfter" doc:"Seconds waited; 0 for never"`
	OverflowLength int              `json:"overflowLength" doc:"More than so many wait; 0 for never"`
	OverflowClosed bool             `json:"overflowClosed"`
	IsDefault      bool             `json:"isDefault"`
	Members        []MemberSettings `json:"members"`
}

// MemberSettings is an operator's place in a department.
type MemberSettings struct {
	OperatorID string `json:"operatorId"`
	Backup     bool   `json:"backup"`
}

// defaultSilentEnd is how many seconds a silent visitor has after a reminder.
const defaultSilentEnd = 120

// mustAdmin refuses everybody but admins.
func mustAdmin(o access.Actor) error {
	if !o.May(access.SetUp) {
		return ErrNotAllowed
	}
	return nil
}

// DepartmentsSetup returns all departments with their settings.
func (a *App) DepartmentsSetup(ctx context.Context, o access.Actor) ([]DepartmentSettings, error) {
	if err := mustAdmin(o); err != nil {
		return nil, err
	}
	all, err := a.store.Departments(ctx)
	list := make([]DepartmentSettings, len(all))
	for i, d := range all {
		list[i] = settingsOf(d)
	}
	return list, err
}

func settingsOf(d store.Department) DepartmentSettings {
	out := DepartmentSettings{
		ID: d.ID, Version: d.Version, Name: d.Name, HandOut: string(d.HandOut), Choice: string(d.Choice), LastFirst: d.LastFirst, LanguagesFirst: d.LanguagesFirst,
		Capacity: d.Capacity, TargetSeconds: d.TargetSeconds, OfferSeconds: d.OfferSeconds, PassLimit: d.PassLimit, HandOnSeconds: d.HandOnSeconds, WrapUpSeconds: d.WrapUpSeconds,
		WrapUpRequired: d.WrapUpRequired, SilentRemind: d.SilentRemind, SilentEnd: d.SilentEnd,
		OverflowTo: append([]string{}, d.OverflowTo...), OverflowAfter: d.OverflowAfter, OverflowLength: d.OverflowLength, OverflowClosed: d.OverflowClosed,
		IsDefault: d.IsDefault, Members: []MemberSettings{},
	}
	if d.HoursID != nil {
		out.HoursID = *d.HoursID
	}
	for _, m := range d.Members {
		out.Members = append(out.Members, MemberSettings{OperatorID: m.OperatorID, Backup: m.Backup})
	}
	return out
}

// SaveDepartment makes or changes a department, or says at which fields
// something is wrong.
func (a *App) SaveDepartment(ctx context.Context, o access.Actor, in DepartmentSettings) (DepartmentSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	s, err := a.readSetup(ctx)
	if err != nil {
		return in, err
	}
	in.Name = chat.CleanLine(in.Name, nameLimit)
	if in.SilentEnd == 0 {
		in.SilentEnd = defaultSilentEnd
	}
	before, existed := s.departments[in.ID]
	switch {
	case in.ID == "":
		in.Version = 0
		in.ID = uuid.NewString()
	case !existed || before.RemovedAt != nil:
		return in, store.ErrNotFound
	}
	if err := refuse(append(checkDepartment(in), s.checkPlace(in, before)...)); err != nil {
		return in, err
	}
	row := store.Department{
		ID: in.ID, Version: in.Version, Name: in.Name, HandOut: routing.HandOut(in.HandOut), Choice: routing.Choice(in.Choice), LastFirst: in.LastFirst, LanguagesFirst: in.LanguagesFirst,
		Capacity: in.Capacity, TargetSeconds: in.TargetSeconds, OfferSeconds: in.OfferSeconds, PassLimit: in.PassLimit, HandOnSeconds: in.HandOnSeconds, WrapUpSeconds: in.WrapUpSeconds,
		WrapUpRequired: in.WrapUpRequired, SilentRemind: in.SilentRemind, SilentEnd: in.SilentEnd,
		OverflowTo: in.OverflowTo, OverflowAfter: in.OverflowAfter, OverflowLength: in.OverflowLength, OverflowClosed: in.OverflowClosed,
		IsDefault: in.IsDefault, CreatedAt: a.now(),
	}
	if in.HoursID != "" {
		row.HoursID = &in.HoursID
	}
	for _, m := range in.Members {
		row.Members = append(row.Members, store.Member{DepartmentID: in.ID, OperatorID: m.OperatorID, Backup: m.Backup})
	}
	err = a.store.SaveDepartment(ctx, row)
	if errors.Is(err, store.ErrNameTaken) {
		return in, &BadFieldsError{Wrong: []form.Wrong{{Field: "name", Words: "Another department has this name."}}}
	}
	if err != nil {
		return in, err
	}
	a.settingsChanged()
	for _, id := range movedMembers(before.Members, row.Members) {
		a.live.Reconnect(id)
	}
	in.Version++
	return in, nil
}

// movedMembers returns who is in one list but not in the other.
func movedMembers(before, after []store.Member) []string {
	has := func(list []store.Member, id string) bool {
		return slices.ContainsFunc(list, func(m store.Member) bool { return m.OperatorID == id })
	}
	var moved []string
	for _, m := range before {
		if !has(after, m.OperatorID) {
			moved = append(moved, m.OperatorID)
		}
	}
	for _, m := range after {
		if !has(before, m.OperatorID) {
			moved = append(moved, m.OperatorID)
		}
	}
	return moved
}

func checkDepartment(in DepartmentSettings) []form.Wrong {
	var wrong []form.Wrong
	bound := func(field string, value, low, high int, what string) {
		if value < low || value > high {
			wrong = append(wrong, form.Wrong{Field: field, Words: fmt.Sprintf("%s must be between %d and %d.", what, low, high)})
		}
	}
	if in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Give the department a name."})
	}
	if in.Capacity < 1 {
		wrong = append(wrong, form.Wrong{Field: "capacity", Words: "With a capacity of 0, nobody would ever get a chat. Choose at least 1; operators who need a break set themselves to away."})
	} else {
		bound("capacity", in.Capacity, 1, 50, "The capacity")
	}
	bound("targetSeconds", in.TargetSeconds, 1, 86_400, "The answer target")
	bound("offerSeconds", in.OfferSeconds, 5, 600, "The seconds of an offer")
	bound("passLimit", in.PassLimit, 1, 20, "The number of offers let by")
	bound("handOnSeconds", in.HandOnSeconds, 10, 3600, "The seconds for taking over")
	bound("silentRemind", in.SilentRemind, 0, 86400, "The seconds until a reminder")
	bound("silentEnd", in.SilentEnd, 10, 86400, "The seconds until the end")
	bound("wrapUpSeconds", in.WrapUpSeconds, 0, 3600, "The seconds of wrap-up")
	bound("overflowAfter", in.OverflowAfter, 0, 86_400, "The seconds waited")
	bound("overflowLength", in.OverflowLength, 0, 1000, "The number who wait")
	if len(in.OverflowTo) > 0 && in.OverflowAfter == 0 && in.OverflowLength == 0 && !in.OverflowClosed {
		wrong = append(wrong, form.Wrong{Field: "overflowTo", Words: "Choose when chats overflow: after some seconds, above some number, or while closed."})
	}
	return wrong
}

// checkPlace checks a department against all others.
func (s *setup) checkPlace(in DepartmentSettings, before store.Department) []form.Wrong {
	var wrong []form.Wrong
	if in.HoursID != "" {
		if _, ok := s.hours[in.HoursID]; !ok {
			wrong = append(wrong, form.Wrong{Field: "hoursId", Words: "These hours no longer exist. Choose others."})
		}
	}
	if before.IsDefault && !in.IsDefault {
		wrong = append(wrong, form.Wrong{Field: "isDefault", Words: "There must be a default department. Make another one the default instead."})
	}
	seen := map[string]bool{}
	for _, m := range in.Members {
		if o, ok := s.operators[m.OperatorID]; !ok || !o.Active || seen[m.OperatorID] {
			wrong = append(wrong, form.Wrong{Field: "members", Words: "One of the members has left the team, or is listed twice. Reload the page."})
			break
		}
		seen[m.OperatorID] = true
	}
	all := []routing.Department{{ID: in.ID, Name: in.Name, Overflow: routing.Overflow{To: in.OverflowTo}}}
	for _, d := range s.inUse {
		if d.ID != in.ID {
			all = append(all, coreDepartment(d, true))
		}
	}
	for _, w := range routing.CheckOverflow(all) {
		if w.Field == in.ID {
			wrong = append(wrong, form.Wrong{Field: "overflowTo", Words: w.Words})
		}
	}
	return wrong
}

// InUseError tells why something cannot be removed.
type InUseError struct{ Words string }

func (e *InUseError) Error() string { return e.Words }

// RemoveDepartment takes a department out of use, if nothing needs it.
func (a *App) RemoveDepartment(ctx context.Context, o access.Actor, id string) error {
	if err := mustAdmin(o); err != nil {
		return err
	}
	s, err := a.readSetup(ctx)
	if err != nil {
		return err
	}
	d, ok := s.departments[id]
	if !ok || d.RemovedAt != nil {
		return store.ErrNotFound
	}
	open, err := a.store.OpenChatsOf(ctx, id)
	if err != nil {
		return err
	}
	rules, _, err := a.store.Rules(ctx)
	if err != nil {
		return err
	}
	var users []string
	for _, r := range rules {
		if r.DepartmentID == id {
			users = append(users, "the rule “"+r.Name+"”")
		}
	}
	for _, other := range s.inUse {
		if contains(other.OverflowTo, id) {
			users = append(users, "the overflow of "+other.Name)
		}
	}
	for _, w := range s.widgets {
		if contains(w.Departments, id) {
			users = append(users, "the widget "+w.Name)
		}
	}
	switch {
	case d.IsDefault:
		return &InUseError{d.Name + " is the default department. Make another one the default first."}
	case open > 0:
		return &InUseError{fmt.Sprintf("%s has %d open %s. End them or hand them on first.", d.Name, open, plural(open, "chat"))}
	case len(users) > 0:
		return &InUseError{d.Name + " is still used by " + strings.Join(users, ", ") + ". Change that first."}
	}
	if err := a.store.RemoveDepartment(ctx, id, a.now()); err != nil {
		return err
	}
	a.settingsChanged()
	for _, m := range d.Members {
		a.live.Reconnect(m.OperatorID)
	}
	return nil
}

func plural(n int64, word string) string {
	if n == 1 {
		return word
	}
	return word + "s"
}

// FloorView is who waits and who is there, department by department.
type FloorView struct {
	Now         time.Time         `json:"now"`
	Departments []FloorDepartment `json:"departments"`
}

// FloorDepartment is one department of the Floor.
type FloorDepartment struct {
	ID              string        `json:"id"`
	Name            string        `json:"name"`
	State           string        `json:"state" enum:"open,busy,closed"`
	Hours           string        `json:"hours" doc:"How its hours stand, in their own zone"`
	HoursOpen       bool          `json:"hoursOpen" doc:"Closed all the same when nobody is in"`
	HelpedBy        []string      `json:"helpedBy" doc:"Departments that take its chats while it is closed"`
	HandOut         string        `json:"handOut" enum:"pick,offer,assign"`
	Waiting         int           `json:"waiting"`
	Messages        int           `json:"messages" doc:"Left to be answered"`
	LongestSince    *time.Time    `json:"longestSince,omitempty" doc:"Since when the one waits who waits longest"`
	TargetSeconds   int           `json:"targetSeconds"`
	SoonSeconds     int           `json:"soonSeconds" doc:"From when on a wait asks for attention"`
	EstimateSeconds int           `json:"estimateSeconds" doc:"For who comes now; 0 when there is no estimate"`
	Load            int           `json:"load" doc:"Chats in hand of this department"`
	Slots           int           `json:"slots" doc:"Chats that the available members can hold"`
	Today           int           `json:"today" doc:"Chats of today"`
	Missed          int           `json:"missed" doc:"Of them missed"`
	Members         []FloorMember `json:"members"`
}

// FloorMember is a member of a department, as the Floor shows them.
type FloorMember struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	State    string `json:"state" enum:"available,away,offline"`
	AwayWhy  string `json:"awayWhy,omitempty" enum:"passes"`
	Backup   bool   `json:"backup"`
	Load     int    `json:"load"`
	Offered  int    `json:"offered"`
	Capacity int    `json:"capacity"`
}

// Floor returns how the departments stand, for leads and admins; for operators
// their own departments.
func (a *App) Floor(ctx context.Context, o access.Actor) (FloorView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return FloorView{}, err
	}
	now := a.now()
	staff, err := a.store.Staff(ctx, now)
	if err != nil {
		return FloorView{}, err
	}
	team, err := a.team(ctx)
	if err != nil {
		return FloorView{}, err
	}
	queue, err := a.store.Queue(ctx, s.headStart())
	if err != nil {
		return FloorView{}, err
	}
	present, err := a.present(ctx, s, queue, now)
	if err != nil {
		return FloorView{}, err
	}
	day := now.In(a.zone)
	counts, err := a.store.FloorCounts(ctx, time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, a.zone))
	if err != nil {
		return FloorView{}, err
	}
	floor := routing.NewFloor(s.coreDepartments(now), staff)
	members := map[string]OperatorView{}
	for _, member := range team {
		members[member.ID] = member
	}
	view := FloorView{Now: now, Departments: []FloorDepartment{}}
	for _, d := range s.inUse {
		if !o.May(access.SeeEveryFloor) && !o.MemberOf(d.ID) {
			continue
		}
		n := counts[d.ID]
		fd := FloorDepartment{
			ID: d.ID, Name: d.Name, State: string(floor.StateOf(d.ID)), HandOut: string(d.HandOut), Waiting: n.Waiting, Messages: n.Messages,
			LongestSince: n.LongestSince, TargetSeconds: d.TargetSeconds, SoonSeconds: int(chat.SoonAfter(time.Duration(d.TargetSeconds) * time.Second).Seconds()), Load: n.Load, Slots: floor.Slots(d.ID), Today: n.Today, Missed: n.Missed, Members: []FloorMember{}, HelpedBy: []string{},
		}
		if fd.State != string(routing.Open) {
			fd.EstimateSeconds = waitView(floor.ArrivalWait(d.ID, present)).EstimateSeconds
		}
		fd.HoursOpen = s.open(d, now)
		fd.Hours = "open around the clock"
		if d.HoursID != nil {
			fd.Hours = statusOf(s.hours[*d.HoursID].Schedule(), now).Words
		}
		if fd.State == string(routing.Shut) {
			for _, id := range floor.Reach(routing.Waiting{Department: d.ID})[1:] {
				if floor.StateOf(id) != routing.Shut {
					fd.HelpedBy = append(fd.HelpedBy, s.departments[id].Name)
				}
			}
		}
		for _, m := range d.Members {
			if who, ok := members[m.OperatorID]; ok {
				fd.Members = append(fd.Members, FloorMember{
					ID: who.ID, Name: who.Name, State: who.State, AwayWhy: who.AwayWhy, Backup: m.Backup, Load: who.Load, Offered: who.Offered,
					Capacity: s.capacityIn(s.operators[m.OperatorID], d),
				})
			}
		}
		view.Departments = append(view.Departments, fd)
	}
	return view, nil
}
