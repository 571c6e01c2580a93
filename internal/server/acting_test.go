package server_test

import (
	"context"
	"fmt"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/acting"
	"stoop/core/chat"
	"stoop/core/routing"
	acts "stoop/internal/acting"
	"stoop/internal/demo"
	"stoop/internal/files"
	"stoop/internal/hooks"
	"stoop/internal/live"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

func (f fixture) rules(admin *talker.Operator, rules ...acting.ActingRule) (saved settings.ActingSettings) {
	f.t.Helper()
	var now settings.ActingSettings
	require.NoError(f.t, admin.Get(f.ctx, "/api/setup/acting", &now))
	for i := range rules {
		rules[i].On, rules[i].Match = true, routing.All
		rules[i].If, rules[i].Departments = append([]routing.Condition{}, rules[i].If...), append([]string{}, rules[i].Departments...)
	}
	require.NoError(f.t, admin.PutInto(f.ctx, "/api/setup/acting", settings.ActingSettings{Version: now.Version, Rules: rules}, &saved))
	return saved
}

// did returns what rules did in a chat: names with what became of each act.
func (f fixture) did(admin *talker.Operator, chatID string) (list []string) {
	f.t.Helper()
	var runs []acts.RunView
	require.NoError(f.t, admin.Get(f.ctx, "/api/setup/acting/runs", &runs))
	return linesOf(runs, chatID)
}

func linesOf(runs []acts.RunView, chatID string) (list []string) {
	for i := len(runs) - 1; i >= 0; i-- {
		if runs[i].ChatID != chatID {
			continue
		}
		line := runs[i].RuleName
		for _, r := range runs[i].Results {
			line += fmt.Sprintf(" %s", r.Kind)
			if r.Why != acting.Done {
				line += "=" + string(r.Why)
			}
		}
		list = append(list, line)
	}
	return list
}

func (f fixture) untilDid(admin *talker.Operator, chatID string, lines ...string) {
	f.t.Helper()
	require.Eventually(f.t, func() bool { return len(f.did(admin, chatID)) >= len(lines) }, 20*time.Second, 20*time.Millisecond, "%v", lines)
	require.Equal(f.t, lines, f.did(admin, chatID))
}

// A chat that comes is tagged, spoken to, moved, and told of, in the order of the rule; its log
// and the rule's say so, and a machine's words are no reply.
func TestARuleDoesAllThatItSays(t *testing.T) {
	t.Parallel()
	f, box := withMail(t, func(c *server.Config) { c.AllowedNetworks = []string{"127.0.0.0/8"} })
	admin := f.operator(4, newInbox())
	hook := newReceiver(t)
	w := f.webhook(admin, hook, hooks.WebhookView{Name: "Records", URL: hook.URL, Kinds: []string{"ended"}})
	freight := f.departmentNamed(demo.Freight)
	saved := f.rules(admin, acting.ActingRule{Name: "Freight first", When: acting.Arrives, If: []routing.Condition{{Field: "contact.name", Operator: routing.Equals, Value: "wren"}}, Do: []acting.RuleAct{
		{Kind: acting.Tag, Tag: "Lorry"}, {Kind: acting.Say, Text: "Freight looks into it."}, {Kind: acting.Priority, Priority: 5}, {Kind: acting.HandOn, Department: freight},
		{Kind: acting.Ticket, Text: "Look after the lorry", Urgency: "high"}, {Kind: acting.Mail, To: "lead@example.com", Text: "A lorry has come."}, {Kind: acting.Webhook, Webhook: w.ID},
	}})
	require.NotEmpty(t, saved.Rules[0].ID)
	toWren := newInbox()
	chatID := f.ask(f.visitor(toWren), "Is there room for a lorry?")
	toWren.until(t, func(m string) bool {
		return strings.Contains(m, `"kind":"automatic"`) && strings.Contains(m, "Freight looks into it.")
	})
	f.untilDid(admin, chatID, "Freight first tag say priority hand-on ticket mail webhook")
	s := f.chatState(chatID)
	require.Equal(t, []string{"lorry"}, s.Tags)
	require.Equal(t, freight, s.Department)
	require.Equal(t, 5, s.Priority)
	require.True(t, s.RepliedAt.IsZero())
	require.Equal(t, chat.TeamTurn, s.Turn)
	require.Equal(t, []string{"Look after the lorry"}, f.finds(admin, "chat="+chatID))
	m := f.mail(box, 1)
	require.Equal(t, "lead@example.com", m.To)
	require.Contains(t, m.Text, "A lorry has come.")
	require.Contains(t, m.Text, "/desk?chat="+chatID)
	require.Eventually(t, func() bool { kinds, _ := hook.told(chatID); return len(kinds) == 1 && kinds[0] == hooks.RuleKind }, 20*time.Second, 20*time.Millisecond)

	// Another visitor, another chat: the conditions do not hold.
	other := f.visitor(newInbox())
	opened, err := other.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "And mine?", Name: "Oskar"})
	require.NoError(t, err)
	require.Eventually(t, func() bool { return f.runsOpen() == 0 }, 20*time.Second, 20*time.Millisecond)
	require.Empty(t, f.did(admin, opened.Chat.ID))
	require.Empty(t, f.chatState(opened.Chat.ID).Tags)
}

