package setup

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// DepartmentSettings are what an admin says of a department.
type DepartmentSettings struct {
	ID                 string           `json:"id,omitempty" doc:"Empty for a new one"`
	Version            int64            `json:"version" doc:"As it was read; 0 for a new one"`
	Name               string           `json:"name"`
	HoursID            string           `json:"hoursId,omitempty" doc:"Empty: open around the clock"`
	HandOut            string           `json:"handOut" enum:"pick,offer,assign"`
	Choice             string           `json:"choice" enum:"fewest,turn,share"`
	LastFirst          bool             `json:"lastFirst" doc:"The operator of last time first"`
	LanguagesFirst     bool             `json:"languagesFirst" doc:"Who speaks the visitor's language first"`
	Capacity           int              `json:"capacity"`
	TargetSeconds      int              `json:"targetSeconds"`
	OfferSeconds       int              `json:"offerSeconds"`
	PassLimit          int              `json:"passLimit"`
	HandOnSeconds      int              `json:"handOnSeconds"`
	WrapUpSeconds      int              `json:"wrapUpSeconds"`
	WrapUpRequired     bool             `json:"wrapUpRequired" doc:"An outcome, before a chat is put away"`
	SilentRemind       int              `json:"silentRemind" doc:"Seconds of a visitor's silence until they are reminded; 0 for never"`
	SilentEnd          int              `json:"silentEnd" doc:"Seconds from then until the chat ends"`
	AlertWaiting       int              `json:"alertWaiting" doc:"Leads are called when so many wait; 0 for never"`
	AlertWaitSeconds   int              `json:"alertWaitSeconds" doc:"Leads are called when somebody has waited so long; 0 for never"`
	AlertNobodySeconds int              `json:"alertNobodySeconds" doc:"Leads are called when nobody has been available so long within opening hours; 0 for never"`
	AlertRatings       bool             `json:"alertRatings" doc:"Leads are called for low ratings"`
	OverflowTo         []string         `json:"overflowTo"`
	OverflowAfter      int              `json:"overflowAfter" doc:"Seconds waited; 0 for never"`
	OverflowLength     int              `json:"overflowLength" doc:"More than so many wait; 0 for never"`
	OverflowClosed     bool             `json:"overflowClosed"`
	IsDefault          bool             `json:"isDefault"`
	Members            []MemberSettings `json:"members"`
}

// MemberSettings is an operator's place in a department.
type MemberSettings struct {
	OperatorID string `json:"operatorId"`
	Backup     bool   `json:"backup"`
}

// defaultSilentEnd is how many seconds a silent visitor has after a reminder.
const defaultSilentEnd = 120

// DepartmentsSetup returns all departments with their settings.
func (room *Room) DepartmentsSetup(ctx context.Context, o access.Actor) ([]DepartmentSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	all, err := room.Settings.Tables.Departments(ctx)
	list := make([]DepartmentSettings, len(all))
	for i, d := range all {
		list[i] = settingsOf(d)
	}
	return list, err
}

