// Package jobs keeps what must happen in the world outside, like mails. Jobs are rows
// of the same database, written in the transaction of their cause, so that no
// crash forgets one; River works them, on whichever server is there.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"
)

// Workers are who does the jobs, by their kind.
type Workers struct{ river *river.Workers }

// NewWorkers returns nobody; see Work.
func NewWorkers() *Workers { return &Workers{river.NewWorkers()} }

// Work says who does jobs of a kind. It may be called more than once for the same
// cause and must find out whether there is still something to do.
func Work[T river.JobArgs](w *Workers, do func(context.Context, T) error) {
	river.AddWorker(w.river, river.WorkFunc(func(ctx context.Context, j *river.Job[T]) error { return do(ctx, j.Args) }))
}

// Queue is where jobs are put, and worked after Start.
type Queue struct {
	client *river.Client[pgx.Tx]
}

// New returns a queue on a migrated database.
func New(pool *pgxpool.Pool, w *Workers, log *slog.Logger) (*Queue, error) {
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		Queues:            map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 8}},
		Workers:           w.river,
		FetchCooldown:     50 * time.Millisecond,
		FetchPollInterval: time.Second,
		// Without a connection that listens: a small pool has none to spare.
		PollOnly:             true,
		JobTimeout:           time.Minute,
		RescueStuckJobsAfter: 2 * time.Minute, // of a server that was killed at work
		RetryPolicy:          soon{},
		Logger:               slog.New(onlyErrors{log.Handler()}),
	})
	if err != nil {
		return nil, fmt.Errorf("making the job queue: %w", err)
	}
	return &Queue{client: client}, nil
}

// soon tries failed jobs again after seconds rather than minutes: most wait for
// a person.
type soon struct{}

func (soon) NextRetry(j *rivertype.JobRow) time.Time {
	return time.Now().Add(min(time.Duration(j.Attempt)*2*time.Second, 5*time.Minute))
}

// Start begins to work jobs.
func (q *Queue) Start(ctx context.Context) error { return q.client.Start(ctx) }

// Stop finishes the jobs at work. A queue that was not started stops at once.
func (q *Queue) Stop(ctx context.Context) error {
	err := q.client.Stop(ctx)
	if errors.Is(err, context.DeadlineExceeded) {
		return q.client.StopAndCancel(context.WithoutCancel(ctx))
	}
	return err
}

// Add puts a job into the queue as part of a transaction, to be done at a time.
func (q *Queue) Add(ctx context.Context, tx pgx.Tx, job river.JobArgs, at time.Time) error {
	_, err := q.client.InsertTx(ctx, tx, job, &river.InsertOpts{ScheduledAt: at})
	return err
}

// onlyErrors leaves out what River tells of its usual work.
type onlyErrors struct{ slog.Handler }

func (h onlyErrors) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelError && h.Handler.Enabled(ctx, l)
}
