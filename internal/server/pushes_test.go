package server_test

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/demo"
	"stoop/internal/pushes"
	"stoop/internal/server"
	"stoop/internal/standin/pushservice"
	"stoop/internal/standin/talker"
)

// pocket is a phone of somebody: a browser that can be pushed.
type pocket struct {
	pushservice.Browser
	service *pushservice.Service
	url     string
	id      string
}

func withPush(t *testing.T) (fixture, *pushservice.Service, string) {
	f := start(t, func(c *server.Config) { c.AllowedNetworks = []string{"127.0.0.0/8"} })
	service := &pushservice.Service{}
	outside := httptest.NewServer(service)
	t.Cleanup(func() {
		outside.Close()
		require.Empty(t, service.Wrong(), "all that was sent could be read by its browser")
	})
	return f, service, outside.URL
}

func (f fixture) pocket(o *talker.Operator, service *pushservice.Service, url string) pocket {
	f.t.Helper()
	b, err := service.NewBrowser()
	require.NoError(f.t, err)
	p := pocket{Browser: b, service: service, url: url}
	mine := f.pushedHere(o, p)
	require.NotEmpty(f.t, mine.PublicKey)
	p.id = mine.Devices[0].ID
	return p
}

func (f fixture) pushedHere(o *talker.Operator, p pocket) (mine pushes.Pushing) {
	f.t.Helper()
	require.NoError(f.t, o.PutInto(f.ctx, "/api/me/push", pushes.PushKeys{Endpoint: p.url + p.Path, P256dh: p.P256dh, Auth: p.Auth}, &mine))
	return mine
}

func (p pocket) titles() (titles []string) {
	for _, s := range p.service.Shown(p.Browser) {
		titles = append(titles, s.Title)
	}
	return titles
}

func (p pocket) until(t *testing.T, titles ...string) {
	t.Helper()
	require.Eventually(t, func() bool { return len(p.titles()) >= len(titles) }, 20*time.Second, 20*time.Millisecond, "told of less than %v", titles)
	require.Equal(t, titles, p.titles())
}

// absent lets an operator's consoles be closed for so long.
func (f fixture) absent(o *talker.Operator, id string, long time.Duration) {
	f.t.Helper()
	o.Close()
	require.Eventually(f.t, func() bool {
		stands, err := f.Floor.Standing(f.ctx, id)
		return err == nil && !stands.Here
	}, 20*time.Second, 10*time.Millisecond)
	require.NoError(f.t, f.Store.DB.Exec("update absences set since = since - make_interval(secs => ?) where party_id = ?", long.Seconds(), id).Error)
}

// waited lets a chat have waited for so long.
func (f fixture) waited(chatID string, long time.Duration) {
	f.t.Helper()
	require.NoError(f.t, f.Store.DB.Exec("update chats set since = since - make_interval(secs => ?) where id = ?", long.Seconds(), chatID).Error)
}

func TestWhoIsNotHereIsToldOnTheirDevice(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	idris := f.operator(0, newInbox())
	f.available(idris, true)
	me := f.operatorNamed(demo.Logins[0].Name)
	phone := f.pocket(idris, service, url)

	v := f.visitor(newInbox())
	chatID := f.ask(v, "Is the ferry at eight running?")
	f.waited(chatID, time.Minute)
	require.NoError(t, f.Pushes.Look(f.ctx))
	require.Empty(t, phone.titles(), "what is open tells them")

	f.absent(idris, me, 0)
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting")
	shown := service.Shown(phone.Browser)[0]
	require.Equal(t, "/desk?chat="+chatID, shown.Path)
	require.InDelta(t, 570, shown.TTL, 30, "of ten minutes, what is left when it goes")
	require.Len(t, shown.Topic, 32)
	require.NotContains(t, shown.Plain, "ferry at eight", "no words of a chat lie on a table")
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting")

	// Two more are told of together, not before a pause is over.
	for range 2 {
		f.waited(f.ask(f.visitor(newInbox()), "And the one at nine?"), time.Minute)
	}
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting")
	require.NoError(t, f.Store.DB.Exec("update pushes set at = at - interval '20 seconds'").Error)
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting", "3 chats are waiting")

	// Who is away does not want to know; nor who was shut out a moment ago.
	f.waited(f.ask(f.visitor(newInbox()), "And at ten?"), time.Minute)
	require.NoError(t, idris.Put(f.ctx, "/api/me/availability", map[string]bool{"available": false}))
	require.NoError(t, f.Store.DB.Exec("update pushes set at = at - interval '20 seconds'").Error)
	require.NoError(t, f.Pushes.Look(f.ctx))
	require.NoError(t, f.Store.DB.Exec("update operators set active = false where id = ?", me).Error)
	f.Settings.Forget()
	require.NoError(t, f.Store.DB.Exec("update availability set available = true where operator_id = ?", me).Error)
	require.NoError(t, f.Pushes.Look(f.ctx))
	require.Len(t, phone.titles(), 2)
	require.NoError(t, f.Store.DB.Exec("update operators set active = true where id = ?", me).Error)
	f.Settings.Forget()
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting", "3 chats are waiting", "4 chats are waiting")
}

