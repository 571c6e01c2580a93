package server_test

import (
	"context"
	"fmt"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// ferries is a fixture with one more department, to which the pages under its
// name lead. It is open around the clock.
type ferries struct {
	fixture
	admin      *talker.Operator
	department setup.DepartmentSettings
	people     map[string]*talker.Operator
	ids        map[string]string
}

// newFloor makes a department of the named operators, who are all available.
func newFloor(t *testing.T, config func(*server.Config), change func(*setup.DepartmentSettings), members ...string) *ferries {
	t.Helper()
	f := &ferries{fixture: start(t, config), people: map[string]*talker.Operator{}, ids: map[string]string{}}
	team, err := settings.On(f.Store).Operators(f.ctx)
	require.NoError(t, err)
	for _, o := range team {
		f.ids[first(o.Name)] = o.ID
	}
	f.admin = f.operator(4, newInbox())
	f.department = setup.DepartmentSettings{
		Name: "Harbour", HandOut: "assign", Choice: "turn", Capacity: 2, TargetSeconds: 60, OfferSeconds: 20, PassLimit: 3, HandOnSeconds: 60,
		OverflowTo: []string{}, Members: []setup.MemberSettings{},
	}
	for _, m := range members {
		f.department.Members = append(f.department.Members, setup.MemberSettings{OperatorID: f.ids[m]})
	}
	if change != nil {
		change(&f.department)
	}
	f.save(&f.department)
	f.rules(routing.Rule{
		Name: "Harbour pages", On: true, Match: routing.All, Department: f.department.ID,
		Conditions: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/harbour"}},
	})
	return f
}

func first(name string) string { return strings.Fields(name)[0] }

func (f *ferries) save(d *setup.DepartmentSettings) {
	f.t.Helper()
	require.NoError(f.t, f.admin.PutInto(f.ctx, "/api/setup/departments", d, d))
}

func (f *ferries) rules(rules ...routing.Rule) {
	f.t.Helper()
	var list setup.RuleList
	require.NoError(f.t, f.admin.Get(f.ctx, "/api/setup/rules", &list))
	list.Rules = append([]routing.Rule{}, rules...)
	require.NoError(f.t, f.admin.Put(f.ctx, "/api/setup/rules", list))
}

// comes connects an operator and makes them available.
func (f *ferries) comes(name string) inbox {
	f.t.Helper()
	hears := newInbox()
	for i, l := range demo.Logins {
		if first(l.Name) == name {
			f.people[name] = f.operator(i, hears)
			f.available(f.people[name], true)
		}
	}
	return hears
}

// opens waits until a visitor would be let in as a live chat: of two servers each hears
// of who is there in a moment.
func (f *ferries) opens() {
	f.t.Helper()
	w, err := f.Settings.WidgetByKey(f.ctx, demo.WidgetKey)
	require.NoError(f.t, err)
	require.Eventually(f.t, func() bool {
		now, err := f.Floor.WidgetState(f.ctx, w)
		open, _, answers := f.Floor.Answers(f.ctx, f.department.ID)
		return err == nil && answers == nil && open && now.State != "closed"
	}, 20*time.Second, 20*time.Millisecond)
}

// asks opens a chat on a page of the department.
func (f *ferries) asks(hears inbox) (*talker.Visitor, string) {
	f.t.Helper()
	if hears == nil {
		hears = newInbox()
	}
	v := f.visitor(hears)
	opened, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?", Name: "Wren", PageURL: siteOrigin + "/harbour"})
	require.NoError(f.t, err)
	return v, opened.Chat.ID
}

// until waits for a chat to fulfil a condition.
func (f *ferries) until(chatID, what string, is func(chat.State) bool) chat.State {
	f.t.Helper()
	var c chatlog.Chat
	require.Eventually(f.t, func() bool {
		var err error
		c, err = chatlog.On(f.Store).Chat(f.ctx, chatID)
		return err == nil && is(c.State)
	}, 30*time.Second, 20*time.Millisecond, what)
	return c.State
}

func (f *ferries) owner(chatID, name string) {
	f.t.Helper()
	f.until(chatID, "the chat is with "+name, func(s chat.State) bool { return s.Owner == f.ids[name] })
}

func (f *ferries) offered(chatID, name string) chat.State {
	f.t.Helper()
	return f.until(chatID, "the chat is offered to "+name, func(s chat.State) bool { return s.Offered != nil && s.Offered.To == f.ids[name] })
}

func (f *ferries) ends(name, chatID string) {
	f.t.Helper()
	require.NoError(f.t, f.people[name].Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
}

func (f *ferries) kinds(chatID string) []chat.Kind {
	f.t.Helper()
	log, err := chatlog.On(f.Store).Events(f.ctx, chatID, 0, 1000)
	require.NoError(f.t, err)
	var kinds []chat.Kind
	for _, e := range log {
		kinds = append(kinds, e.Kind)
	}
	return kinds
}

func offerMode(d *setup.DepartmentSettings) { d.HandOut = "offer" }

func TestAssignedInTurnUpToCapacityThenTheQueueMoves(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris", "Tove")
	f.comes("Idris")
	f.comes("Tove")
	var chats []string
	for range 5 {
		_, id := f.asks(nil)
		chats = append(chats, id)
		if len(chats) < 5 {
			f.until(id, "assigned", func(s chat.State) bool { return s.Owner != "" })
		}
	}
	loads := map[string]int{}
	for _, id := range chats[:4] {
		c, err := chatlog.On(f.Store).Chat(f.ctx, id)
		require.NoError(t, err)
		loads[c.State.Owner]++
	}
	require.Equal(t, map[string]int{f.ids["Idris"]: 2, f.ids["Tove"]: 2}, loads)
	last := f.until(chats[4], "still waiting", func(s chat.State) bool { return s.Phase == chat.Waiting })
	require.Nil(t, last.Offered)
	c, err := chatlog.On(f.Store).Chat(f.ctx, chats[0])
	require.NoError(t, err)
	name := "Idris"
	if c.State.Owner == f.ids["Tove"] {
		name = "Tove"
	}
	f.ends(name, chats[0])
	f.owner(chats[4], name)
}

// An offer goes to one, then to the next; who lets several go by is set away
// and told, and gets no more.
func TestOffersGoRoundAndWhoLetsThemPassIsSetAway(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { offerMode(d); d.PassLimit = 2 }, "Idris", "Tove")
	toIdris := f.comes("Idris")
	_, one := f.asks(nil)
	f.offered(one, "Idris")
	toIdris.until(t, func(m string) bool { return strings.Contains(m, `"offeredTo":"`+f.ids["Idris"]) })
	f.comes("Tove")
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+one+"/pass", nil, nil))
	f.offered(one, "Tove")
	requireProblem(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+one+"/take", nil, nil), "offered")
	f.take(f.people["Tove"], one)
	f.owner(one, "Tove")

	_, two := f.asks(nil)
	f.offered(two, "Idris")
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+two+"/pass", nil, nil))
	toIdris.until(t, func(m string) bool { return strings.Contains(m, `"type":"set-away","passes":2`) })
	f.offered(two, "Tove")
	var me view.OperatorView
	require.NoError(t, f.people["Idris"].Get(f.ctx, "/api/me", &me))
	require.False(t, me.Available)
	require.Equal(t, "passes", me.AwayWhy)
	f.available(f.people["Idris"], true)
	me = view.OperatorView{}
	require.NoError(t, f.people["Idris"].Get(f.ctx, "/api/me", &me))
	require.Empty(t, me.AwayWhy, "coming back begins the count anew")
}

