package floor

import (
	"context"
	"errors"
	"fmt"
	"time"

	"stoop/internal/store"

	"github.com/jackc/pgx/v5"
)

// routingLock is the advisory lock under which chats are handed out. It is one
// for all departments, because an operator may be a member of several and an
// overflow reaches across them.
const routingLock = 0x570_0b01

// lock is the one connection over which a server holds the lock of routing. It is
// none of the pool's: what is done under the lock needs those.
type lock struct {
	turn chan struct{} // held by who hands out
	conn *pgx.Conn
}

func newLock() *lock { return &lock{turn: make(chan struct{}, 1)} }

// under runs something while no other server hands out chats. It waits for its
// turn as long as the context allows.
func (l *lock) under(ctx context.Context, s *store.Store, do func(context.Context) error) (err error) {
	select {
	case l.turn <- struct{}{}:
		defer func() { <-l.turn }()
	case <-ctx.Done():
		return ctx.Err()
	}
	if l.conn == nil || l.conn.IsClosed() {
		if l.conn, err = s.Connect(ctx); err != nil {
			return fmt.Errorf("connecting for the lock of routing: %w", err)
		}
	}
	if _, err := l.conn.Exec(ctx, "select pg_advisory_lock($1)", routingLock); err != nil {
		return l.drop(err)
	}
	defer func() {
		unlock, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		if _, unlockErr := l.conn.Exec(unlock, "select pg_advisory_unlock($1)", routingLock); unlockErr != nil {
			err = errors.Join(err, l.drop(unlockErr)) // the database unlocks what a lost connection held
		}
	}()
	return do(ctx)
}

func (l *lock) drop(err error) error {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	_ = l.conn.Close(ctx) // it is of no use any more
	return err
}

// close gives the connection back, after who hands out is done.
func (l *lock) close() {
	l.turn <- struct{}{}
	if l.conn != nil {
		_ = l.drop(nil)
	}
}

// lockOperator keeps others from giving an operator a chat until the
// transaction ends, and returns how many chats they have in hand (active and in
// wrap-up) and on offer.
func lockOperator(ctx context.Context, tx pgx.Tx, operatorID string, now time.Time) (load, offered int, err error) {
	if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock(hashtextextended($1, 0))", operatorID); err != nil {
		return 0, 0, err
	}
	err = tx.QueryRow(ctx, `select
		(select count(*) from chats where owner_id = $1 and (phase = 'active' and not message or wrap_until > $2)),
		(select count(*) from chats where offered_to = $1) + (select count(*) from chats where handing_to = $1)`, operatorID, now).Scan(&load, &offered)
	return load, offered, err
}

// availableNow reports whether an operator is connected and wants chats.
func availableNow(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	var available bool
	err := tx.QueryRow(ctx, "select coalesce((select available from availability where operator_id = $1), false) and "+isConnected("$1::uuid"), operatorID).Scan(&available)
	return available, err
}

// Load keeps others from giving an operator a chat until the transaction ends,
// and returns how many they have in hand.
func (room *Room) Load(ctx context.Context, tx pgx.Tx, operatorID string) (int, error) {
	load, _, err := lockOperator(ctx, tx, operatorID, room.Now())
	return load, err
}

// Available reports whether an operator is connected and wants chats.
func (room *Room) Available(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	return availableNow(ctx, tx, operatorID)
}
