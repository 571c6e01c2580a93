package chatlog

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"stoop/core/chat"
)

// field is a column of what a statement writes.
type field[R any] struct {
	name string
	kind string        // of PostgreSQL
	one  func(R) any   // its value
	many func([]R) any // its values, as a slice that the driver takes for an array
}

func of[R, T any](name, kind string, value func(R) T) field[R] {
	return field[R]{name, kind, func(r R) any { return value(r) }, func(rows []R) any { return column(rows, value) }}
}

// wordsChange is what words change of a chat, all that stays with who says them
// having been stored before.
var wordsChange = []field[*draft]{
	of("last", "bigint", func(d *draft) int64 { return d.after.Last }),
	of("replied_at", "timestamptz", func(d *draft) *time.Time { return d.after.RepliedAt }),
	of("last_words", "text", func(d *draft) string { return d.after.LastWords }),
	of("last_words_side", "text", func(d *draft) string { return string(d.after.LastWordsSide) }),
	of("last_words_at", "timestamptz", func(d *draft) *time.Time { return d.after.LastWordsAt }),
	of("translation_owed", "bool", func(d *draft) bool { return d.after.TranslationOwed }),
	of("helper_owes", "bool", func(d *draft) bool { return d.after.HelperOwes }),
	of("over", "text", func(d *draft) string { return d.after.Over }),
	of("state", "text", func(d *draft) string { return d.state }),
}

// actsChange is what further acts may change.
var actsChange = append(slices.Clone(wordsChange),
	of("phase", "text", func(d *draft) string { return string(d.after.Phase) }),
	of("owner_id", "uuid", func(d *draft) *string { return d.after.OwnerID }),
	of("owned_at", "timestamptz", func(d *draft) *time.Time { return d.after.OwnedAt }),
	of("taken_at", "timestamptz", func(d *draft) *time.Time { return d.after.TakenAt }),
	of("ending", "text", func(d *draft) string { return string(d.after.Ending) }),
	of("ended_at", "timestamptz", func(d *draft) *time.Time { return d.after.EndedAt }),
	of("department_id", "uuid", func(d *draft) *string { return d.after.DepartmentID }),
	of("priority", "int", func(d *draft) int { return d.after.Priority }),
	of("arrived_at", "timestamptz", func(d *draft) *time.Time { return d.after.ArrivedAt }),
	of("since", "timestamptz", func(d *draft) *time.Time { return d.after.Since }),
	of("message", "bool", func(d *draft) bool { return d.after.Message }),
	of("seeking_id", "uuid", func(d *draft) *string { return d.after.SeekingID }),
	of("offered_to", "uuid", func(d *draft) *string { return d.after.OfferedTo }),
	of("handing_to", "uuid", func(d *draft) *string { return d.after.HandingTo }),
	of("wrap_until", "timestamptz", func(d *draft) *time.Time { return d.after.WrapUntil }),
	of("wrapped_at", "timestamptz", func(d *draft) *time.Time { return d.after.WrappedAt }),
	of("hand_ons", "int", func(d *draft) int { return d.after.HandOns }),
	of("name", "text", func(d *draft) string { return d.after.Name }),
	of("email", "text", func(d *draft) string { return d.after.Email }),
	of("phone", "text", func(d *draft) string { return d.after.Phone }),
	of("tags", "jsonb", func(d *draft) *string { return jsonOrNil(&d.after.Tags) }),
	of("summary", "text", func(d *draft) string { return d.after.Summary }),
	of("outcome", "text", func(d *draft) string { return d.after.Outcome }),
	of("sale_cents", "bigint", func(d *draft) *int64 { return d.after.SaleCents }),
	of("sale_currency", "text", func(d *draft) string { return d.after.SaleCurrency }),
	of("needs_outcome", "bool", func(d *draft) bool { return d.after.NeedsOutcome }),
	of("unread", "bool", func(d *draft) bool { return d.after.Unread }),
	of("calling_id", "uuid", func(d *draft) *string { return d.after.CallingID }),
	of("surveyed", "bool", func(d *draft) bool { return d.after.Surveyed }),
	of("rating", "int", func(d *draft) *int { return d.after.Rating }),
	of("rated_at", "timestamptz", func(d *draft) *time.Time { return d.after.RatedAt }),
	of("feedback_words", "text", func(d *draft) string { return d.after.FeedbackWords }),
	of("helping", "text", func(d *draft) string { return d.after.Helping }),
	of("feedback_to_read", "bool", func(d *draft) bool { return d.after.FeedbackToRead }),
)

