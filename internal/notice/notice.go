// Package notice lets servers on one database tell each other that something
// changed, so that each forgets what it remembers of it.
package notice

import (
	"context"
	"log/slog"
	"strings"

	"stoop/internal/store"
)

// Board is where notices are put up and read. Rooms say by On what they heed,
// before Listen.
type Board struct {
	Store *store.Store
	Log   *slog.Logger

	heeds  map[string][]func(ctx context.Context, rest string)
	missed []func(ctx context.Context)
}

// On calls heed for each notice of a name that another server puts up; rest is
// what follows the name.
func (b *Board) On(name string, heed func(ctx context.Context, rest string)) {
	if b.heeds == nil {
		b.heeds = map[string][]func(context.Context, string){}
	}
	b.heeds[name] = append(b.heeds[name], heed)
}

// OnMissed calls heed when notices may have been missed.
func (b *Board) OnMissed(heed func(ctx context.Context)) { b.missed = append(b.missed, heed) }

// Tell puts a notice up for the other servers. If that fails they find out by
// themselves, somewhat later.
func (b *Board) Tell(ctx context.Context, notice string) {
	if err := b.Store.Notify(ctx, notice); err != nil {
		b.Log.Warn("other servers could not be told; they look by themselves within seconds", "notice", notice, "error", err)
	}
}

// Listen reads what other servers put up, until the context ends.
func (b *Board) Listen(ctx context.Context) {
	b.Store.Listen(ctx, func(notice string) { b.heard(ctx, notice) }, func(err error) {
		b.Log.Warn("other servers cannot be heard; trying again", "error", err)
	})
}

func (b *Board) heard(ctx context.Context, notice string) {
	name, rest, _ := strings.Cut(notice, " ")
	if name == store.EverythingChanged {
		for _, heed := range b.missed {
			heed(ctx)
		}
		return
	}
	for _, heed := range b.heeds[name] {
		heed(ctx, rest)
	}
}
