// Package testpg gives each test a PostgreSQL database of its own. All packages
// of a test run share the server that STOOP_TEST_DATABASE_URL names; without
// it, each package starts one.
package testpg

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"stoop/internal/devpg"
	"stoop/internal/store"
)

var (
	once   sync.Once
	server string
	failed error
	number atomic.Int64
)

// New returns the address of a fresh, migrated database.
func New(t testing.TB) string {
	t.Helper()
	return copied(t, func(ctx context.Context, admin *pgx.Conn) (string, error) {
		return template, ensureTemplate(ctx, admin)
	})
}

// Seeded returns the address of a fresh database with what seed stores, which it does once for
// all that name it so: a copy is made faster.
func Seeded(t testing.TB, name string, seed func(context.Context, *store.Store) error) string {
	t.Helper()
	return copied(t, func(ctx context.Context, admin *pgx.Conn) (string, error) {
		if err := ensureTemplate(ctx, admin); err != nil {
			return "", err
		}
		seeded := template + "_" + name
		if there, err := isThere(ctx, admin, seeded); err != nil || there {
			return seeded, err
		}
		// Under another name until it is whole: who is stopped meanwhile leaves none that is not.
		making := seeded + "_making"
		if _, err := admin.Exec(ctx, "drop database if exists "+making); err != nil {
			return "", err
		}
		if _, err := admin.Exec(ctx, "create database "+making+" template "+template); err != nil {
			return "", err
		}
		s, err := store.Open(address(making), 4)
		if err != nil {
			return "", err
		}
		if err := errors.Join(seed(ctx, s), s.Close()); err != nil {
			return "", err
		}
		_, err = admin.Exec(ctx, "alter database "+making+" rename to "+seeded)
		return seeded, err
	})
}

// copied returns the address of a copy of a database.
func copied(t testing.TB, of func(context.Context, *pgx.Conn) (string, error)) string {
	t.Helper()
	once.Do(func() { server, failed = start() })
	require.NoError(t, failed)
	ctx := context.Background()
	name := fmt.Sprintf("test_%d_%d", os.Getpid(), number.Add(1))
	admin, err := pgx.Connect(ctx, server)
	require.NoError(t, err)
	defer admin.Close(ctx)
	// A copy of a migrated database is made faster than a new one is migrated.
	// Packages run at once: one makes the original, the others wait.
	_, err = admin.Exec(ctx, "select pg_advisory_lock(1)")
	require.NoError(t, err)
	original, err := of(ctx, admin)
	require.NoError(t, err)
	_, err = admin.Exec(ctx, "create database "+name+" template "+original)
	require.NoError(t, err)
	return address(name)
}

const template = "stoop_template"

func address(database string) string {
	at, err := url.Parse(server)
	if err != nil {
		return server // it has been parsed before, by the driver
	}
	at.Path = "/" + database
	return at.String()
}

func ensureTemplate(ctx context.Context, admin *pgx.Conn) error {
	if there, err := isThere(ctx, admin, template); err != nil || there {
		return err
	}
	if _, err := admin.Exec(ctx, "create database "+template); err != nil {
		return err
	}
	s, err := store.Open(address(template), 2)
	if err != nil {
		return err
	}
	return errors.Join(s.Migrate(ctx), s.Close())
}

func isThere(ctx context.Context, admin *pgx.Conn, database string) (there bool, err error) {
	err = admin.QueryRow(ctx, "select exists (select 1 from pg_database where datname = $1)", database).Scan(&there)
	return there, err
}

// Open returns a store on a fresh, migrated database.
func Open(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(New(t), 8)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// Durable starts a server of its own that keeps every promise, for tests of
// what survives a crash, and returns it with the address of an empty database.
func Durable(t testing.TB) (*devpg.Cluster, string) {
	t.Helper()
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "stoop-durable-*")
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o755))
	cluster, err := devpg.Start(ctx, dir, devpg.Options{})
	require.NoError(t, err)
	t.Cleanup(func() { _ = cluster.Stop() })
	require.NoError(t, cluster.Create(ctx, "stoop"))
	return cluster, cluster.URL("stoop")
}

func start() (string, error) {
	if at := os.Getenv("STOOP_TEST_DATABASE_URL"); at != "" {
		return at, nil
	}
	dir, err := os.MkdirTemp("", "stoop-testpg-*")
	if err != nil {
		return "", err
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return "", err
	}
	// The server ends with this process; its folder is left to the system's
	// cleaning of temporary files.
	c, err := devpg.Start(context.Background(), dir, devpg.Options{Fast: true})
	if err != nil {
		return "", err
	}
	return c.URL("postgres"), nil
}
