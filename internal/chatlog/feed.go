package chatlog

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
)

// Position is a place in the feed, behind one event. The zero Position is the
// beginning.
//
// The feed is all events in the order of the transactions that stored them, and
// within one by chat and number. A transaction's number is no order of commits,
// but whoever reads only what is below the oldest transaction still under way
// finds each event once: what commits later has a higher number.
type Position struct {
	Generation int16
	XID        int64
	ChatID     string
	Number     int64
}

const noChat = "00000000-0000-0000-0000-000000000000"

// Entry is one event of the feed.
type Entry struct {
	chat.Event
	ChatID string
	At     Position
}

// What is read of the feed at once: so many events, out of so many that are looked
// through for those of some kinds.
const (
	feedLimit   = 500
	lookThrough = 2000
)

// rowsQuerier reads from a pool of connections or in a transaction.
type rowsQuerier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}

// Read returns the next events of the feed after a position, in order, up to a
// limit of its own: who gets none has come to the end.
func (s Tables) Read(ctx context.Context, after Position) ([]Entry, error) {
	p, err := readFeed(ctx, s.Pool(), after, nil)
	return p.entries, err
}

// feedPart is a part of the feed.
type feedPart struct {
	entries []Entry
	end     Position // of what was looked through
	full    bool     // there may be more
}

// partQuery reads a part of the feed. What is looked through is bounded by the number
// in the query, not by a parameter: knowing how little that is, PostgreSQL goes along
// the index. It took the whole table in hand otherwise, once that was large and the
// kinds in it rare. The last event that was looked through is always returned.
func partQuery(limit int, condition string) string {
	return `select ` + entryColumns + `, wanted, looked from (
		select *, ($5::text[] is null or kind = any($5)) as wanted, count(*) over () as looked, row_number() over (order by generation, xid, chat_id, number) as nth
		from (select * from events where ` + condition + ` and ` + behind + `
				and (generation < (select generation from feed) or xid < pg_snapshot_xmin(pg_current_snapshot()))
			order by generation, xid, chat_id, number limit ` + strconv.Itoa(limit) + `) part
		) e where wanted or nth = looked order by generation, xid, chat_id, number`
}

// behind is a condition that an event stands behind a position in the feed.
const behind = "(generation, xid) >= ($1, $2::text::xid8) and (generation, xid, chat_id, number) > ($1, $2::text::xid8, $3::uuid, $4)"

// lagsQuery asks whether events of some kinds stand behind a position, also those that cannot
// be read yet, since older transactions are under way. Of very many it is not looked which.
func lagsQuery(kinds []chat.Kind) string {
	condition := "kind <> 'said'" // by the index that has no words in it
	if slices.Contains(kinds, chat.Said) {
		condition = "true"
	}
	return `select count(*) filter (where kind = any($5)) > 0 or count(*) = ` + strconv.Itoa(lookThrough) + `
		from (select kind from events where ` + condition + ` and ` + behind + ` order by generation, xid, chat_id, number limit ` + strconv.Itoa(lookThrough) + `) part`
}

var (
	allOfPart   = partQuery(feedLimit, "true")
	kindsOfPart = partQuery(lookThrough, "true")
	actsOfPart  = partQuery(lookThrough, "kind <> 'said'") // by the index that has no words in it
)

// readFeed reads events of some kinds, or of all.
func readFeed(ctx context.Context, db rowsQuerier, after Position, kinds []chat.Kind) (p feedPart, err error) {
	if after.ChatID == "" {
		after.ChatID = noChat
	}
	query, limit := allOfPart, feedLimit
	switch {
	case kinds == nil:
	case slices.Contains(kinds, chat.Said):
		query, limit = kindsOfPart, lookThrough
	default:
		query, limit = actsOfPart, lookThrough
	}
	rows, err := db.Query(ctx, query, after.Generation, strconv.FormatInt(after.XID, 10), after.ChatID, after.Number, kinds)
	if err != nil {
		return p, fmt.Errorf("reading the feed: %w", err)
	}
	p.end = after
	_, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (none struct{}, err error) {
		var wanted bool
		var looked int
		e, err := toEntry(r, &wanted, &looked)
		if wanted {
			p.entries = append(p.entries, e)
		}
		p.end, p.full = e.At, looked == limit
		return none, err
	})
	return p, err
}

// WholeLog returns all events of a chat, read in a transaction.
func WholeLog(ctx context.Context, tx rowsQuerier, chatID string) ([]chat.Event, error) {
	logs, err := WholeLogs(ctx, tx, []string{chatID})
	return logs[chatID], err
}

