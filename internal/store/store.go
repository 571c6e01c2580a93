// Package store opens Stoop's PostgreSQL database and brings its schema up to
// date: the SQL files in migrations, which only go forward. Of what is in the
// tables it knows nothing; each room has its own.
package store

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the database. Its methods are safe for concurrent use.
type Store struct {
	DB   *gorm.DB
	pool *pgxpool.Pool // the same connections, for what GORM is too slow for

	// Node names the server in what it tells the others, so that it does not
	// heed its own words.
	Node string
}

// statementTimeout bounds every statement but those of migrations; see Migrate.
const statementTimeout = "30s"

// Open connects to a PostgreSQL database.
func Open(url string, connections int) (*Store, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	config.MaxConns = int32(connections)
	// No statement runs, and no transaction stands, without an end.
	config.ConnConfig.RuntimeParams["statement_timeout"] = statementTimeout
	// Every statement is short: compiling one takes longer than it runs, and what
	// PostgreSQL expects of a table that it has not analysed yet is often too much.
	config.ConnConfig.RuntimeParams["jit"] = "off"
	config.ConnConfig.RuntimeParams["idle_in_transaction_session_timeout"] = "60s"
	pool, err := pgxpool.NewWithConfig(context.Background(), config)
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)}), &gorm.Config{
		Logger:                 logger.Discard, // errors are returned, and logged where they are handled
		SkipDefaultTransaction: true,
		NowFunc:                func() time.Time { return time.Now().UTC() },
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	return &Store{DB: db, pool: pool}, nil
}

// Pool returns the driver's own connections: for the hot ways to the database
// that docs/decisions names, and for the job queue.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Connect opens a connection that is none of the pool's.
func (s *Store) Connect(ctx context.Context) (*pgx.Conn, error) {
	return pgx.ConnectConfig(ctx, s.pool.Config().ConnConfig.Copy())
}

// Close releases the connections.
func (s *Store) Close() error {
	db, err := s.DB.DB()
	if err == nil {
		err = db.Close()
	}
	s.pool.Close()
	return err
}

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	return s.pool.Ping(ctx)
}

// Migrate brings the schema up to date. Several servers may start at once: one
// migrates, the others wait.
func (s *Store) Migrate(ctx context.Context) error {
	config := s.pool.Config().ConnConfig.Copy()
	delete(config.RuntimeParams, "statement_timeout") // a large table takes its time
	db := stdlib.OpenDB(*config)
	defer db.Close()
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, db, files,
		goose.WithSessionLocker(locker), goose.WithSlog(slog.New(slog.DiscardHandler)))
	if err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	return s.migrateJobs(ctx)
}

// jobsLock is the advisory lock under which the job queue's tables are made.
const jobsLock = 0x570_0b02

// migrateJobs brings the tables of the job queue up to date; River owns them.
func (s *Store) migrateJobs(ctx context.Context) error {
	migrator, err := rivermigrate.New(riverpgxv5.New(s.pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	c, err := s.pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer c.Release()
	if _, err := c.Exec(ctx, "select pg_advisory_lock($1)", jobsLock); err != nil {
		return err
	}
	if _, err = migrator.Migrate(ctx, rivermigrate.DirectionUp, nil); err == nil {
		// Kinds that earlier versions had; what they were for is swept for now.
		_, err = c.Exec(ctx, "delete from river_job where kind in ('lapse', 'owner_gone', 'visitor_gone', 'wrap_up_over', 'overflow_due')")
	}
	if _, unlockErr := c.Exec(ctx, "select pg_advisory_unlock($1)", jobsLock); err == nil {
		err = unlockErr
	}
	if err != nil {
		return fmt.Errorf("migrating the job queue: %w", err)
	}
	return nil
}
