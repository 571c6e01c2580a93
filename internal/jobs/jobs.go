// Package jobs keeps what must happen later: time-outs and mails. Jobs are rows
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

// Lapse ends an offer, or a chat that was handed on, if nobody answered.
// Number is that of the event which began it.
type Lapse struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
}

// OwnerGone gives the chats of an operator back who lost their connection.
type OwnerGone struct {
	OperatorID string `json:"operatorId"`
}

// VisitorGone counts a waiting chat as missed whose visitor left.
type VisitorGone struct {
	VisitorID string `json:"visitorId"`
}

// WrapUpOver ends the wrap-up of an ended chat.
type WrapUpOver struct {
	ChatID string `json:"chatId"`
}

// OverflowDue looks at the queues again, because a chat has waited long enough
// to overflow.
type OverflowDue struct {
	ChatID string    `json:"chatId" river:"unique"`
	Since  time.Time `json:"since" river:"unique"`
}

// SendWords sends what the team said in a chat to its visitor by email.
type SendWords struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
}

// MessageLeft tells an operator by mail of a message that was left.
type MessageLeft struct {
	ChatID     string `json:"chatId"`
	OperatorID string `json:"operatorId"`
}

// Kind names the job to River.
func (MessageLeft) Kind() string { return "message_left" }

// Kind names the job to River.
func (Lapse) Kind() string { return "lapse" }

// Kind names the job to River.
func (OwnerGone) Kind() string { return "owner_gone" }

// Kind names the job to River.
func (VisitorGone) Kind() string { return "visitor_gone" }

// Kind names the job to River.
func (WrapUpOver) Kind() string { return "wrap_up_over" }

// Kind names the job to River.
func (OverflowDue) Kind() string { return "overflow_due" }

// Kind names the job to River.
func (SendWords) Kind() string { return "send_words" }

// Handler does the jobs. Each may be called more than once for the same cause
// and must find out whether there is still something to do.
type Handler interface {
	Lapse(context.Context, Lapse) error
	OwnerGone(context.Context, OwnerGone) error
	VisitorGone(context.Context, VisitorGone) error
	WrapUpOver(context.Context, WrapUpOver) error
	OverflowDue(context.Context, OverflowDue) error
	SendWords(context.Context, SendWords) error
	MessageLeft(context.Context, MessageLeft) error
}

// Queue is where jobs are put, and worked after Start.
type Queue struct {
	client *river.Client[pgx.Tx]
}

// New returns a queue on a migrated database.
func New(pool *pgxpool.Pool, h Handler, log *slog.Logger) (*Queue, error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[Lapse]) error { return h.Lapse(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[OwnerGone]) error { return h.OwnerGone(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[VisitorGone]) error { return h.VisitorGone(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[WrapUpOver]) error { return h.WrapUpOver(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[OverflowDue]) error { return h.OverflowDue(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[SendWords]) error { return h.SendWords(ctx, j.Args) }))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[MessageLeft]) error { return h.MessageLeft(ctx, j.Args) }))
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		Queues:            map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 8}},
		Workers:           workers,
		FetchCooldown:     50 * time.Millisecond,
		FetchPollInterval: 250 * time.Millisecond, // how exact a time-out is
		RetryPolicy:       soon{},
		Logger:            slog.New(onlyErrors{log.Handler()}),
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
	opts := &river.InsertOpts{ScheduledAt: at}
	if _, ok := job.(OverflowDue); ok {
		// One for each wait of a chat, however often its queue is looked at.
		opts.UniqueOpts = river.UniqueOpts{ByArgs: true}
	}
	_, err := q.client.InsertTx(ctx, tx, job, opts)
	return err
}

// WakeLate lets jobs be worked that are due though River's scheduler has not
// seen them: it runs on one server of all, and when that one died it takes some
// seconds until another is chosen.
func (q *Queue) WakeLate(ctx context.Context, now time.Time) error {
	late, err := q.client.JobList(ctx, river.NewJobListParams().States(rivertype.JobStateScheduled).
		OrderBy(river.JobListOrderByScheduledAt, river.SortOrderAsc).First(50))
	if err != nil {
		return err
	}
	for _, j := range late.Jobs {
		if j.ScheduledAt.After(now) {
			return nil
		}
		if _, err := q.client.JobRetry(ctx, j.ID); err != nil && !errors.Is(err, rivertype.ErrNotFound) {
			return err
		}
	}
	return nil
}

// onlyErrors leaves out what River tells of its usual work.
type onlyErrors struct{ slog.Handler }

func (h onlyErrors) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelError && h.Handler.Enabled(ctx, l)
}
