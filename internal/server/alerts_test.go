package server_test

import (
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/internal/alerts"
	"stoop/internal/demo"
	"stoop/internal/floor"
	"stoop/internal/standin/talker"
)

func (f fixture) alerts(o *talker.Operator) (list []alerts.AlertView) {
	f.t.Helper()
	require.NoError(f.t, f.Alerts.Look(f.ctx))
	require.NoError(f.t, o.Get(f.ctx, "/api/alerts", &list))
	return list
}

// of returns the alerts of a kind that are not over.
func of(list []alerts.AlertView, kind string) (open []alerts.AlertView) {
	for _, a := range list {
		if a.Kind == kind && a.EndedAt == nil {
			open = append(open, a)
		}
	}
	return open
}

// Somebody waits too long: the leads are called, by mail if they want it, until one says
// that they see to it, or it is over.
func TestLeadsAreCalledWhenSomebodyWaitsTooLong(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	toLead := newInbox()
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, toLead), f.operator(4, newInbox())
	require.NoError(t, lead.Patch(f.ctx, "/api/me/preferences", map[string]string{"mailAlerts": "all"}))
	requireProblem(t, idris.Get(f.ctx, "/api/alerts", &[]alerts.AlertView{}), "not-allowed")
	chatID := f.ask(f.visitor(newInbox()), "Is anybody there?")
	require.Empty(t, of(f.alerts(lead), "wait"))

	require.NoError(t, f.Store.DB.Exec("update chats set since = now() - interval '200 seconds' where id = ?", chatID).Error)
	wait := of(f.alerts(lead), "wait")
	require.Len(t, wait, 1)
	require.Equal(t, 180, wait[0].Over)
	require.GreaterOrEqual(t, wait[0].Worst, 200)
	toLead.until(t, func(m string) bool { return strings.Contains(m, `"type":"alerts"`) })
	m := f.mail(box, 1)
	require.Contains(t, m.Subject, "somebody has waited 3:2")
	require.Contains(t, m.Text, "http://chat.example.com/floor")
	require.Len(t, of(f.alerts(lead), "wait"), 1, "one, however often it is looked")

	path := "/api/alerts/" + wait[0].ID + "/taken"
	requireProblem(t, idris.Put(f.ctx, path, nil), "not-allowed")
	require.NoError(t, lead.Put(f.ctx, path, nil))
	require.NoError(t, lead.Put(f.ctx, path, nil), "twice is as once")
	requireProblem(t, admin.Put(f.ctx, path, nil), "seen-to")
	requireProblem(t, admin.Put(f.ctx, "/api/alerts/00000000-0000-0000-0000-000000000001/taken", nil), "not-found")
	require.Equal(t, "Maren Holt", of(f.alerts(admin), "wait")[0].TakenBy)

	f.take(idris, chatID)
	require.Len(t, of(f.alerts(lead), "wait"), 1, "it must stay calm first")
	require.NoError(t, f.Store.DB.Exec("update alerts set last_at = last_at - interval '1 minute'").Error)
	list := f.alerts(lead)
	require.Empty(t, of(list, "wait"))
	require.NotNil(t, list[0].EndedAt, "it is told of for a while")
	require.Len(t, box.Mails(), 1)
}

// A department without anybody in it, a full queue and a low rating call as well; a
// department that does not want to be called does not.
func TestLeadsAreCalledForWhatTheyAskedFor(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	f.available(idris, true)
	wren := f.visitor(newInbox())
	chatID := f.answered(wren, idris)
	_, err := f.rate(wren, chatID, 1, "Nobody knew.")
	require.NoError(t, err)
	low := of(f.alerts(lead), "rating")
	require.Len(t, low, 1)
	require.Equal(t, chatID, low[0].ChatID)
	require.Equal(t, 1, low[0].Worst)
	read := f.feedback(lead, "toRead=true").Said[0].Chat.Feedback
	require.NoError(t, lead.Post(f.ctx, "/api/chats/"+chatID+"/feedback-read", map[string]any{"number": read.Number}, nil))
	require.Empty(t, of(f.alerts(lead), "rating"), "read and closed")

	require.NoError(t, f.Store.DB.Exec("update departments set hours_id = null, alert_nobody_seconds = 60, alert_waiting = 2").Error)
	f.Settings.Forget()
	f.available(idris, false)
	f.available(admin, false)
	require.Empty(t, of(f.alerts(lead), "nobody"), "not at once")
	require.NoError(t, f.Store.DB.Exec("update alerts set began_at = began_at - interval '2 minutes' where kind = 'nobody'").Error)
	nobody := of(f.alerts(lead), "nobody")
	require.NotEmpty(t, nobody)
	require.GreaterOrEqual(t, nobody[0].Worst, 120)

	f.available(admin, true)
	f.ask(f.visitor(newInbox()), "One")
	require.Empty(t, of(f.alerts(lead), "queue"))
	f.ask(f.visitor(newInbox()), "Two")
	require.Len(t, of(f.alerts(lead), "queue"), 1)
	require.NoError(t, f.Store.DB.Exec("update departments set alert_waiting = 0").Error)
	require.NoError(t, f.Store.DB.Exec("update alerts set last_at = last_at - interval '1 minute'").Error)
	f.Settings.Forget()
	require.Empty(t, of(f.alerts(lead), "queue"), "nobody wants to be called for it")
}

