package outside

import (
	"context"
	"errors"
	"log/slog"
	"strings"
	"time"

	"github.com/hashicorp/golang-lru/v2/expirable"
	"github.com/sony/gobreaker/v2"

	"stoop/core/chat"
)

// How the system outside is treated. A look takes a deadline's time at most; after a
// few failures in a row nobody waits for it any more until a pause is over, when one
// look tries.
const (
	Deadline     = 3 * time.Second
	failuresMost = 4
	pauseFor     = 15 * time.Second
	recordKept   = 30 * time.Second
	cardsKept    = 20 * time.Second
	keptMost     = 2000
)

// Guard stands before a system outside that may be slow, dead, or talk nonsense.
type Guard struct {
	system  System
	log     *slog.Logger
	circuit *gobreaker.CircuitBreaker[any]
	records *expirable.LRU[string, known[Record]]
	cards   *expirable.LRU[string, known[[]chat.Card]]
}

// known is an answer, which may be that there is nothing.
type known[T any] struct {
	value T
	err   error
}

// Guarded returns a system behind a guard.
func Guarded(system System, log *slog.Logger) *Guard {
	return &Guard{
		system: system, log: log,
		circuit: gobreaker.NewCircuitBreaker[any](gobreaker.Settings{
			Name: "booking system", Timeout: pauseFor,
			ReadyToTrip:  func(c gobreaker.Counts) bool { return c.ConsecutiveFailures >= failuresMost },
			IsSuccessful: func(err error) bool { return err == nil || errors.Is(err, ErrUnknown) || errors.Is(err, ErrRefused) },
			// Who turned elsewhere says nothing of the system.
			IsExcluded: func(err error) bool { return errors.Is(err, context.Canceled) },
			OnStateChange: func(name string, from, to gobreaker.State) {
				log.Warn("the "+name+" is looked at anew", "before", from.String(), "now", to.String())
			},
		}),
		records: expirable.NewLRU[string, known[Record]](keptMost, nil, recordKept),
		cards:   expirable.NewLRU[string, known[[]chat.Card]](keptMost, nil, cardsKept),
	}
}

// through asks the system, unless it is known to be away. What fails is unreachable to
// whoever asked; why stands in the log.
func through[T any](ctx context.Context, g *Guard, what string, ask func(context.Context) (T, error)) (T, error) {
	ctx, cancel := context.WithTimeout(ctx, Deadline)
	defer cancel()
	got, err := g.circuit.Execute(func() (any, error) { return ask(ctx) })
	if err == nil {
		return got.(T), nil
	}
	var none T
	switch {
	case errors.Is(err, ErrUnknown), errors.Is(err, ErrRefused), errors.Is(err, context.Canceled):
		return none, err
	case errors.Is(err, gobreaker.ErrOpenState), errors.Is(err, gobreaker.ErrTooManyRequests):
	default:
		g.log.Warn("the booking system did not answer", "what", what, "error", err)
	}
	return none, errUnreachable
}

// kept returns what was answered a moment ago, or asks.
func kept[T any](ctx context.Context, g *Guard, memory *expirable.LRU[string, known[T]], key, what string, ask func(context.Context) (T, error)) (T, error) {
	if k, ok := memory.Get(key); ok {
		return k.value, k.err
	}
	value, err := through(ctx, g, what, ask)
	if err == nil || errors.Is(err, ErrUnknown) {
		memory.Add(key, known[T]{value, err})
	}
	return value, err
}

// Record implements System.
func (g *Guard) Record(ctx context.Context, email string) (Record, error) {
	email = strings.ToLower(email)
	return kept(ctx, g, g.records, email, "record", func(ctx context.Context) (Record, error) { return g.system.Record(ctx, email) })
}

// AddRecord implements System.
func (g *Guard) AddRecord(ctx context.Context, p Person) (Record, error) {
	r, err := through(ctx, g, "new record", func(ctx context.Context) (Record, error) { return g.system.AddRecord(ctx, p) })
	g.records.Remove(strings.ToLower(p.Email))
	return r, err
}

// Cards implements System.
func (g *Guard) Cards(ctx context.Context, words string) ([]chat.Card, error) {
	return kept(ctx, g, g.cards, words, "cards", func(ctx context.Context) ([]chat.Card, error) { return g.system.Cards(ctx, words) })
}

// Card implements System. It is asked for anew: what is sent is as it is now.
func (g *Guard) Card(ctx context.Context, kind, id string) (chat.Card, error) {
	return through(ctx, g, "card", func(ctx context.Context) (chat.Card, error) { return g.system.Card(ctx, kind, id) })
}

// Lookup implements System.
func (g *Guard) Lookup(ctx context.Context, number, name string) (chat.Card, error) {
	return through(ctx, g, "lookup", func(ctx context.Context) (chat.Card, error) { return g.system.Lookup(ctx, number, name) })
}
