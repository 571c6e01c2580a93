package server_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/staffing"
)

// A roster goes out and comes in as CSV and as iCalendar, and is the same.
func TestARosterComesBackAsItWent(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	lead, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	require.NoError(t, f.Store.DB.Exec("delete from shifts").Error)
	text := "operator,department,from,to\r\nidris@example.com,Travel help,2026-12-01 08:00,2026-12-01 16:00\r\nTove Sandmark,,2026-12-01 13:00,2026-12-01 21:00\r\n"
	type body struct {
		Text  string `json:"text"`
		Apply bool   `json:"apply"`
	}
	var plan staffing.RosterImport
	require.NoError(t, lead.Post(f.ctx, "/api/roster/import", body{text, false}, &plan))
	require.Equal(t, []int{2, 0, 0}, []int{plan.Add, plan.Remove, plan.Same})
	var roster staffing.Roster
	days := "?from=2026-12-01&to=2026-12-02"
	require.NoError(t, lead.Get(f.ctx, "/api/roster"+days, &roster))
	require.Empty(t, roster.Shifts, "it was only compared")
	require.NoError(t, lead.Post(f.ctx, "/api/roster/import", body{text, true}, &plan))
	require.NoError(t, lead.Get(f.ctx, "/api/roster"+days, &roster))
	require.Len(t, roster.Shifts, 2)
	for _, format := range []string{"csv", "ics"} {
		file, err := lead.GetText(f.ctx, "/api/roster/file"+days+"&format="+format)
		require.NoError(t, err)
		var again staffing.RosterImport
		require.NoError(t, lead.Post(f.ctx, "/api/roster/import", body{file, true}, &again))
		require.Equal(t, []int{0, 0, 2}, []int{again.Add, again.Remove, again.Same}, format)
		require.Empty(t, again.Refused, format)
	}
	// What a file does not have any more goes; what cannot be used is told and loses nothing.
	wrong := "operator,department,from,to\r\nnobody@example.com,,2026-12-01 08:00,2026-12-01 16:00\r\nidris@example.com,Moon,2026-12-01 08:00,2026-12-01 16:00\r\n" +
		"idris@example.com,,2026-12-01 16:00,2026-12-01 08:00\r\nidris@example.com,,soon,later\r\nidris@example.com,Freight,2026-12-01 08:00,2026-12-01 09:00\r\n"
	require.NoError(t, lead.Post(f.ctx, "/api/roster/import", body{wrong, true}, &plan))
	require.Len(t, plan.Refused, 5)
	require.Zero(t, plan.Add+plan.Remove)
	require.NoError(t, lead.Post(f.ctx, "/api/roster/import", body{strings.Join(strings.SplitAfter(text, "\r\n")[:2], ""), true}, &plan))
	require.Equal(t, 1, plan.Remove)
	requireProblem(t, lead.Post(f.ctx, "/api/roster/import", body{"a,b\r\n1,2\r\n", true}, nil), "bad-fields")

	for _, path := range []string{"/api/roster" + days, "/api/roster/file" + days, "/api/staffing?department=" + f.department("Travel help")} {
		requireProblem(t, idris.Get(f.ctx, path, nil), "not-allowed")
	}
	requireProblem(t, idris.Post(f.ctx, "/api/roster/import", body{text, true}, nil), "not-allowed")
	requireProblem(t, idris.Delete(f.ctx, "/api/roster/"+roster.Shifts[0].ID), "not-allowed")
}

func (f fixture) department(name string) (id string) {
	f.t.Helper()
	require.NoError(f.t, f.Store.DB.Raw("select id::text from departments where name = ?", name).Scan(&id).Error)
	return id
}

// A plan is of the hours in which a department is open, as its clocks show them, of usual
// days or of holidays of the same name, and says when nothing is known.
func TestAPlanIsOfTheRightDays(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	lead := f.operator(3, newInbox())
	bookings := f.department("Bookings")
	// The demo's own chats are counted first: a count that came later would stand beside ours.
	require.Eventually(t, func() bool {
		var behind bool
		err := f.Store.DB.Raw(`select exists (select 1 from events e where e.kind <> 'said' and (e.generation, e.xid, e.chat_id, e.number) >
			(select generation, xid, chat_id, number from followers where name = ?))`, facts.FollowerName).Scan(&behind).Error
		require.NoError(t, err)
		return !behind
	}, 30*time.Second, 20*time.Millisecond)
	require.NoError(t, f.Store.DB.Exec("truncate fact_quarters, fact_chats cascade").Error)
	plan := func(day string) (p staffing.StaffingPlan) {
		require.NoError(t, lead.Get(f.ctx, "/api/staffing?department="+bookings+"&day="+day, &p), day)
		return p
	}
	year := time.Now().Year() + 1
	zone, err := time.LoadLocation(demo.TimeZone)
	require.NoError(t, err)
	// The day on which the clocks go back: the desk is open from 6:00 to 22:30 by them.
	back := time.Date(time.Now().Year(), time.October, 31, 12, 0, 0, 0, zone)
	for back.Weekday() != time.Sunday {
		back = back.AddDate(0, 0, -1)
	}
	if back.Before(time.Now()) {
		back = time.Date(year, time.October, 31, 12, 0, 0, 0, zone)
		for back.Weekday() != time.Sunday {
			back = back.AddDate(0, 0, -1)
		}
	}
	p := plan(back.Format(time.DateOnly))
	require.Len(t, p.Slots, 33)
	require.Equal(t, "06:00", p.Slots[0].At.In(zone).Format("15:04"))
	require.Zero(t, p.Slots[0].Days, "nothing is known yet")
	require.True(t, p.Guessed)
	closed := plan(time.Date(nextYearOf(time.December, 25), time.December, 25, 0, 0, 0, 0, zone).Format(time.DateOnly))
	require.Empty(t, closed.Slots)
	require.Equal(t, "Christmas Day", closed.Holiday)

	// Twelve chats at ten on each of the last Tuesdays, but one was a holiday.
	tuesday := time.Now().In(zone)
	for tuesday.Weekday() != time.Tuesday {
		tuesday = tuesday.AddDate(0, 0, 1)
	}
	if tuesday.Equal(time.Now().In(zone)) {
		tuesday = tuesday.AddDate(0, 0, 7)
	}
	for week := 1; week <= 6; week++ {
		day := tuesday.AddDate(0, 0, -7*week)
		require.NoError(t, f.Store.DB.Exec("insert into fact_quarters (department_id, at, arrivals, missed, messages, waiting_s, held_s) values (?, ?, 12, 0, 0, 0, 0)",
			bookings, time.Date(day.Year(), day.Month(), day.Day(), 10, 15, 0, 0, zone)).Error)
	}
	usual := plan(tuesday.Format(time.DateOnly))
	for _, s := range usual.Slots {
		want := 0.0
		if s.At.In(zone).Format("15:04") == "10:00" {
			want = 12
		}
		require.InDelta(t, want, s.Chats, 1e-9, s.At)
	}
	requireProblem(t, lead.Get(f.ctx, "/api/staffing?department="+bookings+"&day=2199-01-01", nil), "too-far")
	requireProblem(t, lead.Get(f.ctx, "/api/staffing?department=5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0009", nil), "not-found")
}

// nextYearOf is the year in which a day comes next.
func nextYearOf(month time.Month, day int) int {
	now := time.Now()
	if time.Date(now.Year(), month, day, 0, 0, 0, 0, time.UTC).Before(now) {
		return now.Year() + 1
	}
	return now.Year()
}
