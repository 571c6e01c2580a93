// Package world starts all of Stoop for a test that looks on from outside: a
// server with its database, the demo site, and browsers whose network can be
// cut.
package world

import (
	"context"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/server"
	"stoop/internal/standin/booking"
	"stoop/internal/standin/mailbox"
	"stoop/internal/standin/phone"
	"stoop/internal/standin/phrasebook"
	"stoop/internal/standin/places"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// Patience is how long a test waits for something that must come. It is
// generous, since a slow machine is no defect.
const Patience = time.Minute

// World is a running Stoop with its demo site.
type World struct {
	Server *server.Server
	// VisitorNet and OperatorNet stand between browsers and server.
	VisitorNet, OperatorNet *Proxy
	SiteURL                 string
	// Mailbox gets what is sent by mail; MailURL is its page.
	Mailbox *mailbox.Mailbox
	MailURL string
	// Booking is the booking system that Stoop and the site ask, BookingNet what lies
	// between it and Stoop.
	Booking    *booking.System
	BookingNet *Proxy
	// Telephone is the telephone system that Stoop asks to ring.
	Telephone *phone.Phone
	// TranslatorNet is what lies between Stoop and the phrase book that translates.
	TranslatorNet *Proxy
	browser       *rod.Browser
}

// New starts a world on an empty database with the demo's team and history.
func New(t testing.TB) *World {
	t.Helper()
	return On(t, testpg.Seeded(t, "demo", func(ctx context.Context, s *store.Store) error {
		return demo.Seed(ctx, s, []string{"http://localhost"}, time.Now()) // stands elsewhere in a moment
	}))
}

// Empty starts a world in which nothing is set up: no team, no widget. Its site stands,
// without the snippet's widget.
func Empty(t testing.TB) *World {
	t.Helper()
	return on(t, testpg.New(t), func(*World) {})
}

// On starts a world on a database.
func On(t testing.TB, databaseURL string) *World {
	t.Helper()
	return on(t, databaseURL, func(w *World) {
		require.NoError(t, demo.Seed(context.Background(), w.Server.Store, []string{w.SiteURL}, time.Now()))
	})
}

func on(t testing.TB, databaseURL string, seed func(*World)) *World {
	t.Helper()
	var out io.Writer = io.Discard
	if os.Getenv("STOOP_TEST_LOG") != "" {
		out = os.Stderr
	}
	log := slog.New(slog.NewTextHandler(out, nil))
	smtpOn, mailOn, listener := listen(t), listen(t), listen(t)
	box := mailbox.Start(smtpOn, mailOn, "", log)
	t.Cleanup(func() { _ = box.Close() })
	config := configuration(databaseURL)
	config.FilesFolder = t.TempDir()
	config.Places = filepath.Join(t.TempDir(), "places.mmdb")
	require.NoError(t, places.Write(config.Places))
	w := &World{Booking: booking.New(time.UTC, time.Now)}
	bookingOn := listen(t)
	lines := w.Booking.Serve(bookingOn, "key of the test", log)
	t.Cleanup(func() { _ = lines.Close() })
	w.BookingNet = NewProxy(t, w.Booking.Records)
	config.BookingURL, config.BookingKey = w.BookingNet.URL+"/api", "key of the test"
	phrases := httptest.NewServer(phrasebook.Handler("key of the test", log))
	t.Cleanup(phrases.Close)
	w.TranslatorNet = NewProxy(t, phrases.URL)
	config.TranslatorURL, config.TranslatorKey, config.TranslatorLanguages = w.TranslatorNet.URL, "key of the test", phrasebook.Languages()
	w.Telephone = phone.New("key of the test", log)
	rings := httptest.NewServer(w.Telephone.Handler())
	t.Cleanup(rings.Close)
	config.PhoneURL, config.PhoneKey = rings.URL+"/ring", "key of the test"
	config.TextsURL, config.TextsKey = rings.URL+"/send", "key of the test"
	config.AllowedNetworks = []string{"127.0.0.0/8", "::1/128"} // where the site stands
	config.SMTP, config.ReplyDomain, config.MailAddress = "smtp://"+smtpOn.Addr().String(), "reply.example.com", "127.0.0.1:0"
	s, err := server.Start(context.Background(), config, log, false)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Stop() }) // stopping again after Restart only says so
	box.Inbound = s.MailAddress
	w.Telephone.SetInbound(s.URL)
	w.Server, w.VisitorNet, w.OperatorNet = s, NewProxy(t, s.URL), NewProxy(t, s.URL)
	s.Setup.URL = w.VisitorNet.URL // as the site's pages have it
	w.Mailbox, w.MailURL = box, "http://"+mailOn.Addr().String()

	handler, err := demo.SiteHandler(w.VisitorNet.URL, w.Booking, log)
	require.NoError(t, err)
	site := &http.Server{Handler: handler, ReadHeaderTimeout: Patience}
	go func() { _ = site.Serve(listener) }() // ends with the test
	t.Cleanup(func() { _ = site.Close() })
	w.SiteURL = demo.SiteURL(listener.Addr())
	w.Booking.Site = w.SiteURL
	seed(w)
	s.Settings.Forget()
	w.browser = borrow(t)
	return w
}