// A question that somebody can take at once is stored together with who gets it.
func TestAQuestionIsStoredWithItsOffer(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, offerMode, "Idris")
	f.comes("Idris")
	for range 20 { // while the queues are looked at for another reason, the next look does it
		_, id := f.asks(nil)
		f.offered(id, "Idris")
		var transactions int
		require.NoError(t, f.Store.DB.Raw("select count(distinct xid::text) from events where chat_id = ?", id).Scan(&transactions).Error)
		require.Equal(t, []chat.Kind{chat.Started, chat.Said, chat.Routed, chat.Offered}, f.kinds(id))
		if transactions == 1 {
			return
		}
		f.take(f.people["Idris"], id)
		f.ends("Idris", id)
	}
	t.Fatal("not one question of twenty was stored with its offer")
}

// Time-outs survive a restart: the offer of a server that was stopped lapses on
// the next one, at its time.
func TestAnOfferLapsesAlsoAfterARestart(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { offerMode(d); d.OfferSeconds = 6 }, "Idris", "Tove")
	f.comes("Idris")
	_, id := f.asks(nil)
	until := f.offered(id, "Idris").Offered.Until
	config := f.Config
	require.NoError(t, f.Stop())
	again, err := server.Start(context.Background(), config, slog.New(slog.DiscardHandler), false)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, again.Stop()) })
	data, err := store.Open(config.DatabaseURL, 2)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	f.Store = data
	f.until(id, "the offer lapsed", func(s chat.State) bool { return len(s.PassedBy) > 0 })
	log, err := chatlog.On(data).Events(context.Background(), id, 0, 100)
	require.NoError(t, err)
	for _, e := range log {
		if e.Kind == chat.Passed {
			require.False(t, e.At.Before(until), "before its time")
			require.Equal(t, chat.Unanswered, e.Detail.Why)
			t.Logf("counted: an offer lapsed %d ms after its time, over a restart", e.At.Sub(until).Milliseconds())
		}
	}
}