// startChange is what is known of a chat from its beginning and never changes.
var startChange = append(slices.Clone(actsChange),
	of("widget_id", "uuid", func(d *draft) string { return d.after.WidgetID }),
	of("visitor_id", "uuid", func(d *draft) string { return d.after.VisitorID }),
	of("start_client_id", "text", func(d *draft) string { return d.after.StartClientID }),
	of("started_at", "timestamptz", func(d *draft) time.Time { return d.after.StartedAt }),
	of("answers", "jsonb", func(d *draft) *string { return jsonOrNil(&d.after.Answers) }),
	of("language", "text", func(d *draft) string { return d.after.Language }),
)

var chatID = of("id", "uuid", func(d *draft) string { return d.after.ID })

// wordsEvent is what an event holds that says something or tells of reading.
var wordsEvent = []field[Event]{
	of("chat_id", "uuid", func(e Event) string { return e.ChatID }),
	of("number", "bigint", func(e Event) int64 { return e.Number }),
	of("kind", "text", func(e Event) string { return string(e.Kind) }),
	of("at", "timestamptz", func(e Event) time.Time { return e.At }),
	of("side", "text", func(e Event) string { return string(e.Side) }),
	of("party_id", "uuid", func(e Event) string { return e.PartyID }),
	of("client_id", "text", func(e Event) *string { return e.ClientID }),
	of("text", "text", func(e Event) string { return e.Text }),
	of("up_to", "bigint", func(e Event) int64 { return e.UpTo }),
}

// actEvent is all that an event may hold.
var actEvent = append(slices.Clone(wordsEvent),
	of("ending", "text", func(e Event) string { return string(e.Ending) }),
	of("detail", "jsonb", func(e Event) *string { return jsonOrNil(e.Detail) }),
	of("intro", "jsonb", func(e Event) *string { return jsonOrNil(e.Intro) }),
)

// The key of an event, its chat and its number, is the compare by which two servers
// that act on the same chat cannot both win: each inserts the number that follows
// the last one it knows, and the database takes it once.
//
// What somebody says is stored as its event alone; the chat's row follows in a
// moment (see projection). Other acts move the row on in the same statement, since
// the queue, loads and lists are read there. It never goes back.
var (
	addWord  = insertOne(wordsEvent)
	addWords = insertMany(wordsEvent, 1)
	addAct   = "with added as (" + insertOne(actEvent) + ") " + moveOne(actsChange, 1+len(actEvent))
	addActs  = "with added as (" + insertMany(actEvent, 1) + ") " + moveMany(actsChange, 1+len(actEvent))
)

func insertOne(event []field[Event]) string {
	return "insert into events (" + names(event, "") + ") values (" + parameters(event, 1) + ")"
}

func insertMany(event []field[Event], first int) string {
	return "insert into events (" + names(event, "") + ") select * from " + unnested(event, first)
}

func moveOne(change []field[*draft], first int) string {
	set := make([]string, len(change))
	for i, f := range change {
		set[i] = fmt.Sprintf("%s = $%d", f.name, first+1+i)
	}
	return fmt.Sprintf("update chats set %s where id = $%d and last < $%d", strings.Join(set, ", "), first, first+1) // the first change is last
}

func moveMany(change []field[*draft], first int) string {
	return "update chats c set " + fromD(change) + " from " + unnestedAs("d", chatFields(change), first) + " where c.id = d.id and c.last < d.last"
}

func fromD(change []field[*draft]) string {
	set := make([]string, len(change))
	for i, f := range change {
		set[i] = f.name + " = d." + f.name
	}
	return strings.Join(set, ", ")
}

func parameters[R any](fields []field[R], first int) string {
	list := make([]string, len(fields))
	for i, f := range fields {
		list[i] = fmt.Sprintf("$%d::%s", first+i, f.kind)
	}
	return strings.Join(list, ", ")
}