func listen(t testing.TB) net.Listener {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	return l
}

// AroundTheClock opens all departments at all hours, so that a test does not
// depend on when it runs.
func (w *World) AroundTheClock(t testing.TB) {
	t.Helper()
	require.NoError(t, w.Server.Store.DB.Exec("update departments set hours_id = null").Error)
	w.Server.Settings.Forget()
}

// Person is a browser of its own: cookies and storage are nobody else's.
type Person struct {
	T       testing.TB
	world   *World
	browser *rod.Browser
}

// WithNotifications lets the people of this world use browsers that show notifications.
func (w *World) WithNotifications(t testing.TB) {
	t.Helper()
	w.browser = whole(t)
}

// WithoutForeignStorage starts browsers from now on that refuse cookies and
// storage to every site in a frame of another one.
func (w *World) WithoutForeignStorage(t testing.TB) {
	t.Helper()
	w.browser = own(t, `{"profile":{"cookie_controls_mode":1,"block_third_party_cookies":true}}`)
}

// Person opens a browser for somebody.
func (w *World) Person(t testing.TB) *Person {
	t.Helper()
	b, err := w.browser.Incognito()
	require.NoError(t, err)
	b = b.Sleeper(often)
	t.Cleanup(func() { _ = b.Close() })
	return &Person{T: t, world: w, browser: b}
}

// Tab opens an empty tab of the usual size. Scripts run before the page's own.
func (p *Person) Tab(scripts ...string) *Tab {
	p.T.Helper()
	page, err := p.browser.Page(blank)
	require.NoError(p.T, err)
	tab := &Tab{Page: page.Timeout(3 * time.Minute), T: p.T}
	failOnTrouble(p.T, page)
	tab.Size(1280, 800)
	// As who does not like motion: what opens is at its place at once.
	require.NoError(p.T, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}.Call(page))
	for _, script := range scripts {
		_, err := page.EvalOnNewDocument(script)
		require.NoError(p.T, err)
	}
	return tab
}

// Visit opens a page of the demo site.
func (p *Person) Visit(path string, scripts ...string) *Visitor {
	p.T.Helper()
	tab := p.Tab(scripts...)
	v := &Visitor{Tab: tab, world: p.world}
	v.Go(path)
	return v
}

// At opens a page that is not one of the demo site's.
func (p *Person) At(address string, scripts ...string) *Visitor {
	p.T.Helper()
	v := &Visitor{Tab: p.Tab(scripts...), world: p.world}
	v.Open(address)
	return v
}

// Newcomer is somebody who has not logged in yet.
func (p *Person) Newcomer() *Operator {
	p.T.Helper()
	return &Operator{Tab: p.Tab(), world: p.world}
}

// Desk opens the console and logs in as the operator with this email.
func (p *Person) Desk(email string, scripts ...string) *Operator {
	p.T.Helper()
	tab := p.Tab(scripts...)
	o := &Operator{Tab: tab, world: p.world}
	tab.Open(p.world.OperatorNet.URL + "/desk")
	tab.Type("input[name=email]", email)
	tab.Type("input[name=password]", demo.Password)
	tab.Click("button[type=submit]")
	o.UntilLive()
	return o
}

// SecondTab opens the Desk again in the same browser.
func (p *Person) SecondTab(scripts ...string) *Operator {
	p.T.Helper()
	o := &Operator{Tab: p.Tab(scripts...), world: p.world}
	o.Open(p.world.OperatorNet.URL + "/desk")
	o.UntilLive()
	return o
}

// Email returns the address of the demo's n-th login.
func Email(n int) string { return demo.Logins[n].Email }

// Password returns the demo's password.
func (w *World) Password() string { return demo.Password }

// Restart stops the server and starts another one on the same database; the
// browsers' connections lead to the new one.
func (w *World) Restart(t testing.TB, databaseURL string) {
	t.Helper()
	require.NoError(t, w.Server.Stop())
	config := configuration(databaseURL)
	config.FilesFolder, config.Places = w.Server.Config.FilesFolder, w.Server.Config.Places
	s, err := server.Start(context.Background(), config, slog.New(slog.DiscardHandler), false)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Stop() })
	w.Server = s
	w.VisitorNet.Lead(t, s.URL)
	w.OperatorNet.Lead(t, s.URL)
}

func configuration(databaseURL string) server.Config {
	return server.Config{
		DatabaseURL: databaseURL, DatabaseConnections: 10, Address: "127.0.0.1:0", TimeZone: demo.TimeZone,
		TrustedProxies:  []string{"127.0.0.0/8"}, // simulated visitors say from where they come
		LoginsPerMinute: 1000, VisitorRequestsPerMinute: 100_000, MessagesPerSecond: 1000, MessageBurst: 1000,
	}
}