func TestHandingOnOverTheServer(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	f.comes("Idris")
	toTove := f.comes("Tove")
	toWren := newInbox()
	wren, id := f.asks(toWren)
	f.owner(id, "Idris")
	hand := func(body map[string]string) error {
		return f.people["Idris"].Post(f.ctx, "/api/chats/"+id+"/hand-on", body, nil)
	}
	requireProblem(t, hand(map[string]string{}), "nobody-else")
	requireProblem(t, hand(map[string]string{"operatorId": f.ids["Sunniva"]}), "not-there")
	require.NoError(t, hand(map[string]string{"operatorId": f.ids["Tove"], "note": "wants a quote for twelve"}))
	requireProblem(t, hand(map[string]string{"operatorId": f.ids["Tove"]}), "handing-on")
	toTove.until(t, func(m string) bool { return strings.Contains(m, "wants a quote for twelve") })
	_, err := f.people["Idris"].Say(f.ctx, id, uuid.NewString(), "I ask a colleague")
	require.NoError(t, err, "until it is taken, it is his")

	require.NoError(t, f.people["Tove"].Post(f.ctx, "/api/chats/"+id+"/pass", nil, nil))
	require.Nil(t, f.until(id, "back", func(s chat.State) bool { return s.HandingOn == nil }).Offered)
	require.NoError(t, hand(map[string]string{"operatorId": f.ids["Tove"]}))
	f.take(f.people["Tove"], id)
	state := f.until(id, "taken", func(s chat.State) bool { return s.Owner == f.ids["Tove"] })
	require.Equal(t, 1, state.HandOns)
	_, err = f.people["Tove"].Say(f.ctx, id, uuid.NewString(), "I have read everything")
	require.NoError(t, err)
	for _, m := range toWren.until(t, func(m string) bool { return strings.Contains(m, "I have read everything") }) {
		require.NotContains(t, m, "twelve", "a note to the team reached the visitor")
		require.NotContains(t, m, f.ids["Tove"])
		require.NotContains(t, m, "reasons")
	}
	var resumed talk.Resumed
	require.NoError(t, wren.Call(f.ctx, "resume", talk.ResumeCall{}, &resumed))
	for i, e := range resumed.Events {
		require.EqualValues(t, i+1, e.Number, "what is hidden leaves no gap")
		require.NotContains(t, e.Text, "twelve")
	}

	// To a department, whose members may take it; and back by the time-out.
	help := f.departmentNamed(demo.TravelHelp)
	require.NoError(t, f.people["Tove"].Post(f.ctx, "/api/chats/"+id+"/hand-on", map[string]string{"departmentId": help.ID}, nil))
	f.comes("Sunniva")
	f.take(f.people["Sunniva"], id)
	require.Equal(t, help.ID, f.until(id, "taken", func(s chat.State) bool { return s.Owner == f.ids["Sunniva"] }).Department)
	require.NoError(t, f.people["Sunniva"].Post(f.ctx, "/api/chats/"+id+"/hand-on", map[string]string{"departmentId": f.department.ID}, nil))
	f.owner(id, "Idris") // assigned there, at once
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+id+"/put-back", map[string]string{"note": "my shift ends"}, nil))
	require.Equal(t, 4, f.until(id, "put back", func(s chat.State) bool { return s.HandOns == 4 }).HandOns)
}

func (f *ferries) departmentNamed(name string) setup.DepartmentSettings {
	f.t.Helper()
	var all []setup.DepartmentSettings
	require.NoError(f.t, f.admin.Get(f.ctx, "/api/setup/departments", &all))
	for _, d := range all {
		if d.Name == name {
			return d
		}
	}
	f.t.Fatalf("no department %s", name)
	return setup.DepartmentSettings{}
}

