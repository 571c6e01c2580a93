// Package again does what must be done again and again: what fails, or was
// missed, is done the next time.
package again

import (
	"context"
	"log/slog"
	"sync"
	"time"
)

// Every does something now and again and again, until the context ends.
func Every(ctx context.Context, period time.Duration, do func()) {
	tick := time.NewTicker(period)
	defer tick.Stop()
	for ctx.Err() == nil {
		do()
		select {
		case <-ctx.Done():
		case <-tick.C:
		}
	}
}

// Drain takes pieces of work and does them, so many at once, until the context ends; then it waits
// for what is being done. It looks for work once in a period, and at once when a piece is done:
// what waited for that one may be next. Nothing found: take returns nil. What goes wrong is told to
// the log, by what it was about.
func Drain(ctx context.Context, period time.Duration, atOnce int, log *slog.Logger, what string, take func() (work func() error, err error)) {
	tick := time.NewTicker(period)
	defer tick.Stop()
	hands, done := make(chan struct{}, atOnce), make(chan struct{}, 1)
	var running sync.WaitGroup
	defer running.Wait()
	tell := func(err error) {
		if err != nil && ctx.Err() == nil {
			log.Error("something could not be done, and is tried again", "what", what, "error", err)
		}
	}
	look := func() {
		for ctx.Err() == nil {
			select {
			case <-ctx.Done():
				return
			case hands <- struct{}{}:
			}
			work, err := take()
			tell(err)
			if work == nil {
				<-hands
				return
			}
			running.Go(func() {
				tell(work())
				<-hands
				select {
				case done <- struct{}{}:
				default: // it is known already
				}
			})
		}
	}
	for ctx.Err() == nil {
		look()
		select {
		case <-ctx.Done():
		case <-tick.C:
		case <-done:
		}
	}
}

// timeout bounds each thing that is done again and again.
const timeout = 20 * time.Second

// InTime does what must be done again and again, and tells the log when it
// fails.
func InTime(ctx context.Context, log *slog.Logger, what string, do func(context.Context) error) {
	bounded, cancel := context.WithTimeout(ctx, timeout)
	defer cancel()
	if err := do(bounded); err != nil && ctx.Err() == nil {
		log.Error("something could not be done in time, and is tried again", "what", what, "error", err)
	}
}

// Pause waits for a time, and reports false if the context ended before.
func Pause(ctx context.Context, long time.Duration) bool {
	timer := time.NewTimer(long)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-timer.C:
		return true
	}
}