// WholeLogs returns all events of some chats, read in a transaction or from the pool.
func WholeLogs(ctx context.Context, tx rowsQuerier, chatIDs []string) (map[string][]chat.Event, error) {
	rows, err := tx.Query(ctx, "select "+entryColumns+" from events where chat_id = any($1::uuid[]) order by chat_id, number", chatIDs)
	if err != nil {
		return nil, err
	}
	logs := make(map[string][]chat.Event, len(chatIDs))
	entries, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (Entry, error) { return toEntry(r) })
	for _, e := range entries {
		logs[e.ChatID] = append(logs[e.ChatID], e.Event)
	}
	return logs, err
}

// entryColumns are those of an Entry, as toEntry reads them.
const entryColumns = "generation, xid::text::bigint, chat_id::text, number, kind, at, side, party_id::text, coalesce(client_id, ''), text, up_to, ending, intro, detail"

// toEntry reads an event, and what stands behind it in its row.
func toEntry(r pgx.CollectableRow, more ...any) (e Entry, err error) {
	var row Event
	var clientID string
	var intro, detail []byte
	into := []any{&e.At.Generation, &e.At.XID, &row.ChatID, &row.Number, &row.Kind, &row.At, &row.Side, &row.PartyID, &clientID, &row.Text, &row.UpTo, &row.Ending, &intro, &detail}
	if err := r.Scan(append(into, more...)...); err != nil {
		return e, err
	}
	if clientID != "" {
		row.ClientID = &clientID
	}
	if intro != nil {
		err = json.Unmarshal(intro, &row.Intro)
	}
	if detail != nil {
		err = errors.Join(err, json.Unmarshal(detail, &row.Detail))
	}
	e.ChatID, e.At.ChatID, e.At.Number = row.ChatID, row.ChatID, row.Number
	e.Event = fromRow(row)
	return e, err
}

// End returns a position behind which stands all that is appended from now on,
// and perhaps some that was being appended.
func (s Tables) End(ctx context.Context) (p Position, err error) {
	p.ChatID = noChat
	err = s.Pool().QueryRow(ctx, "select generation, pg_snapshot_xmin(pg_current_snapshot())::text::bigint from feed").Scan(&p.Generation, &p.XID)
	return p, err
}

// generationLock is the advisory lock under which a generation begins.
const generationLock = 0x570_0b03

// BeginFeed begins a generation of the feed, if this database is a copy that was
// restored where the numbers of transactions are behind those of its events. A
// server calls it before it appends.
func (s Tables) BeginFeed(ctx context.Context) error {
	return pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock($1)", generationLock); err != nil {
			return err
		}
		var restored bool
		var generation int16
		err := tx.QueryRow(ctx, `select generation, exists (select from events e where e.generation = feed.generation and e.xid > pg_current_xact_id()) from feed`).Scan(&generation, &restored)
		if err != nil || !restored {
			return err
		}
		generation++
		if _, err := tx.Exec(ctx, fmt.Sprintf("alter table events alter column generation set default %d", generation)); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "update feed set generation = $1", generation)
		return err
	})
}

// Follower does something with each event, once and in order, whatever server
// dies meanwhile: what it does in the transaction is done together with noting
// how far it has come. One server follows at a time, under the follower's name.
type Follower struct {
	Name string
	// Kinds are those of the events that it follows; none stands for all.
	Kinds []chat.Kind
	// FromNow begins with what is appended after the follower was known first;
	// otherwise it begins with the oldest event.
	FromNow bool
	// Ready, if set, is called before the transaction begins, for what Do must not
	// wait for while it holds a connection.
	Ready func(ctx context.Context) error
	Do    func(ctx context.Context, tx pgx.Tx, entries []Entry) error
}

const (
	// followEvery is how often a follower looks when nothing wakes it.
	followEvery = time.Second
	// followSoon gathers what is appended, so that a busy feed is read in parts and
	// who waits for an answer goes first.
	followSoon = 100 * time.Millisecond
	// passOver is after how many transactions without an event of its kinds a
	// follower notes that it has come past them.
	passOver = 200
)

// Follow lets a follower go on until the context ends. What fails is tried again.
func (a *Log) Follow(ctx context.Context, log *slog.Logger, f Follower) {
	woken, known := a.wake(f), false
	for ctx.Err() == nil {
		more, err := false, error(nil)
		if !known {
			err = a.introduce(ctx, f)
			known = err == nil
		}
		if known {
			more, err = a.step(ctx, f)
		}
		if err != nil && ctx.Err() == nil {
			log.Error("a follower of the feed could not go on, and tries again", "follower", f.Name, "error", err)
			more = false
		}
		if more {
			continue
		}
		pause(ctx, followEvery, woken)
		pause(ctx, followSoon, nil)
	}
}

func pause(ctx context.Context, long time.Duration, woken <-chan struct{}) {
	timer := time.NewTimer(long)
	defer timer.Stop()
	select {
	case <-ctx.Done():
	case <-woken:
	case <-timer.C:
	}
}

