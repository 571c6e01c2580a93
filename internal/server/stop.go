package server

import (
	"context"
	"errors"
	"fmt"
	"runtime/pprof"
	"strings"
	"time"
)

// Stop finishes what was begun, closes the connections and the database.
// Stopping again only returns the same error.
func (s *Server) Stop() error {
	s.once.Do(func() { s.stopErr = inTime(stopAtMost, s.stop) })
	return s.stopErr
}

// stopAtMost bounds stopping as a whole: it takes five seconds at most, unless something
// hangs that nobody thought of. Then whoever restarts the server must not wait for it.
const stopAtMost = 20 * time.Second

// HungError says what had not ended when stopping took too long.
type HungError struct {
	Limit  time.Duration
	Stacks string // of all goroutines at that moment
}

func (e *HungError) Error() string {
	return fmt.Sprintf("stopping took longer than %s and was cut off; nothing acknowledged is lost. What still ran:\n%s", e.Limit, e.Stacks)
}

// inTime returns what do returns, or a HungError once that takes longer than a limit.
func inTime(limit time.Duration, do func() error) error {
	done := make(chan error, 1)
	go func() { done <- do() }()
	select {
	case err := <-done:
		return err
	case <-time.After(limit):
		var stacks strings.Builder
		_ = pprof.Lookup("goroutine").WriteTo(&stacks, 1) // a builder takes everything
		return &HungError{limit, stacks.String()}
	}
}

// stopWithin bounds each part of stopping; all of it takes less than five
// seconds.
const stopWithin = 1500 * time.Millisecond

// stop takes no more connections, lets what was begun be answered, tells
// browsers to connect elsewhere, and closes the database last.
func (s *Server) stop() error {
	bounded := func(do func(context.Context) error) error {
		ctx, cancel := context.WithTimeout(context.Background(), stopWithin)
		defer cancel()
		if err := do(ctx); !errors.Is(err, context.DeadlineExceeded) {
			return err
		}
		return nil // what still hangs is cut off
	}
	s.Floor.Leaving()
	s.stopHandler()
	s.http.SetKeepAlivesEnabled(false)
	listening := unlessClosed(s.listener.Close())
	var mailErr error
	if s.inbound != nil {
		mailErr = s.inbound.Close()
	}
	// What was stored is told before the hub goes: on other servers nobody else
	// would tell it.
	restErr := bounded(s.live.Rest)
	s.Chats.Close()
	liveErr := bounded(s.live.Shutdown)
	// Both close the listener once more, if the server has not noticed yet that it is.
	httpErr := unlessClosed(bounded(s.http.Shutdown))
	closeErr := unlessClosed(s.http.Close())
	s.House.Close()
	return errors.Join(listening, mailErr, restErr, liveErr, httpErr, closeErr, s.closeCopy(), s.Store.Close(), s.places.Close())
}