// runsOpen is how much rules are to do still.
func (f fixture) runsOpen() (n int) {
	require.NoError(f.t, f.Store.DB.Raw("select count(*) from rule_runs where done_at is null").Scan(&n).Error)
	return n
}

// Of a wait, a silence and an operator's own silence each is acted on when it is long enough,
// once; two in a row are not said.
func TestRulesActWhenItTakesLong(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(seeded(t), 8)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	var passed atomic.Int64
	begin := time.Now()
	now := func() time.Time { return begin.Add(time.Duration(passed.Load()) * time.Second) }
	disk, err := files.NewDisk(t.TempDir())
	require.NoError(t, err)
	h, err := server.NewHouse(server.HouseConfig{Store: s, Live: live.Nobody{}, Files: disk, Now: now})
	require.NoError(t, err)
	require.NoError(t, h.Start(ctx))
	t.Cleanup(h.Close)
	all, err := h.Settings.Get(ctx)
	require.NoError(t, err)
	who := func(n int) access.Actor {
		for _, o := range all.Team {
			if o.Email == demo.Logins[n].Email {
				return all.Actor(o.ID)
			}
		}
		return access.Actor{}
	}
	idris, admin := who(0), who(4)
	h.Floor.Connected(ctx, "idris", chat.Operator(idris.ID), nil)
	_, err = h.Floor.SetAvailable(ctx, idris, true)
	require.NoError(t, err)
	help := idris.Departments[0]
	list := settings.ActingSettings{Rules: []acting.ActingRule{
		{Name: "Long", When: acting.Waits, Seconds: 60, Do: []acting.RuleAct{{Kind: acting.Say, Text: "We are still busy."}, {Kind: acting.Tag, Tag: "long"}}},
		{Name: "Longer", When: acting.Waits, Seconds: 120, Do: []acting.RuleAct{{Kind: acting.Say, Text: "It takes longer today."}}},
		{Name: "Quiet", When: acting.Silent, Seconds: 60, Do: []acting.RuleAct{{Kind: acting.Say, Text: "Are you there?"}}},
		{Name: "Idle", When: acting.Unanswered, Seconds: 60, Do: []acting.RuleAct{{Kind: acting.AskTeam, Department: help, Text: "Who helps?"}}},
	}}
	for i := range list.Rules {
		list.Rules[i].On = true
	}
	_, err = h.Acting.SaveActing(ctx, admin, list)
	require.NoError(t, err)
	w, err := h.Settings.Tables.WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	v, err := h.Talk.Admit(ctx, w, "", "")
	require.NoError(t, err)
	h.Floor.Connected(ctx, "wren", chat.Visitor(v.ID), nil)
	opened, err := h.Talk.Open(ctx, v, talk.Opening{ClientID: uuid.NewString(), Text: "Is there a lift?"})
	require.NoError(t, err)
	id := opened.Chat.ID
	did := []string{}
	until := func(seconds int64, what string) {
		t.Helper()
		passed.Store(seconds)
		did = append(did, what)
		require.Eventually(t, func() bool {
			runs, err := h.Acting.Runs(ctx, admin, "", 0)
			return err == nil && len(runs) >= len(did)
		}, 20*time.Second, 20*time.Millisecond, what)
		runs, err := h.Acting.Runs(ctx, admin, "", 0)
		require.NoError(t, err)
		require.Equal(t, did, linesOf(runs, id))
	}
	passed.Store(59)
	require.NoError(t, h.Acting.Look(ctx))
	until(61, "Long say tag")
	until(121, "Longer say=in-a-row")
	_, err = h.Talk.Take(ctx, idris, id, false)
	require.NoError(t, err)
	until(182, "Idle ask")
	c, err := h.Chats.Chat(ctx, id)
	require.NoError(t, err)
	require.Equal(t, help, c.State.Call.Department)
	_, err = h.Talk.OperatorSays(ctx, idris, id, uuid.NewString(), "Yes, on all ships.", nil)
	require.NoError(t, err)
	until(243, "Quiet say")
	require.NoError(t, h.Acting.Look(ctx))
	passed.Store(300)
	require.NoError(t, h.Acting.Look(ctx))
	var open int
	require.NoError(t, s.DB.Raw("select count(*) from rule_runs where done_at is null").Scan(&open).Error)
	require.Zero(t, open, "each once")
}