// Who wants chats and can be told counts as somebody who is in, as long as they come.
func TestWhoIsWithinCallIsCountedOnUntilTheyDoNotCome(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	admin, idris := f.operator(4, newInbox()), f.operator(0, newInbox())
	f.available(admin, false)
	f.available(idris, true)
	me := f.operatorNamed(demo.Logins[0].Name)
	stands := func() (state, why string) {
		team, err := f.Floor.Team(f.ctx)
		require.NoError(t, err)
		for _, o := range team {
			if o.ID == me {
				state, why = o.State, o.AwayWhy
			}
		}
		return state, why
	}
	v := f.visitor(newInbox())
	answers := func() bool { return f.stateOf(v).State != "closed" }
	phone := f.pocket(idris, service, url)
	f.absent(idris, me, 0)
	state, _ := stands()
	require.Equal(t, "call", state)
	require.Eventually(t, answers, 20*time.Second, 20*time.Millisecond)

	chatID := f.ask(v, "Is anybody there?")
	require.Equal(t, chat.Waiting, f.chatState(chatID).Phase)
	require.False(t, f.chatState(chatID).Message)
	f.waited(chatID, time.Minute)
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting")
	// They come, leave it to others and go: that is not the same as not to come.
	require.NoError(t, f.Store.DB.Exec("update pushes set at = at - interval '90 seconds'").Error)
	back := f.operator(0, newInbox())
	require.Eventually(t, func() bool {
		require.NoError(t, f.Pushes.Look(f.ctx))
		var told int
		require.NoError(t, f.Store.DB.Raw("select count(*) from pushes where about like 'waiting %'").Scan(&told).Error)
		state, _ := stands()
		return state == "available" && told == 0
	}, 20*time.Second, 20*time.Millisecond)
	f.absent(back, me, 0)
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren is waiting", "Wren is waiting")
	require.NoError(t, f.Store.DB.Exec("update pushes set at = at - interval '90 seconds'").Error)
	require.NoError(t, f.Pushes.Look(f.ctx))
	state, _ = stands()
	require.Equal(t, "call", state)
	require.NoError(t, f.Store.DB.Exec("update pushes set at = at - interval '30 seconds'").Error)
	require.Eventually(t, func() bool { state, _ := stands(); return state == "offline" }, 20*time.Second, 20*time.Millisecond)
	_, why := stands()
	require.Equal(t, "call", why)
	phone.until(t, "Wren is waiting", "Wren is waiting", "You are set to away")
	require.Eventually(t, func() bool { return !answers() }, 20*time.Second, 20*time.Millisecond, "nobody is to wait for them")
}

func TestWhoCanBeToldKeepsTheirChatsForLonger(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	phone := f.pocket(idris, service, url)
	held := map[*talker.Operator]string{}
	for _, o := range []*talker.Operator{idris, tove} {
		v := f.visitor(newInbox())
		held[o] = f.ask(v, "Is there a lift?")
		f.take(o, held[o])
		_, err := o.Say(f.ctx, held[o], uuid.NewString(), "Yes.")
		require.NoError(t, err)
		f.absent(o, map[*talker.Operator]string{idris: f.operatorNamed(demo.Logins[0].Name), tove: f.operatorNamed(demo.Logins[1].Name)}[o], time.Minute)
		_, err = v.Say(f.ctx, held[o], uuid.NewString(), "Where?")
		require.NoError(t, err)
		_, err = v.Say(f.ctx, held[o], uuid.NewString(), "And is it wide?")
		require.NoError(t, err)
	}
	require.Eventually(t, func() bool { return f.chatState(held[tove]).Owner == "" }, 20*time.Second, 20*time.Millisecond, "a minute is more than the usual grace")
	phone.until(t, "Wren has written")
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, "Wren has written")
	require.NotEmpty(t, f.chatState(held[idris]).Owner)
	require.NoError(t, f.Store.DB.Exec("update absences set since = since - interval '3 minutes'").Error)
	require.Eventually(t, func() bool { return f.chatState(held[idris]).Owner == "" }, 20*time.Second, 20*time.Millisecond, "nobody waits for ever")
}

