// Package app holds what people do with Stoop: one file for each thing done.
// An act loads what it needs, asks core what may happen, saves, and tells
// those whom it concerns. Who may do what is checked here, not in the routes.
package app

import (
	"context"
	"errors"
	"log/slog"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/core/chat"
	"stoop/internal/files"
	"stoop/internal/jobs"
	"stoop/internal/mail"
	"stoop/internal/store"
)

// Live delivers to connected browsers. Messages are encoded as JSON. Sending
// never blocks and never fails as far as the sender is concerned: a browser
// that misses something notices the gap and asks.
type Live interface {
	ToTeam(message any)
	ToLeads(message any)
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
	ToWidget(widgetID string, message any)
	ToDepartment(departmentID string, message any)
	// Reconnect makes an operator's browsers connect anew, so that they follow
	// what they may follow now.
	Reconnect(operatorID string)
	// Close ends a visitor's connections, who may not come back.
	Close(visitorID string)
	// Here reports whether a party has a connection now.
	Here(chat.Party) bool
}

// ErrNotAllowed: the operator's role does not permit the act.
var ErrNotAllowed = errors.New("your role does not allow this")

// ErrWrongSite: the page is not one of the widget's own sites.
var ErrWrongSite = errors.New("this widget does not belong to this site")

// ErrUnknownWidget: there is no widget with this key.
var ErrUnknownWidget = errors.New("there is no widget with this key")

// ErrBadLogin: no operator has this email and password.
var ErrBadLogin = errors.New("email or password is wrong")

// App does what people ask for. Its methods are safe for concurrent use.
type App struct {
	store    *store.Store
	appender *store.Appender
	jobs     *jobs.Queue
	live     Live
	mail     mail.Sender
	files    files.Store
	now      func() time.Time
	log      *slog.Logger
	zone     *time.Location
	grace    time.Duration
	secret   []byte
	url      string
	replies  string
	node     string // names this server among those on the database

	settings   remembered[setup]
	cannedOnes remembered[library]
	tags       remembered[tags]
	tries      *lru.Cache[string, tries] // wrong passwords, by account and address
	kicks      chan struct{}
	stop       context.CancelFunc
	running    sync.WaitGroup

	beating sync.RWMutex // a beat is under way; see betweenBeats

	mu          sync.Mutex
	connections map[string]chat.Party // of this server, by connection
	stopping    bool
	wake        *time.Timer // for the next chat that overflows
	told        told
	staff       remembered[staffOf]
	bans        remembered[holding]
	uses        uses
	relay       relay
	quotas      quotas
}

// Config of an App. Now and Zone have defaults: the system's clock, and UTC.
type Config struct {
	Store *store.Store
	Live  Live
	Log   *slog.Logger
	Now   func() time.Time
	Zone  *time.Location // in which a day begins for the team
	// Mail sends to visitors; without it nothing is sent.
	Mail mail.Sender
	// Files keeps what people send each other.
	Files files.Store
	// Secret signs the addresses in mails.
	Secret []byte
	// URL under which visitors reach Stoop, for links in mails.
	URL string
	// ReplyDomain is the part behind the @ of addresses that answers go to.
	ReplyDomain string
	// Grace is how long an operator without a connection keeps their chats.
	Grace time.Duration
}

// New returns an App. Close it before the store.
func New(c Config) (*App, error) {
	if c.Files == nil {
		return nil, errors.New("the application has no place for files: set Files")
	}
	a := &App{
		store: c.Store, live: c.Live, log: c.Log, now: c.Now, zone: c.Zone, mail: c.Mail, files: c.Files, grace: c.Grace,
		secret: c.Secret, url: c.URL, replies: c.ReplyDomain, node: uuid.NewString(),
		kicks: make(chan struct{}, 1), stop: func() {}, connections: map[string]chat.Party{}, told: newTold(),
	}
	if a.now == nil {
		a.now = time.Now
	}
	if a.zone == nil {
		a.zone = time.UTC
	}
	if a.log == nil {
		a.log = slog.New(slog.DiscardHandler)
	}
	if a.grace == 0 {
		a.grace = OperatorGrace
	}
	a.tries, _ = lru.New[string, tries](triesKept) // fails for sizes below one only
	var err error
	if a.jobs, err = jobs.New(c.Store.Pool(), a, a.log); err != nil {
		return nil, err
	}
	c.Store.Node = a.node
	a.relay, a.quotas = newRelay(), newQuotas()
	a.appender = store.NewAppender(c.Store, a.appended)
	return a, nil
}

