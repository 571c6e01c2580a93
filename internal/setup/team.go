package setup

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// PersonSettings is a member of the team as an admin edits them.
type PersonSettings struct {
	ID          string          `json:"id,omitempty" doc:"Empty for somebody new"`
	Version     int64           `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Name        string          `json:"name"`
	Email       string          `json:"email"`
	Role        string          `json:"role" enum:"operator,lead,admin"`
	Active      bool            `json:"active" doc:"May log in"`
	Capacity    int             `json:"capacity" doc:"Chats at once; 0 for the department's number"`
	Percent     int             `json:"percent" doc:"Of capacity, for new people"`
	Languages   []string        `json:"languages"`
	Departments []PlaceSettings `json:"departments"`
	Password    string          `json:"password,omitempty" doc:"Sets a new one; somebody new without one is invited"`
	ShownName   string          `json:"shownName" doc:"To visitors; empty for the name"`
	Welcome     string          `json:"welcome" doc:"Said to a visitor whose chat they take"`
	Photo       string          `json:"photo,omitempty" doc:"Address of their photo"`
	Factor      bool            `json:"factor" doc:"They have two-factor on"`
	Joined      bool            `json:"joined" doc:"They can log in; else they were invited, or will be"`
	State       string          `json:"state,omitempty" enum:"available,call,away,offline"`
	Load        int             `json:"load"`
}

// PlaceSettings is a department that somebody belongs to.
type PlaceSettings struct {
	DepartmentID string `json:"departmentId"`
	Backup       bool   `json:"backup"`
}

// PeopleSetup returns the whole team with their settings.
func (room *Room) PeopleSetup(ctx context.Context, o access.Actor) ([]PersonSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	team, err := room.Settings.Tables.Operators(ctx)
	if err != nil {
		return nil, err
	}
	views, err := room.Floor.Team(ctx)
	if err != nil {
		return nil, err
	}
	departments, err := room.Settings.Tables.Departments(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]PersonSettings, len(team))
	for i, member := range team {
		p := PersonSettings{
			ID: member.ID, Version: member.Version, Name: member.Name, Email: member.Email, Role: string(member.Role), Active: member.Active,
			Percent: member.CapacityPercent, Languages: append([]string{}, member.Languages...), Departments: []PlaceSettings{}, State: "offline",
			ShownName: member.ShownName, Welcome: member.Welcome, Photo: member.Photo(), Factor: len(member.TOTPSecret) > 0, Joined: !member.Invited(),
		}
		if member.Capacity != nil {
			p.Capacity = *member.Capacity
		}
		for _, v := range views {
			if v.ID == member.ID {
				p.State, p.Load = v.State, v.Load
			}
		}
		for _, d := range departments {
			for _, m := range d.Members {
				if m.OperatorID == member.ID {
					p.Departments = append(p.Departments, PlaceSettings{DepartmentID: d.ID, Backup: m.Backup})
				}
			}
		}
		list[i] = p
	}
	return list, nil
}

// SavePerson adds somebody to the team or changes them. Who may not log in any
// more loses their connection, and their chats go back to the queue.
func (room *Room) SavePerson(ctx context.Context, o access.Actor, in PersonSettings) (PersonSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return in, err
	}
	in.Name, in.Email = chat.CleanLine(in.Name, chat.NameLimit), strings.TrimSpace(in.Email)
	in.ShownName, in.Welcome = chat.CleanLine(in.ShownName, chat.NameLimit), chat.CleanLine(in.Welcome, welcomeLimit)
	before, existed := s.Operators[in.ID]
	if in.ID != "" && !existed {
		return in, store.ErrNotFound
	}
	if err := form.Refuse(checkPerson(s, o, in, before, existed)); err != nil {
		return in, err
	}
	row := settings.Operator{
		ID: in.ID, Version: in.Version, Email: in.Email, Name: in.Name, Role: access.Role(in.Role), Active: in.Active, CapacityPercent: in.Percent,
		Languages: in.Languages, PasswordHash: before.PasswordHash, CreatedAt: before.CreatedAt, ShownName: in.ShownName, Welcome: in.Welcome,
	}
	if !existed {
		row.ID, row.CreatedAt, row.Version = uuid.NewString(), room.Now(), 0
	}
	if in.Capacity > 0 {
		row.Capacity = &in.Capacity
	}
	if in.Password != "" {
		if row.PasswordHash, err = password.Hash(ctx, in.Password); err != nil {
			return in, err
		}
	}
	places := map[string]bool{}
	for _, p := range in.Departments {
		places[p.DepartmentID] = p.Backup
	}
	err = room.Settings.Tables.SaveOperator(ctx, row, places)
	if errors.Is(err, store.ErrNameTaken) {
		return in, &form.BadFieldsError{Wrong: []form.Wrong{{Field: "email", Words: "Somebody in the team already has this email."}}}
	}
	if err != nil {
		return in, err
	}
	room.Log.Info("a member of the team was saved", "operator", row.ID, "by", o.ID, "role", row.Role, "before", before.Role, "active", row.Active, "password", in.Password != "")
	room.Changed()
	room.Live.Reconnect(row.ID)
	if existed && before.Active && !in.Active {
		if err := room.Floor.Release(ctx, row.ID, true); err != nil {
			return in, err
		}
	}
	room.Floor.TeamMoved(ctx)
	in.ID, in.Password, in.Version, in.Joined = row.ID, "", row.Version+1, !row.Invited()
	in.Photo, in.Factor = before.Photo(), len(before.TOTPSecret) > 0
	return in, nil
}

// welcomeLimit bounds what is said to a visitor whose chat somebody takes, in code points.
const welcomeLimit = 300

func checkPerson(s *settings.Settings, by access.Actor, in PersonSettings, before settings.Operator, existed bool) []form.Wrong {
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	if in.Name == "" {
		at("name", "Enter the name that colleagues and visitors see.")
	}
	if !form.ValidEmail(in.Email) {
		at("email", "This does not look like an email address.")
	}
	if !slices.Contains([]string{"operator", "lead", "admin"}, in.Role) {
		at("role", "Choose operator, lead or admin.")
	}
	if in.Capacity < 0 || in.Capacity > 50 {
		at("capacity", "The capacity must be between 1 and 50. Leave it empty for the department's number.")
	}
	if in.Percent < 1 || in.Percent > 100 {
		at("percent", "The percentage must be between 1 and 100.")
	}
	whose := password.For{Name: in.Name, Email: in.Email, Factor: len(before.TOTPSecret) > 0}
	if words := password.Check(in.Password, whose); in.Password != "" && words != "" {
		at("password", words)
	}
	for _, p := range in.Departments {
		if d, ok := s.Departments[p.DepartmentID]; !ok || d.RemovedAt != nil {
			at("departments", "One of the departments no longer exists. Reload the page.")
		}
	}
	if existed && before.Role == access.Admin && (in.Role != "admin" || !in.Active) {
		admins := 0
		for _, o := range s.Operators {
			if o.Role == access.Admin && o.Active && !o.Invited() {
				admins++
			}
		}
		if admins < 2 {
			at("role", "This is the last admin. Make somebody else an admin first.")
		}
	}
	if by.ID == in.ID && !in.Active {
		at("active", "You cannot deactivate yourself. Ask another admin.")
	}
	return wrong
}
