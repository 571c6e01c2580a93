package store

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"
)

// Replica lets long readings, searches and reports, go to a copy of the database that
// PostgreSQL keeps by streaming replication. While it cannot be asked, or is too far behind,
// they go to the database itself. The zero value with a Primary has no copy.
type Replica struct {
	Primary *Store
	Copy    *Store // nil: there is none
	Log     *slog.Logger

	mu      sync.Mutex
	written []mark // of the last minutes, oldest first
	behind  time.Duration
	usable  bool
}

// mark is how far the database had written its log at a time.
type mark struct {
	at  time.Time
	lsn int64
}

const (
	lookedAtEvery = time.Second
	// behindMost is how far behind a copy may be: beyond, what it says would mislead.
	behindMost = 10 * time.Minute
	lookWithin = 5 * time.Second
)

// Reader returns where to read what need not be of this very moment.
func (r *Replica) Reader() *Store {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.usable {
		return r.Copy
	}
	return r.Primary
}

// Behind returns how far behind the database Reader is; nothing, if it is the database.
func (r *Replica) Behind() time.Duration {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.usable {
		return r.behind
	}
	return 0
}

// Run looks again and again how far behind the copy is, until the context ends.
func (r *Replica) Run(ctx context.Context) {
	if r.Copy == nil {
		return
	}
	ticker := time.NewTicker(lookedAtEvery)
	defer ticker.Stop()
	for {
		r.Look(ctx)
		select {
		case <-ctx.Done():
			return
		case <-ticker.C:
		}
	}
}

// errNoReplica: what should be a copy of the database takes writes itself.
var errNoReplica = errors.New("it is not a replica: it takes writes itself")

// Look looks once how far behind the copy is, and says in the log when it begins or ends to
// be of use.
func (r *Replica) Look(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, lookWithin)
	defer cancel()
	now, written, replayed, err := r.positions(ctx)
	if ctx.Err() != nil && err != nil && errors.Is(ctx.Err(), context.Canceled) {
		return // the server stops
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	was := r.usable
	if err != nil {
		r.usable = false
	} else {
		r.behind = r.lag(mark{now, written}, replayed)
		r.usable = r.behind <= behindMost
	}
	switch {
	case was && !r.usable:
		r.Log.Warn("the read replica is not used: searches and reports go to the database itself", "behind", r.behind, "error", err)
	case !was && r.usable:
		r.Log.Info("searches and reports go to the read replica", "behind", r.behind)
	}
}

// positions returns how far the database has written its log, and how far the copy has
// replayed it, in bytes.
func (r *Replica) positions(ctx context.Context) (now time.Time, written, replayed int64, err error) {
	now = time.Now()
	if err = r.Primary.pool.QueryRow(ctx, "select (pg_current_wal_lsn() - '0/0')::bigint").Scan(&written); err != nil {
		return now, 0, 0, err
	}
	var copies bool
	err = r.Copy.pool.QueryRow(ctx, "select pg_is_in_recovery(), coalesce((pg_last_wal_replay_lsn() - '0/0')::bigint, 0)").Scan(&copies, &replayed)
	if err == nil && !copies {
		err = errNoReplica
	}
	return now, written, replayed, err
}

// lag returns for how long the copy has lacked something that the database had: since the
// first look at which more was written than is replayed by now.
func (r *Replica) lag(now mark, replayed int64) time.Duration {
	r.written = append(r.written, now)
	for len(r.written) > 1 && r.written[0].lsn <= replayed || len(r.written) > int(2*behindMost/lookedAtEvery) {
		r.written = r.written[1:]
	}
	if r.written[0].lsn <= replayed {
		return 0
	}
	return now.at.Sub(r.written[0].at)
}