// What the Floor says of today is what a plain count says.
func TestTheFloorsFiguresOfToday(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	for range 3 {
		wren := f.visitor(newInbox())
		_, err := f.rate(wren, f.answered(wren, idris), 4, "")
		require.NoError(t, err)
	}
	f.ask(f.visitor(newInbox()), "Still waiting")
	midnight := time.Now().UTC().Truncate(24 * time.Hour)
	var ended int64
	require.Eventually(t, func() bool {
		require.NoError(t, f.Store.DB.Raw("select count(*) from fact_operators f join operators o on o.id = f.operator_id where o.name = 'Idris Vane' and arrived_at >= ? and live and not guest", midnight).Scan(&ended).Error)
		return ended >= 3
	}, 20*time.Second, 20*time.Millisecond)
	var v floor.FloorView
	require.NoError(t, lead.Get(f.ctx, "/api/floor", &v))
	rated, asked := 0, 0
	for _, d := range v.Departments {
		var today, within, rows int
		require.NoError(t, f.Store.DB.Raw("select count(*) from chats where department_id = ? and started_at >= ? and not message", d.ID, midnight).Scan(&today).Error)
		require.NoError(t, f.Store.DB.Raw("select count(*) from chats where department_id = ? and started_at >= ? and not message and extract(epoch from taken_at - started_at) <= ?", d.ID, midnight, d.TargetSeconds).Scan(&within).Error)
		require.NoError(t, f.Store.DB.Raw("select count(*) from chats where department_id = ? and rated_at >= ?", d.ID, midnight).Scan(&rows).Error)
		require.Equal(t, today, d.Today, d.Name)
		require.EqualValues(t, within, d.Within, d.Name)
		require.Equal(t, rows, d.Rated, d.Name)
		rated, asked = rated+d.Rated, asked+d.Today
		for _, m := range d.Members {
			if m.Name == "Idris Vane" {
				require.EqualValues(t, ended, m.Ended)
				require.LessOrEqual(t, m.OnTime, m.Replies)
			}
		}
	}
	require.GreaterOrEqual(t, rated, 3)
	require.GreaterOrEqual(t, asked, 4)
}

// Of two servers that look at once, one calls: there is one alert and one mail, and the leads
// of both hear of it and of who sees to it.
func TestTwoServersCallOnce(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	g := f.another()
	toThere := newInbox()
	idris, here, there := f.operator(0, newInbox()), f.operator(3, newInbox()), g.operator(4, toThere)
	require.NoError(t, here.Patch(f.ctx, "/api/me/preferences", map[string]string{"mailAlerts": "all"}))
	chatID := f.ask(f.visitor(newInbox()), "Is anybody there?")
	require.NoError(t, f.Store.DB.Exec("update chats set since = now() - interval '200 seconds' where id = ?", chatID).Error)
	var looks sync.WaitGroup
	for range 5 {
		for _, s := range []fixture{f, g} {
			looks.Go(func() { assert.NoError(t, s.Alerts.Look(f.ctx)) })
		}
	}
	looks.Wait()
	wait := of(g.alerts(there), "wait")
	require.Len(t, wait, 1)
	toThere.until(t, func(m string) bool { return strings.Contains(m, `"type":"alerts"`) })
	f.mail(box, 1)
	require.NoError(t, here.Put(f.ctx, "/api/alerts/"+wait[0].ID+"/taken", nil))
	require.Equal(t, "Maren Holt", of(g.alerts(there), "wait")[0].TakenBy)
	f.take(idris, chatID)
	require.Len(t, box.Mails(), 1)
}

// A queue that comes back a moment after it was over is told of, and not mailed again; who
// wants mail of their own departments alone gets none of others.
func TestLeadsAreNotFloodedWithMail(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	lead, admin := f.operator(3, newInbox()), f.operator(4, newInbox())
	require.NoError(t, lead.Patch(f.ctx, "/api/me/preferences", map[string]string{"mailAlerts": "all"}))
	require.NoError(t, admin.Patch(f.ctx, "/api/me/preferences", map[string]string{"mailAlerts": "mine"}))
	require.NoError(t, f.Store.DB.Exec("delete from members where operator_id = (select id from operators where email = ?)", demo.Logins[4].Email).Error)
	require.NoError(t, f.Store.DB.Exec("update departments set alert_waiting = 1, alert_wait_seconds = 0, alert_nobody_seconds = 0").Error)
	f.Settings.Forget()
	f.available(f.operator(0, newInbox()), true) // somebody is in, or it would be a message
	idris := f.operator(0, newInbox())
	first := f.ask(f.visitor(newInbox()), "One")
	require.Len(t, of(f.alerts(lead), "queue"), 1)
	require.Contains(t, f.mail(box, 1).Subject, "1 waiting")
	f.take(idris, first)
	require.NoError(t, f.Store.DB.Exec("update alerts set last_at = last_at - interval '1 minute'").Error)
	require.Empty(t, of(f.alerts(lead), "queue"))
	f.ask(f.visitor(newInbox()), "Two")
	list := f.alerts(lead)
	require.Len(t, of(list, "queue"), 1)
	require.Len(t, list, 2, "the one before is told of beside it")
	var jobs int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from river_job where kind = 'send_alert'").Scan(&jobs).Error)
	require.EqualValues(t, 2, jobs, "one for each lead, of the first alone")
	require.Len(t, box.Mails(), 1)
}
