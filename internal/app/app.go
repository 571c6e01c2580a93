// Package app holds what people do with Stoop: one file for each thing done.
// An act loads what it needs, asks core what may happen, saves, and tells
// those whom it concerns. Who may do what is checked here, not in the routes.
package app

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"stoop/core/chat"
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
	live     Live
	now      func() time.Time
	log      *slog.Logger
	zone     *time.Location

	mu        sync.Mutex
	operators map[string]store.Operator
	widgets   map[string]store.Widget // by id
}

// Config of an App. Now and Zone have defaults: the system's clock, and UTC.
type Config struct {
	Store *store.Store
	Live  Live
	Log   *slog.Logger
	Now   func() time.Time
	Zone  *time.Location // in which a day begins for the team
}

// New returns an App. Close it before the store.
func New(c Config) *App {
	a := &App{
		store: c.Store, live: c.Live, log: c.Log, now: c.Now, zone: c.Zone,
		operators: map[string]store.Operator{}, widgets: map[string]store.Widget{},
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
	a.appender = store.NewAppender(c.Store, a.tell)
	return a
}

// Close finishes the acts that were begun.
func (a *App) Close() { a.appender.Close() }

// Ready reports whether the App can do its work: whether its database answers.
func (a *App) Ready(ctx context.Context) error { return a.store.Ping(ctx) }

// VisitorActor is a visitor who acts, known by their signed token.
type VisitorActor struct {
	ID       string
	WidgetID string
}

func (v VisitorActor) party() chat.Party { return chat.Visitor(v.ID) }

// operator returns a member of the team. Members are kept in memory; one who
// is not there is looked for again, since another server may have added them.
func (a *App) operator(ctx context.Context, id string) (store.Operator, error) {
	a.mu.Lock()
	o, ok := a.operators[id]
	a.mu.Unlock()
	if ok {
		return o, nil
	}
	team, err := a.store.Operators(ctx)
	if err != nil {
		return store.Operator{}, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, member := range team {
		a.operators[member.ID] = member
	}
	if o, ok = a.operators[id]; !ok {
		return store.Operator{}, store.ErrNotFound
	}
	return o, nil
}

// operatorName returns the name to show for an operator.
func (a *App) operatorName(id string) string {
	o, err := a.operator(context.Background(), id)
	if err != nil {
		return "A colleague"
	}
	return o.Name
}

func (a *App) widget(ctx context.Context, id string) (store.Widget, error) {
	a.mu.Lock()
	w, ok := a.widgets[id]
	a.mu.Unlock()
	if ok {
		return w, nil
	}
	all, err := a.store.Widgets(ctx)
	if err != nil {
		return store.Widget{}, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, one := range all {
		a.widgets[one.ID] = one
	}
	if w, ok = a.widgets[id]; !ok {
		return store.Widget{}, ErrUnknownWidget
	}
	return w, nil
}

// ForgetWidgets drops what is remembered of widgets' settings, after they were
// changed in the database.
func (a *App) ForgetWidgets() {
	a.mu.Lock()
	defer a.mu.Unlock()
	clear(a.widgets)
}