func TestLeadsAreCalledOnTheirDevices(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	lead := f.operator(3, newInbox())
	phone := f.pocket(lead, service, url)
	me := f.operatorNamed(demo.Logins[3].Name)
	f.absent(lead, me, 0)
	insert := func(department string) {
		require.NoError(t, f.Store.DB.Exec(`insert into alerts (id, kind, department_id, began_at, last_at, raised_at, worst, over) values (gen_random_uuid(), 'wait', ?, now(), now(), now(), 130, 60)`, department).Error)
	}
	s, err := f.Settings.Get(f.ctx)
	require.NoError(t, err)
	var mine, other string
	for _, d := range s.InUse {
		if s.IsMember(me, d.ID) {
			mine = d.ID
		} else {
			other = d.ID
		}
	}
	insert(other)
	insert(mine)
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, s.Departments[mine].Name+": somebody has waited 2:10")
	require.NoError(t, lead.Patch(f.ctx, "/api/me/preferences", map[string]any{"pushAlerts": "all", "language": "de"}))
	f.Settings.Forget()
	require.NoError(t, f.Pushes.Look(f.ctx))
	phone.until(t, s.Departments[mine].Name+": somebody has waited 2:10", s.Departments[other].Name+": jemand wartet seit 2:10")
}

// A device is told as long as its person is logged in there; what its service says is heeded.
func TestADeviceThatCanNotBeTold(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	phone := f.pocket(idris, service, url)
	test := func(o *talker.Operator, id string) error { return o.Post(f.ctx, "/api/me/push/"+id+"/test", nil, nil) }
	require.NoError(t, test(idris, phone.id))
	phone.until(t, "Stoop reaches you here")
	requireProblem(t, test(tove, phone.id), "not-found")
	require.NoError(t, tove.Delete(f.ctx, "/api/me/push/"+phone.id))
	require.NoError(t, test(idris, phone.id), "nobody switches a colleague's off")

	service.Answer(http.StatusServiceUnavailable)
	requireProblem(t, test(idris, phone.id), "push-refused")
	service.Answer(0)
	require.NoError(t, test(idris, phone.id), "it is there again")
	service.Answer(http.StatusGone)
	requireProblem(t, test(idris, phone.id), "push-refused")
	service.Answer(0)
	requireProblem(t, test(idris, phone.id), "not-found")

	// A browser tells one person, the last who asked; and nobody who is not logged in there.
	require.Len(t, f.pushedHere(idris, phone).Devices, 1)
	theirs := f.pushedHere(tove, phone).Devices
	require.Len(t, theirs, 1)
	var mine pushes.Pushing
	require.NoError(t, idris.Get(f.ctx, "/api/me/push", &mine))
	require.Empty(t, mine.Devices)
	require.NoError(t, f.Store.DB.Exec("delete from sessions").Error)
	require.NoError(t, f.Pushes.Look(f.ctx))
	standings, err := f.Floor.Standings(f.ctx)
	require.NoError(t, err)
	for _, stands := range standings {
		require.False(t, stands.Reachable)
	}
	require.NoError(t, f.Pushes.Sweep(f.ctx))
	var kept int
	require.NoError(t, f.Store.DB.Raw("select count(*) from push_devices").Scan(&kept).Error)
	require.Zero(t, kept)
}

func TestADeviceThatIsNone(t *testing.T) {
	t.Parallel()
	f, service, url := withPush(t)
	idris := f.operator(0, newInbox())
	phone := f.pocket(idris, service, url)
	put := func(endpoint, p256dh, auth string) error {
		return idris.Put(f.ctx, "/api/me/push", pushes.PushKeys{Endpoint: endpoint, P256dh: p256dh, Auth: auth})
	}
	for _, endpoint := range []string{"", "push", "http://push.example.net/1", "ftp://127.0.0.1/1", "http://10.0.0.1/1", "https://user@push.example.net/1", "file:///etc/passwd"} {
		requireProblem(t, put(endpoint, phone.P256dh, phone.Auth), "push-endpoint")
	}
	requireProblem(t, put(url+"/1", "AAAA", phone.Auth), "push-keys")
	requireProblem(t, put(url+"/1", phone.P256dh, "AAAA"), "push-keys")
	// Of many devices the latest stay.
	for range 12 {
		f.pocket(idris, service, url)
	}
	var mine pushes.Pushing
	require.NoError(t, idris.Get(f.ctx, "/api/me/push", &mine))
	require.Len(t, mine.Devices, 10)
	for _, d := range mine.Devices {
		require.NotEqual(t, phone.id, d.ID)
	}
}
