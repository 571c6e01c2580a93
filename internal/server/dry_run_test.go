package server_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/routing"
	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/setup"
	"stoop/internal/standin/talker"
)

// replayable starts a house with some weeks of chats behind it.
func replayable(t *testing.T, chats int) (f fixture, ansel *talker.Operator, asked setup.DryRunAsked) {
	f = start(t, nil)
	require.NoError(t, demo.SeedPast(f.ctx, f.Store, siteOrigin, chats, time.Now(), func(facts.Loading) {}))
	f.Settings.Forget()
	now := time.Now()
	return f, f.operator(4, newInbox()), setup.DryRunAsked{From: now.AddDate(0, 0, -60).Format(time.DateOnly), To: now.AddDate(0, 0, -1).Format(time.DateOnly)}
}

func (f fixture) dryRun(o *talker.Operator, in setup.DryRunAsked) (out setup.DryRun) {
	f.t.Helper()
	require.NoError(f.t, o.Post(f.ctx, "/api/setup/dry-run", in, &out))
	return out
}

// A past period happens again: what happened is what the log says, the set-up in force is
// replayed beside it, and so is a draft, of which nothing is stored.
func TestADryRun(t *testing.T) {
	t.Parallel()
	f, ansel, asked := replayable(t, 4000)
	plain := f.dryRun(ansel, asked)
	require.Greater(t, plain.Chats, 200)
	require.Nil(t, plain.All.Draft)
	require.Equal(t, plain.Chats, plain.All.Happened.Chats+plain.All.Happened.Messages)
	require.Equal(t, plain.Chats, plain.All.InForce.Chats+plain.All.InForce.Messages)
	var want struct {
		Missed   int
		InTarget int
		Median   float64
	}
	from, err := time.ParseInLocation(time.DateOnly, asked.From, f.Setup.Zone)
	require.NoError(t, err)
	to, err := time.ParseInLocation(time.DateOnly, asked.To, f.Setup.Zone)
	require.NoError(t, err)
	// PostgreSQL's own count of the same.
	require.NoError(t, f.Store.DB.Raw(`select count(*) filter (where ending = 'missed') as missed, count(*) filter (where in_target and ending <> 'message') as in_target,
		percentile_cont(0.5) within group (order by wait_s) filter (where ending = 'answered') as median
		from fact_chats where arrived_at >= ? and arrived_at < ?`, from, to.AddDate(0, 0, 1)).Scan(&want).Error)
	require.Equal(t, want.Missed, plain.All.Happened.Missed)
	require.Equal(t, want.InTarget, plain.All.Happened.InTarget)
	require.InDelta(t, want.Median, *plain.All.Happened.Median, 0.05)
	t.Logf("counted: dry run, %d chats: missed %d happened, %d replayed; median wait %.0f s happened, %.0f s replayed", plain.Chats,
		plain.All.Happened.Missed, plain.All.InForce.Missed, *plain.All.Happened.Median, *plain.All.InForce.Median)
	chats := 0
	for _, h := range plain.Hours {
		chats += h.Happened.Chats + h.Happened.Messages
	}
	require.Equal(t, plain.Chats, chats)

	// The same draft is the same as what is in force; luck is the same.
	var departments []setup.DepartmentSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/departments", &departments))
	asked.Departments = departments[:1]
	same := f.dryRun(ansel, asked)
	require.Equal(t, same.All.InForce, *same.All.Draft)
	require.Empty(t, same.Moved)

	// With capacity one fewer are taken in time.
	for i := range departments {
		departments[i].Capacity = 1
	}
	asked.Departments = departments
	narrow := f.dryRun(ansel, asked)
	require.Less(t, narrow.All.Draft.InTarget, narrow.All.InForce.InTarget)
	require.Equal(t, plain.All.InForce, narrow.All.InForce)

	// A rule that sends all to freight moves them all, and nothing is stored.
	var rules setup.RuleList
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/rules", &rules))
	freight := f.department("Freight")
	asked.Departments = nil
	asked.Rules = &setup.RuleList{Version: rules.Version, Rules: []routing.Rule{{Name: "All of it", On: true, Match: routing.All, Conditions: []routing.Condition{{Field: "score", Operator: routing.Not, Value: "9"}}, Department: freight}}}
	moved := f.dryRun(ansel, asked)
	total := 0
	for _, m := range moved.Moved {
		require.Equal(t, "Freight", m.To)
		total += m.Chats
	}
	for _, d := range moved.Departments {
		if d.Name == "Freight" {
			require.Equal(t, moved.Chats, d.Draft.Chats+d.Draft.Messages)
			require.Equal(t, moved.Chats, total+d.InForce.Chats+d.InForce.Messages)
		}
	}
	require.Contains(t, moved.Notes, setup.DryRunNote{Code: "field-unknown", Value: "score"})
	var after setup.RuleList
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/rules", &after))
	require.Equal(t, rules, after)
}

// A draft that cannot be is refused with a word, an old one is not run over a colleague's
// change, and it is for admins.
func TestADryRunThatCannotBe(t *testing.T) {
	t.Parallel()
	f, ansel, asked := replayable(t, 300)
	maren := f.operator(3, newInbox())
	requireProblem(t, maren.Post(f.ctx, "/api/setup/dry-run", asked, nil), "not-allowed")
	for _, days := range [][2]string{{"", ""}, {"2026-11-02", "2026-11-01"}, {"2020-01-01", "2026-01-01"}, {"2026-02-30", "2026-03-01"}} {
		requireProblem(t, ansel.Post(f.ctx, "/api/setup/dry-run", setup.DryRunAsked{From: days[0], To: days[1]}, nil), "bad-fields")
	}
	var departments []setup.DepartmentSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/departments", &departments))
	asked.Departments = departments[:1]
	asked.Departments[0].Capacity = 0
	refused := f.dryRun(ansel, asked)
	require.Len(t, refused.Wrong, 1)
	require.Equal(t, "capacity", refused.Wrong[0].Field)
	require.Zero(t, refused.Chats)
	asked.Departments[0].Capacity, asked.Departments[0].Version = 2, 99
	requireProblem(t, ansel.Post(f.ctx, "/api/setup/dry-run", asked, nil), "changed")
	// Whoever is put out in a draft stays in earnest.
	var people []setup.PersonSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/people", &people))
	asked.Departments = nil
	for _, p := range people {
		if p.Name == "Tove Sandmark" {
			p.Active, p.Departments = false, []setup.PlaceSettings{}
			asked.People = append(asked.People, p)
		}
	}
	require.Len(t, asked.People, 1)
	require.NotNil(t, f.dryRun(ansel, asked).All.Draft)
	o, err := f.Setup.Settings.Tables.OperatorByEmail(f.ctx, "tove@example.com")
	require.NoError(t, err)
	require.True(t, o.Active)
	// A period in which nothing came.
	none := f.dryRun(ansel, setup.DryRunAsked{From: "2019-01-01", To: "2019-01-31"})
	require.Zero(t, none.Chats)
	require.Nil(t, none.All.InForce.Median)
}
