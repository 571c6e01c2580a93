package e2e_test

import (
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"slices"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/standin/pushservice"
)

// registered lets a browser have the registration at a push service that a test made: Chromium's
// own asks its maker's service for one.
func registered(endpoint string, b pushservice.Browser) string {
	return fmt.Sprintf(`
		let held = null;
		PushManager.prototype.getSubscription = async () => held;
		PushManager.prototype.subscribe = async function (options) {
			if (!options.userVisibleOnly || options.applicationServerKey.length !== 87) throw new TypeError("not as browsers want it");
			const key = Uint8Array.from(atob(options.applicationServerKey.replaceAll("-", "+").replaceAll("_", "/")), (c) => c.charCodeAt(0));
			return (held = {
				endpoint: %q, options: { applicationServerKey: key.buffer },
				toJSON: () => ({ endpoint: %q, keys: { p256dh: %q, auth: %q } }),
				unsubscribe: async () => { held = null; return true; },
			});
		};`, endpoint, endpoint, b.P256dh, b.Auth)
}

// looksBetweenPushes is how often is looked for what the browser does before it is asked again.
const looksBetweenPushes = 50

// workerOf returns the registration of the worker of a scope. Chromium tells it when it is asked to
// tell of workers: it is listened to before, and asked again when nothing came.
func workerOf(tab *world.Tab, scope string) (found proto.ServiceWorkerRegistrationID) {
	told, looks := tab.Event(), 0
	tab.Until("its worker is known", func() bool {
		if looks++; looks%looksBetweenPushes == 1 {
			require.NoError(tab.T, proto.ServiceWorkerDisable{}.Call(tab))
			require.NoError(tab.T, proto.ServiceWorkerEnable{}.Call(tab))
		}
		for {
			select {
			case m, goesOn := <-told:
				if !goesOn {
					return false // the browser is gone
				}
				var e proto.ServiceWorkerWorkerRegistrationUpdated
				if !m.Load(&e) {
					continue
				}
				for _, r := range e.Registrations {
					if r.ScopeURL == scope && !r.IsDeleted {
						found = r.RegistrationID
					}
				}
			default:
				return found != ""
			}
		}
	})
	return found
}

// An operator lets a device tell them, closes Stoop, and the device shows that somebody waits:
// from the button to what Chromium shows, but for the service of the browser's maker in between.
func TestADeviceTellsThatSomebodyWaits(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	w.WithNotifications(t)
	service := &pushservice.Service{}
	outside := httptest.NewServer(service)
	t.Cleanup(outside.Close)
	phone, err := service.NewBrowser()
	require.NoError(t, err)
	person := w.Person(t)
	idris := person.Desk(world.Email(0), registered(outside.URL+phone.Path, phone))
	require.NoError(t, proto.BrowserGrantPermissions{
		Permissions: []proto.BrowserPermissionType{proto.BrowserPermissionTypeNotifications}, Origin: w.OperatorNet.URL, BrowserContextID: idris.Browser().BrowserContextID,
	}.Call(idris.Browser()))
	idris.BeAvailable()
	idris.Until("its worker is there", func() bool { return idris.JS(`navigator.serviceWorker?.controller ? "yes" : ""`) == "yes" })
	idris.Click(".face")
	idris.Click("[role=menuitem] :: Notifications")
	idris.Click("[role=dialog] button :: Tell me on this device")
	idris.Find(".push-devices :: This device")
	idris.Click(".push-devices button :: Send a test")
	shown := func() (titles []string) {
		for _, s := range service.Shown(phone) {
			titles = append(titles, s.Title)
		}
		return titles
	}
	idris.Until("the test has come", func() bool { return slices.Equal(shown(), []string{"Stoop reaches you here"}) })

	// Nothing of Stoop is open in that browser any more, but a page that is not the console.
	beside := person.Tab()
	beside.Open(w.OperatorNet.URL + "/healthz")
	require.NoError(t, idris.Close())
	w.Person(t).Visit("/help").Asks(wren, "", "When is the last ferry?")
	beside.Until("somebody waits", func() bool { return slices.Equal(shown(), []string{"Stoop reaches you here", wren + " is waiting"}) })
	told := service.Shown(phone)[1]

	registration := workerOf(beside, w.OperatorNet.URL+"/")
	// Chromium says neither that a push was handed to the worker nor that it was dropped because the
	// worker was not up in time; so it is pushed again now and then, as push services may: what is
	// about the same stands once.
	looks, seen := 0, "nothing"
	t.Cleanup(func() {
		if t.Failed() {
			t.Logf("after %d looks the device showed: %s", looks, seen)
		}
	})
	beside.Until("the device shows it", func() bool {
		if looks++; looks%looksBetweenPushes == 1 {
			require.NoError(t, proto.ServiceWorkerDeliverPushMessage{Origin: w.OperatorNet.URL, RegistrationID: registration, Data: told.Plain}.Call(beside))
		}
		found, err := beside.Eval(`async () => (await (await navigator.serviceWorker.getRegistration()).getNotifications()).map((n) => [n.title, n.body, n.data, n.tag])`)
		if err != nil {
			seen = err.Error()
			return false
		}
		text, err := json.Marshal(found.Value)
		require.NoError(t, err)
		seen = string(text)
		var list [][]string
		require.NoError(t, json.Unmarshal(text, &list))
		return len(list) == 1 && slices.Equal(list[0], []string{wren + " is waiting", told.Body, told.Path, told.Tag})
	})
	require.Empty(t, service.Wrong())

	// Where it leads, the card of who waits is marked and has the keyboard; nobody has taken them.
	back := person.Tab(registered(outside.URL+phone.Path, phone))
	back.Open(w.OperatorNet.URL + told.Path)
	back.Find("[aria-current=true] .wait:focus :: " + wren)
	back.Until("the address is used up", func() bool { return back.JS("location.pathname + location.search") == "/desk" })
	require.Equal(t, "0", back.JS("String(document.querySelectorAll('.lane, .about').length)"))
	back.Keyboard.MustType(input.Enter)
	back.Find(".lane[aria-label$='" + wren + "']")
}
