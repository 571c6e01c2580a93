package faults

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/floor"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/testpg"
)

const (
	routedChats = 120
	capacity    = 2
)

// watchCapacity notes, inside of the database and in the transaction that does
// it, every chat that gives an operator more than their capacity.
const watchCapacity = `
create table overload (operator uuid, load int);
create function watch_capacity() returns trigger language plpgsql as $$
declare who uuid; n int;
begin
	who := case when new.owner_id is distinct from old.owner_id then new.owner_id when new.offered_to is distinct from old.offered_to then new.offered_to end;
	if who is not null then
		select count(*) into n from chats where owner_id = who and phase = 'active' and not message or offered_to = who and phase <> 'ended';
		if n > 2 then insert into overload values (who, n); end if;
	end if;
	return new;
end $$;
create trigger watch_capacity after update on chats for each row execute function watch_capacity();`

// idleBesideWaiting counts operators with room while a chat waits that they
// could have.
const idleBesideWaiting = `
select count(*) from (select operator_id as id from availability where available) o where exists (select 1 from connections c where c.party_id = o.id)
	and (select count(*) from chats where owner_id = o.id and phase = 'active' or offered_to = o.id) < 2
	and exists (select 1 from chats c join members m on m.department_id = c.seeking_id and m.operator_id = o.id where c.phase = 'waiting' and c.offered_to is null)`

// Two server processes on one database hand out the chats of two departments
// with the same people at once: nobody is ever over capacity, no chat has two
// owners, none waits while somebody has room, and none is forgotten, though one
// of the processes is killed in between.
func TestTwoProcessesRouteAtOnce(t *testing.T) {
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	defer cancel()
	database := testpg.New(t)
	data, err := store.Open(database, 4)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	require.NoError(t, demo.Seed(ctx, data, []string{"http://127.0.0.1"}, time.Now()))
	require.NoError(t, data.DB.Exec(watchCapacity).Error)
	require.NoError(t, data.DB.Exec("update widgets set gone_seconds = 600").Error)

	servers := make([]running, 2)
	for i := range servers {
		servers[i] = newServer(ctx, t, database, "STOOP_DATABASE_CONNECTIONS=12", "STOOP_VISITOR_REQUESTS_PER_MINUTE=100000", "STOOP_LOGINS_PER_MINUTE=1000")
		t.Cleanup(servers[i].kill)
	}
	setUp(ctx, t, servers[0].URL, data)

	var work sync.WaitGroup
	stop := make(chan struct{})
	for i, login := range demo.Logins {
		o, err := talker.NewOperator(ctx, servers[i%2].URL, login.Email, demo.Password, nil)
		require.NoError(t, err)
		t.Cleanup(o.Close)
		require.NoError(t, o.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
		work.Go(func() { serve(ctx, o, stop) })
	}
	require.Eventually(t, func() bool {
		standings, err := floor.On(data).Standings(ctx, time.Now())
		here := 0
		for _, s := range standings {
			if s.Here {
				here++
			}
		}
		return err == nil && here == len(demo.Logins)
	}, 30*time.Second, 20*time.Millisecond)

	var opened sync.Map
	var opening sync.WaitGroup
	for i := range routedChats {
		opening.Go(func() {
			page := []string{"/harbour", "/quay"}[i%2]
			err := talker.Persist(ctx, func(ctx context.Context) error {
				v, err := talker.NewVisitor(ctx, servers[i/2%2].URL, demo.WidgetKey, nil)
				if err != nil {
					return err
				}
				t.Cleanup(v.Close)
				o, err := v.Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: fmt.Sprint("question ", i), PageURL: "http://127.0.0.1" + page})
				if err == nil {
					opened.Store(o.Chat.ID, true)
				}
				return err
			})
			if err != nil {
				t.Errorf("chat %d was not opened: %v", i, err)
			}
		})
	}
	opening.Wait()
	servers[1].kill()
	servers[1].start(ctx)

	idleSince, checks := time.Time{}, 0
	require.Eventually(t, func() bool {
		var idle, waiting int64
		require.NoError(t, data.DB.Raw(idleBesideWaiting).Scan(&idle).Error)
		require.NoError(t, data.DB.Raw("select count(*) from chats where phase <> 'ended'").Scan(&waiting).Error)
		checks++
		switch {
		case idle == 0:
			idleSince = time.Time{}
		case idleSince.IsZero():
			idleSince = time.Now()
		case time.Since(idleSince) > 20*time.Second:
			t.Fatalf("%d operators have room while chats wait", idle)
		}
		return waiting == 0
	}, 2*time.Minute, 30*time.Millisecond, "a chat was forgotten")
	close(stop)
	work.Wait()

	var overloads int64
	require.NoError(t, data.DB.Raw("select count(*) from overload").Scan(&overloads).Error)
	require.Zero(t, overloads, "somebody was over capacity")
	chats, taken, returned := 0, 0, 0
	opened.Range(func(id, _ any) bool {
		log, err := chatlog.On(data).Events(ctx, id.(string), 0, 1000)
		require.NoError(t, err)
		state, err := chat.Fold(log)
		require.NoError(t, err, "a log with two owners at once does not fold")
		require.Equal(t, chat.Answered, state.Ending)
		chats++
		for _, e := range log {
			switch e.Kind {
			case chat.Taken:
				taken++
			case chat.WasPutBack:
				returned++
			}
		}
		return true
	})
	require.Equal(t, routedChats, chats)
	require.Equal(t, chats+returned, taken)
	t.Logf("counted: two processes, one killed in between: %d chats handed out %d times (%d after their operator was lost), over capacity = %d, two owners = 0, idle beside waiting for long = 0 in %d checks",
		chats, taken, returned, overloads, checks)
}