// The end, a low rating and a message each have their occasion.
func TestRulesActAfterTheEnd(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	admin, idris := f.operator(4, newInbox()), f.operator(0, newInbox())
	f.rules(admin,
		acting.ActingRule{Name: "Over", When: acting.Ends, Do: []acting.RuleAct{{Kind: acting.Tag, Tag: "over"}}},
		acting.ActingRule{Name: "Low", When: acting.RatedLow, Do: []acting.RuleAct{{Kind: acting.Ticket, Urgency: "urgent"}}},
		acting.ActingRule{Name: "Left", When: acting.Message, Do: []acting.RuleAct{{Kind: acting.Ticket}, {Kind: acting.Mail, To: "lead@example.com"}}},
	)
	v := f.visitor(newInbox())
	chatID := f.answered(v, idris)
	f.untilDid(admin, chatID, "Over tag")
	_, err := f.rate(v, chatID, 5, "")
	require.NoError(t, err)
	_, err = f.rate(v, chatID, 1, "It took long")
	require.NoError(t, err)
	f.untilDid(admin, chatID, "Over tag", "Low ticket")
	_, err = f.rate(v, chatID, 2, "It took long, but well")
	require.NoError(t, err)
	require.Len(t, f.finds(admin, "chat="+chatID), 1)
	f.available(idris, false)
	f.nobodyIn()
	var kept talk.Opened
	require.NoError(t, f.visitor(newInbox()).Call(f.ctx, "message", talk.Opening{ClientID: uuid.NewString(), Text: "Is anybody there?", Name: "Wren", Email: "wren@example.com"}, &kept))
	left := kept.Chat.ID
	require.True(t, f.chatState(left).Message)
	f.untilDid(admin, left, "Left ticket mail=cannot")
	require.Len(t, f.finds(admin, "chat="+left), 1)
	require.Len(t, f.did(admin, chatID), 2, "one for a chat, however often its visitor changes their mind")
}

// What was begun is gone on with by whoever finds it, act by act, and nothing is done twice.
func TestARuleIsGoneOnWithAfterAServerDied(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	admin := f.operator(4, newInbox())
	saved := f.rules(admin, acting.ActingRule{Name: "Two", When: acting.Arrives, Do: []acting.RuleAct{{Kind: acting.Say, Text: "Once."}, {Kind: acting.Ticket, Text: "Once"}, {Kind: acting.Tag, Tag: "once"}}})
	chatID := f.ask(f.visitor(newInbox()), "Is there a lift?")
	f.untilDid(admin, chatID, "Two say ticket tag")
	// It died before it could say that it had done the words, and once more after the ticket.
	for _, done := range []string{`[]`, `[{"kind":"say"}]`} {
		require.NoError(t, f.Store.DB.Exec("update rule_runs set done_at = null, claimed_until = null, results = ?", done).Error)
		require.Eventually(t, func() bool { return f.runsOpen() == 0 }, 20*time.Second, 20*time.Millisecond)
	}
	log, err := f.Chats.Events(f.ctx, chatID, 0, 100)
	require.NoError(t, err)
	count := map[chat.Kind]int{}
	for _, e := range log {
		count[e.Kind]++
	}
	require.Equal(t, 1, count[chat.Automatic])
	require.Equal(t, 1, count[chat.Ticketed])
	require.Equal(t, 1, count[chat.Tagged])
	require.Len(t, f.finds(admin, "chat="+chatID), 1)

	// A rule that is taken away does nothing more, and one that is off neither.
	saved.Rules[0].On = false
	require.NoError(t, admin.Put(f.ctx, "/api/setup/acting", saved))
	other := f.ask(f.visitor(newInbox()), "And a lounge?")
	require.Eventually(t, func() bool { return f.runsOpen() == 0 }, 20*time.Second, 20*time.Millisecond)
	require.Empty(t, f.did(admin, other))
}

