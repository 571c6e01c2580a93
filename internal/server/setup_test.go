package server_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/problem"
	"stoop/internal/setup"
)

// fieldsOf returns what a refusal says at each field.
func fieldsOf(t *testing.T, err error) map[string]string {
	t.Helper()
	p := requireProblem(t, err, "bad-fields")
	fields := map[string]string{}
	for _, w := range p.Fields {
		fields[w.Field] = w.Words
	}
	return fields
}

// Bad settings are refused with a sentence at the field, and change nothing.
func TestBadSettingsAreRefusedAtTheirField(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	change := func(how func(*setup.DepartmentSettings)) error {
		d := f.departmentNamed("Harbour")
		how(&d)
		return f.admin.Put(f.ctx, "/api/setup/departments", d)
	}
	help := f.departmentNamed(demo.TravelHelp)
	require.NoError(t, change(func(d *setup.DepartmentSettings) { d.OverflowTo, d.OverflowAfter = []string{help.ID}, 30 }))
	circle := help
	circle.OverflowTo, circle.OverflowAfter = []string{f.department.ID}, 30
	require.Equal(t, "The overflow runs in a circle: Travel help → Harbour → Travel help. Take one step out.", fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/departments", circle))["overflowTo"])
	require.Contains(t, fieldsOf(t, change(func(d *setup.DepartmentSettings) { d.Capacity = 0 }))["capacity"], "nobody would ever get a chat")
	require.Contains(t, fieldsOf(t, change(func(d *setup.DepartmentSettings) { d.Name = " " }))["name"], "name")
	require.Contains(t, fieldsOf(t, change(func(d *setup.DepartmentSettings) { d.Name = "travel HELP" }))["name"], "Another department")
	require.Contains(t, fieldsOf(t, change(func(d *setup.DepartmentSettings) { d.OfferSeconds, d.OverflowTo = 1, []string{uuid.NewString()} }))["overflowTo"], "does not exist")
	require.Contains(t, fieldsOf(t, change(func(d *setup.DepartmentSettings) { d.Members = []setup.MemberSettings{{OperatorID: uuid.NewString()}} }))["members"], "has left the team")
	require.NoError(t, change(func(d *setup.DepartmentSettings) { d.Members = []setup.MemberSettings{} }), "a department may be empty; its visitors leave messages")

	old := f.departmentNamed("Harbour")
	require.NoError(t, f.admin.Put(f.ctx, "/api/setup/departments", old))
	requireProblem(t, f.admin.Put(f.ctx, "/api/setup/departments", old), "changed")

	never := setup.HoursSettings{Name: "Never", Zone: "Europe/Copenhagen", Weekly: []setup.WeeklySettings{}, Exceptions: []setup.ExceptionSettings{}}
	require.Contains(t, fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/hours", never))["weekly"], "never open")
	never.Zone, never.Weekly = "Mars", []setup.WeeklySettings{{Day: 1, From: "8", To: "12:00"}}
	require.Contains(t, fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/hours", never))["weekly.0"], "not a time of day")
}

func TestRulesAreRefusedOrHeld(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	var list setup.RuleList
	require.NoError(t, f.admin.Get(f.ctx, "/api/setup/rules", &list))
	good := list.Rules[0]
	bad := good
	bad.ID, bad.Conditions = "", []routing.Condition{{Field: "page.url", Operator: routing.Matches, Value: "(["}}
	gone := good
	gone.ID, gone.Department = "", uuid.NewString()
	fields := fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/rules", setup.RuleList{Version: list.Version, Rules: []routing.Rule{good, bad, gone}}))
	require.Contains(t, fields["rules.1.conditions.0"], "cannot be read")
	require.Contains(t, fields["rules.2.department"], "no longer exists")
	require.NoError(t, f.admin.Put(f.ctx, "/api/setup/rules", list))
	requireProblem(t, f.admin.Put(f.ctx, "/api/setup/rules", list), "changed")

	p := requireProblem(t, f.admin.Delete(f.ctx, "/api/setup/departments/"+f.department.ID), "in-use")
	require.Contains(t, p.Detail, "the rule “Harbour pages”")
	f.rules()
	f.comes("Idris")
	_, chatID := f.asks(nil) // goes to the default department now
	help := f.departmentNamed(demo.TravelHelp)
	require.Contains(t, requireProblem(t, f.admin.Delete(f.ctx, "/api/setup/departments/"+help.ID), "in-use").Detail, "default department")
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+chatID+"/take", nil, nil))
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+chatID+"/hand-on", map[string]string{"departmentId": f.department.ID}, nil))
	require.Contains(t, requireProblem(t, f.admin.Delete(f.ctx, "/api/setup/departments/"+f.department.ID), "in-use").Detail, "still open: 1")
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+chatID+"/take-back", nil, nil))
	require.NoError(t, f.admin.Delete(f.ctx, "/api/setup/departments/"+f.department.ID))

	// A rule that points at it all the same, by whatever way, loses no chat.
	require.NoError(t, f.Store.DB.Exec("insert into rules (id, position, name, department_id) values (gen_random_uuid(), 0, 'Old', ?)", f.department.ID).Error)
	f.Settings.Forget()
	_, again := f.asks(nil)
	c, err := chatlog.On(f.Store).Chat(f.ctx, again)
	require.NoError(t, err)
	require.Equal(t, help.ID, c.State.Department)
}

