package faults

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

// beyond is how long after its limit anything is waited for here. It should be
// over within ten seconds; how long it took is told. A machine that is busy with
// other work takes longer, and what is never looked at again is never over.
const beyond = 30 * time.Second

// A server is killed at each step at which somebody is waited for: while an
// offer stands, while its time runs out, while a chat is handed on, while its
// owner or its visitor is gone, in a wrap-up. By time alone, nothing of it goes
// on standing, once a server is there again.
func TestNothingStandsBeyondItsTimeAfterAKill(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	defer cancel()
	database := testpg.New(t)
	data, err := store.Open(database, 4)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	require.NoError(t, data.Migrate(ctx))
	require.NoError(t, demo.Seed(ctx, data, []string{"http://kelpwick.example"}, time.Now()))
	p := newServer(ctx, t, database, "STOOP_LOG_LEVEL=error", "STOOP_OPERATOR_GRACE=3s")
	t.Cleanup(p.kill)
	url := p.URL

	team, err := settings.On(data).Operators(ctx)
	require.NoError(t, err)
	at := map[string]string{}
	for _, o := range team {
		at[strings.Fields(o.Name)[0]] = o.ID
	}
	admin, err := talker.NewOperator(ctx, url, demo.Logins[4].Email, demo.Password, nil)
	require.NoError(t, err)
	defer admin.Close()
	department := func(name, handOut string, wrapUp int, member string) setup.DepartmentSettings {
		d := setup.DepartmentSettings{
			Name: name, HandOut: handOut, Choice: "turn", Capacity: 20, TargetSeconds: 60, OfferSeconds: 5, PassLimit: 20, HandOnSeconds: 10, WrapUpSeconds: wrapUp,
			OverflowTo: []string{}, Members: []setup.MemberSettings{{OperatorID: at[member]}},
		}
		require.NoError(t, admin.PutInto(ctx, "/api/setup/departments", d, &d))
		return d
	}
	offers, picks := department("Offers", "offer", 0, "Idris"), department("Picks", "pick", 5, "Tove")
	var rules setup.RuleList
	require.NoError(t, admin.Get(ctx, "/api/setup/rules", &rules))
	rules.Rules = []routing.Rule{
		{Name: "offers", On: true, Match: routing.All, Department: offers.ID, Conditions: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/offers"}}},
		{Name: "picks", On: true, Match: routing.All, Department: picks.ID, Conditions: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/picks"}}},
	}
	require.NoError(t, admin.Put(ctx, "/api/setup/rules", rules))
	w, err := settings.On(data).WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	w.GoneSeconds = 5
	_, err = settings.On(data).ChangeWidget(ctx, w)
	require.NoError(t, err)
	require.NoError(t, data.Notify(ctx, store.SettingsChanged))

	login := func(n int) *talker.Operator {
		o, err := talker.NewOperator(ctx, url, demo.Logins[n].Email, demo.Password, nil)
		require.NoError(t, err)
		require.NoError(t, talker.Persist(ctx, func(ctx context.Context) error {
			return o.Put(ctx, "/api/me/availability", map[string]bool{"available": true})
		}))
		return o
	}
	idris, tove := login(0), login(1)
	defer idris.Close()
	ask := func(page string) (*talker.Visitor, string) {
		v, err := talker.NewVisitor(ctx, url, demo.WidgetKey, nil)
		require.NoError(t, err)
		var opened talk.Opened
		require.NoError(t, talker.Persist(ctx, func(ctx context.Context) (err error) {
			opened, err = v.Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Is there room?", PageURL: "http://kelpwick.example/" + page})
			return err
		}))
		return v, opened.Chat.ID
	}
	until := func(chatID, what string, within time.Duration, is func(chat.State) bool) {
		t.Helper()
		begun := time.Now()
		require.Eventually(t, func() bool {
			c, err := chatlog.On(data).Chat(ctx, chatID)
			return err == nil && is(c.State)
		}, within, 50*time.Millisecond, what)
		t.Logf("%s after %.1f s", what, time.Since(begun).Seconds())
	}

	// Brought about, and killed in the middle of it.
	_, offered := ask("offers")
	until(offered, "offered", 20*time.Second, func(s chat.State) bool { return s.Offered != nil })
	first, err := chatlog.On(data).Chat(ctx, offered)
	require.NoError(t, err)
	_, handed := ask("picks")
	require.NoError(t, tove.Post(ctx, "/api/chats/"+handed+"/take", nil, nil))
	require.NoError(t, tove.Post(ctx, "/api/chats/"+handed+"/hand-on", map[string]string{"operatorId": at["Idris"]}, nil))
	_, wraps := ask("picks")
	require.NoError(t, tove.Post(ctx, "/api/chats/"+wraps+"/take", nil, nil))
	require.NoError(t, tove.Post(ctx, "/api/chats/"+wraps+"/end", nil, nil))
	_, owned := ask("picks")
	require.NoError(t, tove.Post(ctx, "/api/chats/"+owned+"/take", nil, nil))
	visitor, leaves := ask("picks")
	visitor.Close()
	tove.Close()
	p.kill()
	p.start(ctx)

	until(offered, "the offer lapses", 5*time.Second+beyond, func(s chat.State) bool { return s.Offered == nil || s.Offered.Number != first.State.Offered.Number })
	until(leaves, "who has left is missed", 5*time.Second+beyond, func(s chat.State) bool { return s.Phase == chat.Over })
	until(wraps, "the wrap-up ends", 5*time.Second+beyond, func(s chat.State) bool { return s.WrapUntil == nil })
	until(owned, "the chat of who is gone is back in its queue", 3*time.Second+beyond, func(s chat.State) bool { return s.Owner == "" })
	until(handed, "what was handed on comes back", 10*time.Second+beyond, func(s chat.State) bool { return s.HandingOn == nil })

	// Killed again and again while offers run out, so that some kill hits the
	// very moment.
	for i := range 4 {
		c, err := chatlog.On(data).Chat(ctx, offered)
		require.NoError(t, err)
		if c.State.Offered == nil {
			until(offered, "offered again", 20*time.Second, func(s chat.State) bool { return s.Offered != nil })
			c, err = chatlog.On(data).Chat(ctx, offered)
			require.NoError(t, err)
		}
		if c.State.Offered == nil {
			continue
		}
		number := c.State.Offered.Number
		until(offered, fmt.Sprintf("round %d: its time is over", i), 5*time.Second+beyond, func(s chat.State) bool {
			return s.Offered == nil || s.Offered.Number != number || !time.Now().Before(s.Offered.Until)
		})
		p.kill()
		p.start(ctx)
		until(offered, fmt.Sprintf("round %d: the offer lapses", i), beyond, func(s chat.State) bool { return s.Offered == nil || s.Offered.Number != number })
	}
	t.Log("counted: nothing stood for good after 5 kills of the server: an offer, a hand-on, a wrap-up, an owner and a visitor who were gone, four offers at the moment of their lapse")
}
