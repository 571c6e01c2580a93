package floor

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/internal/chatlog"
	"stoop/internal/store"
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
	held bool // by conn
}

func newLock() *lock { return &lock{turn: make(chan struct{}, 1)} }

const (
	waitForLock = "select true from (select pg_advisory_lock($1)) as waited"
	tryLock     = "select pg_try_advisory_lock($1)"
)

// under runs something while no other server hands out chats, and hands it what
// handing out goes by, read under the lock in the same way to the database. It waits
// for its turn as long as the context allows.
func (l *lock) under(ctx context.Context, s *store.Store, now time.Time, do func(context.Context, looked) error) error {
	select {
	case l.turn <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	look, _, err := l.take(ctx, s, now, waitForLock)
	if err == nil {
		err = do(ctx, look)
	}
	return errors.Join(err, l.release())
}

// attempt is a try to get the lock, beside other work.
type attempt struct {
	lock *lock // nil: somebody hands out
	done chan struct{}
	look looked
	held bool
	err  error
}

// attemptFor bounds an attempt: who makes it does not wait for what hangs.
const attemptFor = 5 * time.Second

// attempt begins to get the lock, if nobody hands out at this moment. End it.
func (l *lock) attempt(ctx context.Context, s *store.Store, now time.Time) *attempt {
	a := &attempt{done: make(chan struct{})}
	select {
	case l.turn <- struct{}{}:
	default:
		close(a.done)
		return a
	}
	a.lock = l
	go func() {
		defer close(a.done)
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), attemptFor)
		defer cancel()
		a.look, a.held, a.err = l.take(ctx, s, now, tryLock)
	}()
	return a
}

// result waits for the attempt, and returns what handing out goes by if it has the
// lock.
func (a *attempt) result() (look looked, held bool, err error) {
	<-a.done
	return a.look, a.held, a.err
}

// end gives the lock back, and waits for nothing.
func (a *attempt) end() {
	if a.lock != nil {
		go func() {
			<-a.done
			_ = a.lock.release() // a lost connection is made anew by who comes next
		}()
	}
}

// take gets the lock by a statement and reads what handing out goes by. The caller
// has the turn, and releases it, whatever comes of this.
func (l *lock) take(ctx context.Context, s *store.Store, now time.Time, statement string) (look looked, held bool, err error) {
	if l.conn == nil || l.conn.IsClosed() {
		if l.conn, err = s.Connect(ctx); err != nil {
			return look, false, fmt.Errorf("connecting for the lock of routing: %w", err)
		}
	}
	var all pgx.Batch
	all.Queue(statement, routingLock).QueryRow(func(row pgx.Row) error { return row.Scan(&l.held) })
	seen := lookInto(&all, now) // each statement sees what was committed before it began: all that was done under the lock
	if err := l.conn.SendBatch(ctx, &all).Close(); err != nil {
		return look, false, l.drop(err)
	}
	return *seen, l.held, nil
}

// release gives back the lock, if it is held, and the turn.
func (l *lock) release() error {
	defer func() { <-l.turn }()
	if !l.held {
		return nil
	}
	l.held = false
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if _, err := l.conn.Exec(ctx, "select pg_advisory_unlock($1)", routingLock); err != nil {
		return l.drop(err) // the database unlocks what a lost connection held
	}
	return nil
}

func (l *lock) drop(err error) error {
	l.held = false
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

// What an operator has in hand (active and in wrap-up) at the time $2, and on offer.
const (
	inHand  = "(select count(*) from chats where owner_id = $1 and (phase = 'active' and not message or wrap_until > $2))"
	onOffer = "((select count(*) from chats where offered_to = $1) + (select count(*) from chats where handing_to = $1))"
)

// lockOperator keeps others from giving an operator a chat until the transaction of
// an act ends: it is sent ahead of it.
func lockOperator(operatorID string) chatlog.Statement {
	return chatlog.Statement{SQL: "select pg_advisory_xact_lock(hashtextextended($1, 0))", Args: []any{operatorID}}
}

// mustHaveRoom goes ahead of an act that gives an operator a chat by itself. It
// refuses the act, unless they are there and have room. Whoever gives chats to the
// same operator waits meanwhile; what stands here was counted after the lock.
func mustHaveRoom(operatorID string, now time.Time, capacity int) func(chatlog.Chat) []chatlog.Statement {
	return func(chatlog.Chat) []chatlog.Statement {
		return []chatlog.Statement{lockOperator(operatorID), {
			SQL:  "select must_hold(" + inHand + " + " + onOffer + " < $3 and " + isAvailable + ")",
			Args: []any{operatorID, now, capacity},
		}}
	}
}

// availableNow reports whether an operator is connected and wants chats.
func availableNow(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	var available bool
	err := tx.QueryRow(ctx, "select "+isAvailable, operatorID).Scan(&available)
	return available, err
}

// Taking goes ahead of an act by which an operator takes a chat themselves: others
// cannot give them one meanwhile, and it is refused when they have as many in hand as
// they may, unless they want it anyway.
func (room *Room) Taking(operatorID string, capacity int, anyway bool) []chatlog.Statement {
	ahead := []chatlog.Statement{lockOperator(operatorID)}
	if !anyway {
		ahead = append(ahead, chatlog.Statement{SQL: "select must_hold(" + inHand + " < $3)", Args: []any{operatorID, room.Now(), capacity}})
	}
	return ahead
}

// Load returns how many chats an operator has in hand.
func (room *Room) Load(ctx context.Context, operatorID string) (n int, err error) {
	err = room.Tables.Pool().QueryRow(ctx, "select "+inHand, operatorID, room.Now()).Scan(&n)
	return n, err
}

// Available reports whether an operator is connected and wants chats.
func (room *Room) Available(ctx context.Context, tx pgx.Tx, operatorID string) (bool, error) {
	return availableNow(ctx, tx, operatorID)
}