func TestTryItTellsWhatWouldHappen(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	var list setup.RuleList
	require.NoError(t, f.admin.Get(f.ctx, "/api/setup/rules", &list))
	attempt := func(trial setup.Trial) (got setup.TrialResult) {
		trial.Rules = list.Rules
		require.NoError(t, f.admin.Post(f.ctx, "/api/setup/rules/try", trial, &got))
		return got
	}
	got := attempt(setup.Trial{PageURL: siteOrigin + "/harbour"})
	require.Equal(t, []string{"Harbour", "closed"}, []string{got.DepartmentName, got.Outcome})
	f.comes("Idris")
	got = attempt(setup.Trial{PageURL: siteOrigin + "/harbour"})
	require.Equal(t, []string{"assign", "Idris Vane"}, []string{got.Outcome, got.OperatorName})
	require.Equal(t, "rule", got.Reasons[0].Code)
	got = attempt(setup.Trial{PageURL: siteOrigin + "/elsewhere", Facts: map[string]string{"hour": "22", "form.topic": "x"}})
	require.Equal(t, []string{demo.TravelHelp, "pick"}, []string{got.DepartmentName, got.Outcome})
}

func TestOnlyAdminsSetUp(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	for _, path := range []string{"departments", "hours", "rules", "people"} {
		requireProblem(t, maren.Get(f.ctx, "/api/setup/"+path, nil), "not-allowed")
		require.NoError(t, ansel.Get(f.ctx, "/api/setup/"+path, nil))
	}
	requireProblem(t, maren.Put(f.ctx, "/api/setup/departments", setup.DepartmentSettings{
		Name: "Mine", HandOut: "pick", Choice: "turn", OverflowTo: []string{}, Members: []setup.MemberSettings{}}), "not-allowed")
}

// People are added with a password, get departments and capacity, and when they
// are shut out, their sessions end and their chats go back.
func TestThePeopleOfTheTeam(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris", "Tove")
	person := setup.PersonSettings{Name: "Pia Strand", Email: "pia@example.com", Role: "operator", Active: true, Percent: 50, Languages: []string{"da"},
		Departments: []setup.PlaceSettings{{DepartmentID: f.department.ID}}, Password: "short"}
	require.Contains(t, fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/people", person))["password"], "at least 15")
	person.Password = "longer than fifteen"
	var saved setup.PersonSettings
	require.NoError(t, f.admin.PutInto(f.ctx, "/api/setup/people", person, &saved))
	require.Empty(t, saved.Password)
	twice := person
	twice.ID, twice.Password = "", "longer than fifteen"
	require.Contains(t, fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/people", twice))["email"], "already")

	f.comes("Idris")
	_, chatID := f.asks(nil)
	f.owner(chatID, "Idris")
	var team []setup.PersonSettings
	require.NoError(t, f.admin.Get(f.ctx, "/api/setup/people", &team))
	for _, p := range team {
		switch p.Email {
		case "ansel@example.com":
			p.Role = "lead"
			require.Contains(t, fieldsOf(t, f.admin.Put(f.ctx, "/api/setup/people", p))["role"], "last admin")
		case "idris@example.com":
			require.Equal(t, 1, p.Load)
			f.comes("Tove")
			p.Active = false
			require.NoError(t, f.admin.Put(f.ctx, "/api/setup/people", p))
		case "pia@example.com":
			require.Equal(t, []int{50, 0}, []int{p.Percent, p.Capacity})
		}
	}
	f.owner(chatID, "Tove")
	var p *problem.Problem
	require.ErrorAs(t, f.people["Idris"].Get(f.ctx, "/api/desk", nil), &p)
	require.Equal(t, "login-first", p.Code)
}

func TestHoursGoOutAndComeInAsCalendars(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	var all []setup.HoursSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/hours", &all))
	require.Equal(t, []string{demo.Bookings}, all[0].UsedBy)
	require.NotEmpty(t, all[0].Status.Zone)
	calendar, err := ansel.GetText(f.ctx, "/api/setup/hours/"+all[0].ID+"/calendar")
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(calendar, "BEGIN:VCALENDAR\r\n"))
	var read setup.ImportedHours
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/hours/import", map[string]string{"calendar": calendar}, &read))
	require.Empty(t, read.LeftOut)
	require.ElementsMatch(t, all[0].Weekly, read.Hours.Weekly)
	require.Len(t, read.Hours.Exceptions, len(all[0].Exceptions))
	fresh := read.Hours
	fresh.Name, fresh.Exceptions = "Night desk", []setup.ExceptionSettings{}
	var saved setup.HoursSettings
	require.NoError(t, ansel.PutInto(f.ctx, "/api/setup/hours", fresh, &saved))
	require.Equal(t, fresh.Weekly, saved.Weekly)
	require.Contains(t, fieldsOf(t, ansel.Put(f.ctx, "/api/setup/hours", fresh))["name"], "other hours")
	require.NoError(t, ansel.Delete(f.ctx, "/api/setup/hours/"+saved.ID))
	require.Contains(t, fieldsOf(t, ansel.Post(f.ctx, "/api/setup/hours/import", map[string]string{"calendar": "hello"}, nil))["calendar"], "not an iCalendar file")
	require.Contains(t, requireProblem(t, ansel.Delete(f.ctx, "/api/setup/hours/"+all[0].ID), "in-use").Detail, demo.Bookings)
}