func chatFields(change []field[*draft]) []field[*draft] {
	return append([]field[*draft]{chatID}, change...)
}

// unnested is a table made of arrays, the first of which is the parameter with
// this number.
func unnested[R any](fields []field[R], first int) string { return unnestedAs("t", fields, first) }

func unnestedAs[R any](name string, fields []field[R], first int) string {
	arrays := make([]string, len(fields))
	for i, f := range fields {
		arrays[i] = fmt.Sprintf("$%d::%s[]", first+i, f.kind)
	}
	return "unnest(" + strings.Join(arrays, ", ") + ") as " + name + "(" + names(fields, "") + ")"
}

func names[R any](fields []field[R], before string) string {
	list := make([]string, len(fields))
	for i, f := range fields {
		list[i] = before + f.name
	}
	return strings.Join(list, ", ")
}

// Statement is one that is sent to the database along with an act.
type Statement struct {
	SQL  string
	Args []any
}

// database is a pool of connections or a transaction.
type database interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
	SendBatch(ctx context.Context, b *pgx.Batch) pgx.BatchResults
}

// appendAll stores drafts, and does what is to be done before and after them, all
// or nothing in one way to the database.
func appendAll(ctx context.Context, db database, ahead []Statement, drafts []*draft, along []Statement) error {
	statements, err := statementsOf(drafts)
	if err != nil {
		return err
	}
	return send(ctx, db, slices.Concat(ahead, statements, along))
}

// send does statements, all or nothing.
func send(ctx context.Context, db database, statements []Statement) error {
	if len(statements) == 1 {
		_, err := db.Exec(ctx, statements[0].SQL, statements[0].Args...)
		return err
	}
	var all pgx.Batch // without a transaction of its own it is one
	for _, s := range statements {
		all.Queue(s.SQL, s.Args...)
	}
	return db.SendBatch(ctx, &all).Close()
}

// statementsOf returns what stores drafts: words by themselves, and other acts
// with their chats.
func statementsOf(drafts []*draft) (statements []Statement, err error) {
	var words, acts []Event
	var moved []*draft
	for _, d := range drafts {
		rows := toRows(d.after.ID, d.events)
		if d.onlyWords() {
			words = append(words, rows...)
			continue
		}
		if d.state, err = d.after.State.Encode(); err != nil {
			return nil, fmt.Errorf("encoding the state: %w", err)
		}
		acts, moved = append(acts, rows...), append(moved, d)
	}
	switch {
	case len(words) == 1:
		statements = append(statements, Statement{addWord, ones(wordsEvent, words[0])})
	case len(words) > 1:
		statements = append(statements, Statement{addWords, manies(wordsEvent, words)})
	}
	switch {
	case len(acts) == 1:
		statements = append(statements, Statement{addAct, append(ones(actEvent, acts[0]), ones(chatFields(actsChange), moved[0])...)})
	case len(acts) > 1:
		statements = append(statements, Statement{addActs, append(manies(actEvent, acts), manies(chatFields(actsChange), moved)...)})
	}
	return statements, nil
}

func toRows(chatID string, events []chat.Event) []Event {
	rows := make([]Event, len(events))
	for i, e := range events {
		rows[i] = toRow(chatID, e)
	}
	return rows
}

func ones[R any](fields []field[R], row R) []any {
	values := make([]any, len(fields))
	for i, f := range fields {
		values[i] = f.one(row)
	}
	return values
}

func manies[R any](fields []field[R], rows []R) []any {
	values := make([]any, len(fields))
	for i, f := range fields {
		values[i] = f.many(rows)
	}
	return values
}

// jsonOrNil encodes a value for a jsonb column; nothing stays nothing. These
// types hold only what JSON can.
func jsonOrNil[T any](v *T) *string {
	if v == nil {
		return nil
	}
	data, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	text := string(data)
	return &text
}

// column gathers one column of a batch.
func column[T, R any](rows []R, value func(R) T) []T {
	values := make([]T, len(rows))
	for i, r := range rows {
		values[i] = value(r)
	}
	return values
}