func settingsOf(d settings.Department) DepartmentSettings {
	out := DepartmentSettings{
		ID: d.ID, Version: d.Version, Name: d.Name, HandOut: string(d.HandOut), Choice: string(d.Choice), LastFirst: d.LastFirst, LanguagesFirst: d.LanguagesFirst,
		Capacity: d.Capacity, TargetSeconds: d.TargetSeconds, OfferSeconds: d.OfferSeconds, PassLimit: d.PassLimit, HandOnSeconds: d.HandOnSeconds, WrapUpSeconds: d.WrapUpSeconds,
		WrapUpRequired: d.WrapUpRequired, SilentRemind: d.SilentRemind, SilentEnd: d.SilentEnd,
		AlertWaiting: d.AlertWaiting, AlertWaitSeconds: d.AlertWaitSeconds, AlertNobodySeconds: d.AlertNobodySeconds, AlertRatings: d.AlertRatings,
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
func (room *Room) SaveDepartment(ctx context.Context, o access.Actor, in DepartmentSettings) (DepartmentSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return in, err
	}
	in.Name = chat.CleanLine(in.Name, chat.NameLimit)
	if in.SilentEnd == 0 {
		in.SilentEnd = defaultSilentEnd
	}
	before, existed := s.Departments[in.ID]
	switch {
	case in.ID == "":
		in.Version = 0
		in.ID = uuid.NewString()
	case !existed || before.RemovedAt != nil:
		return in, store.ErrNotFound
	}
	if err := form.Refuse(append(checkDepartment(in), checkPlace(s, in, before)...)); err != nil {
		return in, err
	}
	row := settings.Department{
		ID: in.ID, Version: in.Version, Name: in.Name, HandOut: routing.HandOut(in.HandOut), Choice: routing.Choice(in.Choice), LastFirst: in.LastFirst, LanguagesFirst: in.LanguagesFirst,
		Capacity: in.Capacity, TargetSeconds: in.TargetSeconds, OfferSeconds: in.OfferSeconds, PassLimit: in.PassLimit, HandOnSeconds: in.HandOnSeconds, WrapUpSeconds: in.WrapUpSeconds,
		WrapUpRequired: in.WrapUpRequired, SilentRemind: in.SilentRemind, SilentEnd: in.SilentEnd,
		AlertWaiting: in.AlertWaiting, AlertWaitSeconds: in.AlertWaitSeconds, AlertNobodySeconds: in.AlertNobodySeconds, AlertRatings: in.AlertRatings,
		OverflowTo: in.OverflowTo, OverflowAfter: in.OverflowAfter, OverflowLength: in.OverflowLength, OverflowClosed: in.OverflowClosed,
		IsDefault: in.IsDefault, CreatedAt: room.Now(),
	}
	if in.HoursID != "" {
		row.HoursID = &in.HoursID
	}
	for _, m := range in.Members {
		row.Members = append(row.Members, settings.Member{DepartmentID: in.ID, OperatorID: m.OperatorID, Backup: m.Backup})
	}
	err = room.Settings.Tables.SaveDepartment(ctx, row)
	if errors.Is(err, store.ErrNameTaken) {
		return in, &form.BadFieldsError{Wrong: []form.Wrong{{Field: "name", Words: "Another department has this name."}}}
	}
	if err != nil {
		return in, err
	}
	room.Changed()
	for _, id := range movedMembers(before.Members, row.Members) {
		room.Live.Reconnect(id)
	}
	in.Version++
	return in, nil
}

// movedMembers returns who is in one list but not in the other.
func movedMembers(before, after []settings.Member) []string {
	has := func(list []settings.Member, id string) bool {
		return slices.ContainsFunc(list, func(m settings.Member) bool { return m.OperatorID == id })
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
	bound := func(field string, value, low, high int, words string) {
		if value < low || value > high {
			wrong = append(wrong, form.Wrong{Field: field, Words: fmt.Sprintf(words, low, high)})
		}
	}
	if in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Give the department a name."})
	}
	if in.Capacity < 1 {
		wrong = append(wrong, form.Wrong{Field: "capacity", Words: "With a capacity of 0, nobody would ever get a chat. Choose at least 1; operators who need a break set themselves to away."})
	} else {
		bound("capacity", in.Capacity, 1, 50, "The capacity must be between %d and %d.")
	}
	bound("targetSeconds", in.TargetSeconds, 1, 86_400, "The answer target must be between %d and %d seconds.")
	bound("offerSeconds", in.OfferSeconds, 5, 600, "An offer must last between %d and %d seconds.")
	bound("passLimit", in.PassLimit, 1, 20, "The number of offers let by must be between %d and %d.")
	bound("handOnSeconds", in.HandOnSeconds, 10, 3600, "The time for taking over must be between %d and %d seconds.")
	bound("silentRemind", in.SilentRemind, 0, 86400, "The time until a reminder must be between %d and %d seconds.")
	bound("silentEnd", in.SilentEnd, 10, 86400, "The time until the end must be between %d and %d seconds.")
	bound("wrapUpSeconds", in.WrapUpSeconds, 0, 3600, "The wrap-up must last between %d and %d seconds.")
	bound("alertWaiting", in.AlertWaiting, 0, 1000, "The number of waiting chats must be between %d and %d.")
	bound("alertWaitSeconds", in.AlertWaitSeconds, 0, 86_400, "The wait until leads are alerted must be between %d and %d seconds.")
	bound("alertNobodySeconds", in.AlertNobodySeconds, 0, 86_400, "The time with nobody in must be between %d and %d seconds.")
	bound("overflowAfter", in.OverflowAfter, 0, 86_400, "The wait before chats overflow must be between %d and %d seconds.")
	bound("overflowLength", in.OverflowLength, 0, 1000, "The number of waiting chats must be between %d and %d.")
	if len(in.OverflowTo) > 0 && in.OverflowAfter == 0 && in.OverflowLength == 0 && !in.OverflowClosed {
		wrong = append(wrong, form.Wrong{Field: "overflowTo", Words: "Choose when chats overflow: after some seconds, above some number, or while closed."})
	}
	return wrong
}

// checkPlace checks a department against all others.
func checkPlace(s *settings.Settings, in DepartmentSettings, before settings.Department) []form.Wrong {
	var wrong []form.Wrong
	if in.HoursID != "" {
		if _, ok := s.Hours[in.HoursID]; !ok {
			wrong = append(wrong, form.Wrong{Field: "hoursId", Words: "These hours no longer exist. Choose others."})
		}
	}
	if before.IsDefault && !in.IsDefault {
		wrong = append(wrong, form.Wrong{Field: "isDefault", Words: "There must be a default department. Make another one the default instead."})
	}
	seen := map[string]bool{}
	for _, m := range in.Members {
		if o, ok := s.Operators[m.OperatorID]; !ok || !o.Active || seen[m.OperatorID] {
			wrong = append(wrong, form.Wrong{Field: "members", Words: "One of the members has left the team, or is listed twice. Reload the page."})
			break
		}
		seen[m.OperatorID] = true
	}
	all := []routing.Department{{ID: in.ID, Name: in.Name, Overflow: routing.Overflow{To: in.OverflowTo}}}
	for _, d := range s.InUse {
		if d.ID != in.ID {
			all = append(all, settings.CoreDepartment(d, true))
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

// Problem implements problem.Teller.
func (e *InUseError) Problem() *problem.Problem {
	return problem.New(http.StatusConflict, "in-use", "This is still needed", e.Words)
}

// RemoveDepartment takes a department out of use, if nothing needs it.
func (room *Room) RemoveDepartment(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return err
	}
	d, ok := s.Departments[id]
	if !ok || d.RemovedAt != nil {
		return store.ErrNotFound
	}
	open, err := room.Tables.OpenChatsOf(ctx, id)
	if err != nil {
		return err
	}
	rules, _, err := room.Settings.Tables.Rules(ctx)
	if err != nil {
		return err
	}
	var users []string
	for _, r := range rules {
		if r.DepartmentID == id {
			users = append(users, "the rule “"+r.Name+"”")
		}
	}
	for _, other := range s.InUse {
		if slices.Contains(other.OverflowTo, id) {
			users = append(users, "the overflow of "+other.Name)
		}
	}
	for _, w := range s.Widgets {
		if w.RemovedAt == nil && slices.Contains(w.Departments, id) {
			users = append(users, "the widget "+w.Name)
		}
	}
	switch {
	case d.IsDefault:
		return &InUseError{fmt.Sprintf("%s is the default department. Make another one the default first.", d.Name)}
	case open > 0:
		return &InUseError{fmt.Sprintf("Chats of %s are still open: %d. End them or hand them on first.", d.Name, open)}
	case len(users) > 0:
		return &InUseError{fmt.Sprintf("%s is still used by %s. Change that first.", d.Name, strings.Join(users, ", "))}
	}
	if err := room.Settings.Tables.RemoveDepartment(ctx, id, room.Now()); err != nil {
		return err
	}
	room.Changed()
	for _, m := range d.Members {
		room.Live.Reconnect(m.OperatorID)
	}
	return nil
}