// Step lets a follower do the next part, if no other server is at it, and reports
// whether there may be more.
func (s Tables) Step(ctx context.Context, f Follower) (more bool, err error) {
	if err := s.introduce(ctx, f); err != nil {
		return false, err
	}
	return s.step(ctx, f)
}

func (s Tables) step(ctx context.Context, f Follower) (more bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, commitTimeout)
	defer cancel()
	if f.Ready != nil {
		if err := f.Ready(ctx); err != nil {
			return false, err
		}
	}
	err = pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error {
		var at Position
		sure := Position{ChatID: noChat} // all before it is there to be read, whatever its kind
		err := tx.QueryRow(ctx, `select f.generation, f.xid::text::bigint, f.chat_id::text, f.number, feed.generation, pg_snapshot_xmin(pg_current_snapshot())::text::bigint
			from followers f, feed where f.name = $1 for update of f skip locked`, f.Name).
			Scan(&at.Generation, &at.XID, &at.ChatID, &at.Number, &sure.Generation, &sure.XID)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil // another server is at it
		}
		if err != nil {
			return err
		}
		part, err := readFeed(ctx, tx, at, f.Kinds)
		if err != nil {
			return err
		}
		if len(part.entries) > 0 {
			if err := f.Do(ctx, tx, part.entries); err != nil {
				return err
			}
		}
		more = part.full
		next, moved := nextPlace(at, sure, part)
		if !moved {
			return nil
		}
		_, err = tx.Exec(ctx, "update followers set generation = $2, xid = $3::text::xid8, chat_id = $4, number = $5 where name = $1",
			f.Name, next.Generation, strconv.FormatInt(next.XID, 10), next.ChatID, next.Number)
		return err
	})
	return more, err
}

// nextPlace returns where a follower goes on that stood at a place and did a part,
// and whether that is worth noting: not for a few events that are none of its. When
// there is no more, it has come to where all was sure to be there.
func nextPlace(at, sure Position, part feedPart) (next Position, worth bool) {
	next = part.end
	if !part.full && (sure.Generation > next.Generation || sure.Generation == next.Generation && sure.XID > next.XID) {
		next = sure
	}
	return next, len(part.entries) > 0 || part.full || next.Generation > at.Generation || next.XID > at.XID+passOver
}

// Lags reports whether events of some kinds are there to be read that a follower has not
// come to.
func (s Tables) Lags(ctx context.Context, follower string, kinds []chat.Kind) (lags bool, err error) {
	var at Position
	err = s.Pool().QueryRow(ctx, "select generation, xid::text::bigint, chat_id::text, number from followers where name = $1", follower).
		Scan(&at.Generation, &at.XID, &at.ChatID, &at.Number)
	if errors.Is(err, pgx.ErrNoRows) {
		return true, nil // it has not begun
	}
	if err != nil {
		return false, err
	}
	if at.ChatID == "" {
		at.ChatID = noChat
	}
	err = s.Pool().QueryRow(ctx, lagsQuery(kinds), at.Generation, strconv.FormatInt(at.XID, 10), at.ChatID, at.Number, kinds).Scan(&lags)
	return lags, err
}

// introduce notes a follower that was not known.
func (s Tables) introduce(ctx context.Context, f Follower) error {
	ctx, cancel := context.WithTimeout(ctx, commitTimeout)
	defer cancel()
	var known bool
	err := s.Pool().QueryRow(ctx, "select exists (select from followers where name = $1)", f.Name).Scan(&known)
	if err != nil || known {
		return err
	}
	begin := Position{ChatID: noChat}
	if f.FromNow {
		if begin, err = s.End(ctx); err != nil {
			return err
		}
	}
	_, err = s.Pool().Exec(ctx, "insert into followers (name, generation, xid, chat_id, number) values ($1, $2, $3::text::xid8, $4, $5) on conflict (name) do nothing",
		f.Name, begin.Generation, strconv.FormatInt(begin.XID, 10), begin.ChatID, begin.Number)
	return err
}

// wake returns what tells a follower that something was appended here.
// waker wakes a follower.
type waker struct {
	kinds []chat.Kind
	woken chan struct{}
}

func (a *Log) wake(f Follower) <-chan struct{} {
	a.waking.Lock()
	defer a.waking.Unlock()
	if a.wakes == nil {
		a.wakes = map[string]waker{}
	}
	w := waker{f.Kinds, make(chan struct{}, 1)}
	a.wakes[f.Name] = w
	return w.woken
}

// wakeFor wakes the followers of such events.
func (a *Log) wakeFor(events []chat.Event) {
	a.waking.Lock()
	defer a.waking.Unlock()
	for _, w := range a.wakes {
		if w.kinds != nil && !slices.ContainsFunc(events, func(e chat.Event) bool { return slices.Contains(w.kinds, e.Kind) }) {
			continue
		}
		select {
		case w.woken <- struct{}{}:
		default:
		}
	}
}