func TestRulesAreKeptAndTriedByAdminsAlone(t *testing.T) {
	t.Parallel()
	f := withPast(t, 300)
	admin, lead := f.operator(4, newInbox()), f.operator(3, newInbox())
	for _, o := range []*talker.Operator{lead, f.operator(0, newInbox())} {
		requireProblem(t, o.Get(f.ctx, "/api/setup/acting", nil), "not-allowed")
		requireProblem(t, o.Put(f.ctx, "/api/setup/acting", settings.ActingSettings{Rules: []acting.ActingRule{}}), "not-allowed")
		requireProblem(t, o.Get(f.ctx, "/api/setup/acting/runs", nil), "not-allowed")
		requireProblem(t, o.Post(f.ctx, "/api/setup/acting/try", acts.Trying{Rules: []acting.ActingRule{}, Days: 7}, nil), "not-allowed")
	}
	saved := f.rules(admin, acting.ActingRule{Name: "Low", When: acting.RatedLow, Do: []acting.RuleAct{{Kind: acting.Tag, Tag: "low"}}})
	var changes setup.ChangePage
	require.NoError(t, admin.Get(f.ctx, "/api/setup/changes?kind=acting", &changes))
	require.Len(t, changes.Changes, 1)
	require.Equal(t, demo.Logins[4].Name, changes.Changes[0].By)
	requireProblem(t, admin.Put(f.ctx, "/api/setup/acting", settings.ActingSettings{Version: "0", Rules: []acting.ActingRule{}}), "changed")
	bad := saved
	bad.Rules = append([]acting.ActingRule{}, saved.Rules...)
	bad.Rules[0].Do = []acting.RuleAct{{Kind: acting.Say, Text: "Sorry."}}
	require.Equal(t, "rules.0.do.0", requireProblem(t, admin.Put(f.ctx, "/api/setup/acting", bad), "bad-fields").Fields[0].Field)

	// Tried on the past: as many as PostgreSQL counts of what was rated low and what waited long.
	rules := []acting.ActingRule{saved.Rules[0], {ID: uuid.NewString(), Name: "Long", On: true, When: acting.Waits, Seconds: 60, Match: routing.All, If: []routing.Condition{}, Departments: []string{}, Do: []acting.RuleAct{{Kind: acting.Tag, Tag: "x"}}}}
	var tried acts.Tried
	require.NoError(t, admin.Post(f.ctx, "/api/setup/acting/try", acts.Trying{Rules: rules, Days: 90}, &tried))
	within := "c.phase = 'ended' and c.started_at >= now() - interval '90 days' and "
	require.Positive(t, tried.Chats)
	require.EqualValues(t, f.plain(within+"true"), tried.Chats)
	require.Positive(t, tried.Rules[0].Chats)
	require.EqualValues(t, f.plain(within+"exists (select from events e where e.chat_id = c.id and e.kind = 'rated' and (e.detail->>'rating')::int <= 2)"), tried.Rules[0].Chats)
	waited := "(select min(e.at) from events e where e.chat_id = c.id and e.kind in ('taken', 'ended')) - c.started_at > interval '60 seconds' and ending <> 'message' and not exists (select from events e where e.chat_id = c.id and e.kind like 'helper%')"
	require.Positive(t, f.plain(within+waited))
	require.GreaterOrEqual(t, int64(tried.Rules[1].Chats), f.plain(within+waited))
	require.NotEmpty(t, tried.Firing)
	require.Zero(t, f.runsOpen(), "nothing is done")
	var n int
	require.NoError(t, f.Store.DB.Raw("select count(*) from rule_runs").Scan(&n).Error)
	require.Zero(t, n)
}