// Start begins what goes on by itself: handing out chats, time-outs, telling
// other servers that this one lives.
func (a *App) Start(ctx context.Context) error {
	ctx, a.stop = context.WithCancel(context.WithoutCancel(ctx))
	if err := a.store.Beat(ctx, a.node, nil); err != nil {
		return err
	}
	if err := a.jobs.Start(ctx); err != nil {
		return err
	}
	a.running.Go(func() { a.beat(ctx) })
	a.running.Go(func() { a.router(ctx) })
	a.running.Go(func() { a.sweeps(ctx) })
	a.running.Go(func() { a.relayMoves(ctx) })
	a.running.Go(func() {
		every(ctx, filesSweptEvery, func() { a.inTime(ctx, "files that nobody needs", a.sweepFiles) })
	})
	a.running.Go(func() {
		a.store.Listen(ctx, a.heard, func(err error) { a.log.Warn("other servers cannot be heard; trying again", "error", err) })
	})
	a.kick()
	return nil
}

// notify tells the other servers that something changed.
func (a *App) notify(ctx context.Context, notice string) {
	if err := a.store.Notify(ctx, notice); err != nil {
		a.log.Warn("other servers could not be told; they look by themselves within seconds", "notice", notice, "error", err)
	}
}

// heard takes in what another server tells.
func (a *App) heard(notice string) {
	what, rest, _ := strings.Cut(notice, " ")
	switch what {
	case store.EverythingChanged:
		a.forgetLibrary()
		a.tags.forget()
		a.bans.forget()
		a.settingsChanged()
	case store.SettingsChanged:
		a.settingsChanged()
	case store.BansChanged:
		a.bans.forget()
	case store.CannedChanged:
		a.cannedChanged()
	case store.TeamChanged:
		a.inTime(context.Background(), "telling who is there", a.tellTeam)
		a.kick()
	case store.ChatsMoved:
		a.inTime(context.Background(), "telling what was said on another server", func(ctx context.Context) error { return a.catchUp(ctx, rest) })
	default:
		a.kick()
	}
}

// settingsChanged reads the settings anew and lets every console do so.
func (a *App) settingsChanged() {
	a.forget()
	a.live.ToTeam(Refresh{Type: "refresh"})
	a.kick()
}

// Leaving begins the end: connections that close from now on are those of a
// server that takes its leave as a whole.
func (a *App) Leaving() {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.stopping = true
	if a.wake != nil {
		a.wake.Stop()
	}
}

// Close finishes the acts that were begun.
func (a *App) Close() {
	a.Leaving()
	a.stop()
	a.running.Wait()
	ctx, cancel := context.WithTimeout(context.Background(), 1500*time.Millisecond)
	defer cancel()
	if err := a.jobs.Stop(ctx); err != nil {
		a.log.Warn("jobs were still at work; another server does them again", "error", err)
	}
	a.appender.Close()
	if err := a.store.RemoveNode(ctx, a.node); err != nil {
		a.log.Warn("this server could not take its leave; the others notice", "error", err)
	}
}

// Ready reports whether the App can do its work: whether its database answers.
func (a *App) Ready(ctx context.Context) error { return a.store.Ping(ctx) }

// VisitorActor is a visitor who acts, known by their signed token.
type VisitorActor struct {
	ID       string
	WidgetID string
}

func (v VisitorActor) party() chat.Party { return chat.Visitor(v.ID) }

// ForgetSettings drops what is remembered of the settings, after they were
// changed in the database by other means than the App.
func (a *App) ForgetSettings() { a.forget() }