// Whoever vanishes loses their chats after a grace period only; then they go
// back to the queue in the order in which they came, and the visitors are told.
func TestWhoVanishesLosesTheirChatsAfterAWhile(t *testing.T) {
	t.Parallel()
	f := newFloor(t, func(c *server.Config) { c.Grace = 1500 * time.Millisecond }, func(d *setup.DepartmentSettings) { d.Capacity = 1 }, "Idris", "Tove")
	f.comes("Idris")
	_, kept := f.asks(nil)
	f.owner(kept, "Idris")
	_, next := f.asks(nil)
	f.people["Idris"].Close()
	f.comes("Idris") // back within the grace period, as over a reload
	f.people["Idris"].Close()
	f.until(kept, "back in the queue", func(s chat.State) bool { return s.Phase == chat.Waiting })
	f.comes("Tove")
	f.owner(kept, "Tove") // it arrived first
	require.Contains(t, f.kinds(kept), chat.WasPutBack)
	log, err := chatlog.On(f.Store).Events(f.ctx, kept, 0, 100)
	require.NoError(t, err)
	for _, e := range log {
		if e.Kind == chat.WasPutBack {
			require.Equal(t, chat.OwnerGone, e.Detail.Why)
		}
	}
	f.until(next, "the later one waits", func(s chat.State) bool { return s.Phase == chat.Waiting })
}

func TestAVisitorWhoLeavesIsMissedUnlessTheyReturnInTime(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { d.HandOut = "pick" }, "Idris")
	require.NoError(t, f.Store.DB.Exec("update widgets set gone_seconds = 5").Error)
	f.Settings.Forget()
	f.comes("Idris")
	stays, one := f.asks(nil)
	goes, two := f.asks(nil)
	stays.Close()
	goes.Close()
	back, err := talker.Return(f.ctx, f.URL, demo.WidgetKey, stays.Token, newInbox().on)
	require.NoError(t, err)
	t.Cleanup(back.Close)
	require.Equal(t, chat.Missed, f.until(two, "missed", func(s chat.State) bool { return s.Phase == chat.Over }).Ending)
	require.Equal(t, chat.Waiting, f.until(one, "in place", func(chat.State) bool { return true }).Phase)
	var resumed talk.Resumed
	require.NoError(t, back.Call(f.ctx, "resume", talk.ResumeCall{}, &resumed))
	require.Equal(t, 1, resumed.Chat.Wait.Place)
}

// Who waits is told their place as it moves, and an estimate once there is
// something to measure it by.
func TestPlaceAndEstimateAreLive(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { d.Capacity = 1 }, "Idris")
	f.comes("Idris")
	for range 3 {
		_, id := f.asks(nil)
		f.owner(id, "Idris")
		f.ends("Idris", id)
	}
	_, held := f.asks(nil)
	f.owner(held, "Idris")
	hears := newInbox()
	f.asks(nil)
	_, third := f.asks(hears)
	hears.until(t, func(m string) bool { return strings.Contains(m, `"type":"wait"`) && strings.Contains(m, `"place":2`) })
	f.ends("Idris", held)
	moved := hears.until(t, func(m string) bool { return strings.Contains(m, third) && strings.Contains(m, `"place":1`) })
	require.Contains(t, moved[len(moved)-1], `"type":"wait"`)
	var resumed talk.Resumed
	require.Eventually(t, func() bool {
		// The handling times are measured anew every few seconds.
		back := f.visitorChat(third)
		resumed = back
		return resumed.Chat != nil && resumed.Chat.Wait.Known && resumed.Chat.Wait.EstimateSeconds == 30
	}, 30*time.Second, 100*time.Millisecond, "an estimate, rounded up to half a minute")
}

// visitorChat is a chat as its visitor would get it.
func (f *ferries) visitorChat(chatID string) talk.Resumed {
	f.t.Helper()
	c, err := chatlog.On(f.Store).Chat(f.ctx, chatID)
	require.NoError(f.t, err)
	resumed, err := f.Talk.Resume(f.ctx, access.Visitor{ID: c.VisitorID, WidgetID: c.WidgetID}, chatID, 0)
	require.NoError(f.t, err)
	return resumed
}

func TestOverflowAfterSecondsIsExact(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { d.Capacity = 1 }, "Idris")
	f.department.OverflowTo, f.department.OverflowAfter = []string{f.departmentNamed(demo.TravelHelp).ID}, 2
	f.save(&f.department)
	f.comes("Idris")
	toTove := f.comes("Tove")
	_, one := f.asks(nil)
	f.owner(one, "Idris")
	_, two := f.asks(nil)
	state := f.until(two, "overflow", func(s chat.State) bool { return len(s.OpenTo) == 1 })
	log, err := chatlog.On(f.Store).Events(f.ctx, two, 0, 100)
	require.NoError(t, err)
	last := log[len(log)-1]
	require.Equal(t, chat.Overflowed, last.Kind)
	require.GreaterOrEqual(t, last.At.Sub(state.Since), 2*time.Second)
	require.Equal(t, routing.AfterSeconds, last.Detail.Reasons[1].Code)
	toTove.until(t, func(m string) bool { return strings.Contains(m, two) })
	f.take(f.people["Tove"], two)
	f.owner(two, "Tove")
}

