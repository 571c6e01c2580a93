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

// isAvailable says of the operator $1 that they are connected and want chats.
var isAvailable = "coalesce((select available from availability where operator_id = $1), false) and " + isConnected("$1::uuid")

// held is how an operator stands while nobody else can give them a chat.
type held struct {
	load, offered int  // chats in hand (active and in wrap-up), and on offer
	available     bool // connected, and wants chats
}

// lockOperator keeps others from giving an operator a chat until the
// transaction ends, and returns how they stand then; all in one way to the database,
// where each statement sees what was committed before it began.
func lockOperator(ctx context.Context, tx pgx.Tx, operatorID string, now time.Time) (h held, err error) {
	var all pgx.Batch
	all.Queue("select pg_advisory_xact_lock(hashtextextended($1, 0))", operatorID)
	all.Queue(`select
		(select count(*) from chats where owner_id = $1 and (phase = 'active' and not message or wrap_until > $2)),
		(select count(*) from chats where offered_to = $1) + (select count(*) from chats where handing_to = $1),
		`+isAvailable, operatorID, now).
		QueryRow(func(row pgx.Row) error { return row.Scan(&h.load, &h.offered, &h.available) })
	err = tx.SendBatch(ctx, &all).Close()
	return h, err
}

// availableNow reports whether an operator is connected and wants chats.
func availableNow(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	var available bool
	err := tx.QueryRow(ctx, "select "+isAvailable, operatorID).Scan(&available)
	return available, err
}

// Load keeps others from giving an operator a chat until the transaction ends,
// and returns how many they have in hand.
func (room *Room) Load(ctx context.Context, tx pgx.Tx, operatorID string) (int, error) {
	h, err := lockOperator(ctx, tx, operatorID, room.Now())
	return h.load, err
}

// Available reports whether an operator is connected and wants chats.
func (room *Room) Available(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	return availableNow(ctx, tx, operatorID)
}
