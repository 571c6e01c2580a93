// Package pushes is the room in which operators are told on their devices, by the Web Push
// standard, of what waits for them while no console of theirs is open.
package pushes

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/push"
	"stoop/core/routing"
	"stoop/internal/again"
	"stoop/internal/alerts"
	"stoop/internal/fetch"
	"stoop/internal/jobs"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Floor is where it is known who waits and who is there.
type Floor interface {
	// Queue returns the chats that look for somebody, the first in the queue first.
	Queue(ctx context.Context) ([]routing.Waiting, error)
	// Standings returns how operators stand, by id.
	Standings(ctx context.Context) (map[string]view.Standing, error)
	// Reachable takes note of who can be told on a device, and of nobody else.
	Reachable(ctx context.Context, operatorIDs []string) error
	// DidNotCome sets somebody away who was told that a chat waits and is not here, and
	// reports whether they were available until then.
	DidNotCome(ctx context.Context, operatorID string) (bool, error)
}

// Alerts is what leads are called for.
type Alerts interface {
	// Calling returns the alerts that no lead sees to yet, the oldest first.
	Calling(ctx context.Context) ([]alerts.AlertView, error)
}

// Tables are those of push messages.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	patience   = 10 * time.Second // for a push service
	lookEvery  = 2 * time.Second
	sweepEvery = 10 * time.Minute
)

// Room is where devices are told. Its methods are safe for concurrent use.
type Room struct {
	Tables     Tables
	Settings   *settings.Cache
	Floor      Floor
	Alerts     Alerts
	Jobs       *jobs.Queue
	Fetch      fetch.Client // where it may connect to
	URL        string       // under which the console is reached
	MailDomain string       // of Stoop's own addresses
	Log        *slog.Logger
	Now        func() time.Time

	client *http.Client
	mu     sync.Mutex
	key    *ecdsa.PrivateKey
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.client = room.Fetch.HTTP(patience) }

// Workers says who sends.
func (room *Room) Workers(w *jobs.Workers) { jobs.Work(w, room.send) }

// Run looks who is to be told, until the context ends.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	running.Go(func() {
		again.Every(ctx, lookEvery, func() { again.InTime(ctx, room.Log, "whom to tell on their devices", room.Look) })
	})
	running.Go(func() {
		again.Every(ctx, sweepEvery, func() { again.InTime(ctx, room.Log, "devices and what they were told", room.Sweep) })
	})
	running.Wait()
}

// Sweep forgets devices on which nobody is logged in any more, and what was told long ago. A
// browser that is still to be told says so itself when somebody logs in there.
func (room *Room) Sweep(ctx context.Context) error {
	if _, err := room.Tables.Pool().Exec(ctx, "delete from push_devices d where not "+alive); err != nil {
		return err
	}
	_, err := room.Tables.Pool().Exec(ctx, "delete from pushes where at < $1", room.Now().Add(-remembered))
	return err
}

// sender returns the team's own key. The first that asks makes it; of several servers one.
func (room *Room) sender(ctx context.Context) (push.Sender, error) {
	room.mu.Lock()
	defer room.mu.Unlock()
	// For whoever runs a push service: the one or the other, by RFC 8292, section 2.1.
	s := push.Sender{Contact: "mailto:stoop@" + room.MailDomain}
	if strings.HasPrefix(room.URL, "https://") {
		s.Contact = room.URL
	}
	if s.Key = room.key; s.Key != nil {
		return s, nil
	}
	kept, err := room.storedKey(ctx)
	if errors.Is(err, pgx.ErrNoRows) {
		if err = room.makeKey(ctx); err == nil {
			kept, err = room.storedKey(ctx)
		}
	}
	if err != nil {
		return s, fmt.Errorf("reading the key for push messages: %w", err)
	}
	room.key, s.Key = kept, kept
	return s, nil
}

func (room *Room) storedKey(ctx context.Context) (*ecdsa.PrivateKey, error) {
	var stored []byte
	if err := room.Tables.Pool().QueryRow(ctx, "select key from push_sender").Scan(&stored); err != nil {
		return nil, err
	}
	key, err := x509.ParsePKCS8PrivateKey(stored)
	if err != nil {
		return nil, err
	}
	elliptical, ok := key.(*ecdsa.PrivateKey)
	if !ok {
		return nil, errors.New("it is none of an elliptic curve")
	}
	return elliptical, nil
}

func (room *Room) makeKey(ctx context.Context) error {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	stored, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	_, err = room.Tables.Pool().Exec(ctx, "insert into push_sender (key, made_at) values ($1, $2) on conflict do nothing", stored, room.Now())
	return err
}