func TestLoadCountsWrapUpAndAPersonMayTakeMore(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { d.Capacity, d.WrapUpSeconds = 1, 300 }, "Idris")
	f.comes("Idris")
	_, one := f.asks(nil)
	f.owner(one, "Idris")
	f.ends("Idris", one)
	_, two := f.asks(nil)
	f.until(two, "waits for the wrap-up", func(s chat.State) bool { return s.Phase == chat.Waiting })
	p := requireProblem(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+two+"/take", nil, nil), "over-capacity")
	require.Equal(t, []int{1, 1}, []int{p.Load, p.Capacity})
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+one+"/wrap-up", nil, nil))
	f.owner(two, "Idris")
	_, three := f.asks(nil)
	require.NoError(t, f.people["Idris"].Post(f.ctx, "/api/chats/"+three+"/take?anyway=true", nil, nil))
	f.owner(three, "Idris")
}

func TestAddedColleaguesSpeakAndLeave(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	f.comes("Idris")
	toTove := f.comes("Tove")
	wren, id := f.asks(nil)
	f.owner(id, "Idris")
	_, err := f.people["Tove"].Say(f.ctx, id, uuid.NewString(), "Hello")
	requireProblem(t, err, "not-yours")
	require.NoError(t, f.people["Idris"].Put(f.ctx, "/api/chats/"+id+"/colleagues/"+f.ids["Tove"], nil))
	toTove.until(t, func(m string) bool { return strings.Contains(m, `"guests":["`+f.ids["Tove"]) })
	_, err = f.people["Tove"].Say(f.ctx, id, uuid.NewString(), "Hello")
	require.NoError(t, err)
	_, err = wren.Say(f.ctx, id, uuid.NewString(), "two of you")
	require.NoError(t, err)
	toTove.until(t, func(m string) bool { return strings.Contains(m, "two of you") })
	require.NoError(t, f.people["Tove"].Delete(f.ctx, "/api/chats/"+id+"/colleagues/"+f.ids["Tove"]))
	_, err = f.people["Tove"].Say(f.ctx, id, uuid.NewString(), "Bye")
	requireProblem(t, err, "not-yours")
}

// A gold customer reaches their own account owner; when that one is full, the
// department; and a lead reads why.
func TestGoldCustomersReachTheirAccountOwner(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, func(d *setup.DepartmentSettings) { d.Capacity = 1 }, "Idris", "Tove")
	f.rules(routing.Rule{
		Name: "Gold", On: true, Match: routing.All, Department: f.department.ID, AccountOwner: true, Priority: 2,
		Conditions: []routing.Condition{{Field: "outside.tier", Operator: routing.Equals, Value: "gold"}},
	})
	f.comes("Idris")
	f.comes("Tove")
	ask := func() string {
		opened, err := f.visitor(newInbox()).Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Email: "Mirren.Tolliver@example.org"})
		require.NoError(t, err)
		return opened.Chat.ID
	}
	one, two := ask(), ""
	f.owner(one, "Tove")
	two = ask()
	f.owner(two, "Idris")
	maren := f.operator(3, newInbox())
	var script desk.Script
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+two, &script))
	codes := []string{}
	for _, e := range script.Events {
		for _, r := range e.Reasons {
			codes = append(codes, r.Code)
		}
	}
	require.Equal(t, []string{"rule", "account-owner", "priority", "operator-full", "only-one"}, codes)
}

// Settings changed on one server hold on another at once.
func TestSettingsReachAnotherServer(t *testing.T) {
	t.Parallel()
	f := newFloor(t, nil, nil, "Idris")
	config := f.Config
	other, err := server.Start(f.ctx, config, slog.New(slog.DiscardHandler), false)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, other.Stop()) })
	elsewhere := fixture{other, t, f.ctx}
	f.department.Name = "Renamed harbour"
	f.save(&f.department)
	maren := elsewhere.operator(3, newInbox())
	require.Eventually(t, func() bool {
		var desk desk.Desk
		return maren.Get(f.ctx, "/api/desk", &desk) == nil && strings.Contains(fmt.Sprint(desk.Departments), "Renamed harbour")
	}, 20*time.Second, 10*time.Millisecond)
	// And an operator who is connected there is known here.
	f.comes("Idris")
	opened, err := elsewhere.visitor(newInbox()).Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", PageURL: siteOrigin + "/harbour"})
	require.NoError(t, err)
	f.owner(opened.Chat.ID, "Idris")
}