// setUp makes two departments of the whole team, one that assigns and one that
// offers, and the rules that lead to them.
func setUp(ctx context.Context, t *testing.T, url string, data *store.Store) {
	admin, err := talker.NewOperator(ctx, url, demo.Logins[4].Email, demo.Password, nil)
	require.NoError(t, err)
	defer admin.Close()
	team, err := settings.On(data).Operators(ctx)
	require.NoError(t, err)
	var list setup.RuleList
	require.NoError(t, admin.Get(ctx, "/api/setup/rules", &list))
	for name, handOut := range map[string]string{"harbour": "assign", "quay": "offer"} {
		d := setup.DepartmentSettings{
			Name: name, HandOut: handOut, Choice: "share", Capacity: capacity, TargetSeconds: 60, OfferSeconds: 5, PassLimit: 20, HandOnSeconds: 60,
			OverflowTo: []string{}, Members: []setup.MemberSettings{},
		}
		for _, o := range team {
			d.Members = append(d.Members, setup.MemberSettings{OperatorID: o.ID})
		}
		require.NoError(t, admin.PutInto(ctx, "/api/setup/departments", d, &d))
		list.Rules = append(list.Rules, routing.Rule{Name: name, On: true, Match: routing.All, Department: d.ID,
			Conditions: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/" + name}}})
	}
	require.NoError(t, admin.Put(ctx, "/api/setup/rules", list))
}

// serve is an operator who takes what is offered and ends what they hold.
func serve(ctx context.Context, o *talker.Operator, stop chan struct{}) {
	for {
		select {
		case <-stop:
			return
		case <-ctx.Done():
			return
		default:
		}
		var desk desk.Desk
		if o.Get(ctx, "/api/desk", &desk) != nil {
			continue // its server is being started again
		}
		for _, c := range desk.Chats {
			switch {
			case c.OfferedTo == desk.Me.ID:
				_ = o.Post(ctx, "/api/chats/"+c.ID+"/take", nil, nil) // it may have lapsed
			case c.OwnerID == desk.Me.ID && c.Phase == "active":
				_ = o.Post(ctx, "/api/chats/"+c.ID+"/say", map[string]string{"clientId": "yes", "text": "Yes"}, nil)
				_ = o.Post(ctx, "/api/chats/"+c.ID+"/end", nil, nil) // tried again with the next look
			}
		}
	}
}
