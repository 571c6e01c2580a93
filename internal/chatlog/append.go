package chatlog

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

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

// wordsChange is what changes of a chat when somebody says something in it.
var wordsChange = []field[*draft]{
	of("last", "bigint", func(d *draft) int64 { return d.after.Last }),
	of("phase", "text", func(d *draft) string { return string(d.after.Phase) }),
	of("owner_id", "uuid", func(d *draft) *string { return d.after.OwnerID }),
	of("taken_at", "timestamptz", func(d *draft) *time.Time { return d.after.TakenAt }),
	of("replied_at", "timestamptz", func(d *draft) *time.Time { return d.after.RepliedAt }),
	of("last_words", "text", func(d *draft) string { return d.after.LastWords }),
	of("last_words_side", "text", func(d *draft) string { return string(d.after.LastWordsSide) }),
	of("last_words_at", "timestamptz", func(d *draft) *time.Time { return d.after.LastWordsAt }),
	of("state", "text", func(d *draft) string { return d.state }),
}

// actsChange is what further acts may change.
var actsChange = append(slices.Clone(wordsChange),
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
)

// Which chat, and from which number it is moved on.
var (
	chatID     = of("id", "uuid", func(d *draft) string { return d.after.ID })
	chatBefore = of("before", "bigint", func(d *draft) int64 { return d.before.Last })
)

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

var (
	// appendWord is for a single event that says something: the usual message on a
	// server that is not busy. It costs PostgreSQL less than half of the statements
	// with arrays.
	appendWord = oneStatement(wordsChange, wordsEvent)
	// appendAct is for a single event of another kind.
	appendAct = oneStatement(actsChange, actEvent)
	// appendWords is for many such events, in many chats.
	appendWords = batchStatement(wordsChange, wordsEvent)
	// appendActs is for any number of chats and events of all kinds.
	appendActs = batchStatement(actsChange, actEvent)
)

func oneStatement(change []field[*draft], event []field[Event]) string {
	n := 2 // the id and the number before are the first two
	set := make([]string, len(change))
	for i, f := range change {
		n++
		set[i] = fmt.Sprintf("%s = $%d", f.name, n)
	}
	values := make([]string, len(event))
	for i, f := range event {
		n++
		values[i] = fmt.Sprintf("$%d::%s", n, f.kind)
	}
	return `with moved as (update chats set ` + strings.Join(set, ", ") + ` where id = $1 and last = $2 returning id)
		insert into events (` + names(event, "") + `) select ` + strings.Join(values, ", ") + ` from moved returning chat_id::text`
}

func batchStatement(change []field[*draft], event []field[Event]) string {
	chats := chatFields(change)
	set := make([]string, len(change))
	for i, f := range change {
		set[i] = f.name + " = d." + f.name
	}
	statement := `with d as (select * from ` + unnested(chats, 1) + `),
		moved as (update chats c set ` + strings.Join(set, ", ") + ` from d where c.id = d.id and c.last = d.before returning c.id),
		added as (insert into events (` + names(event, "") + `)
			select ` + names(event, "e.") + ` from (select * from ` + unnested(event, 1+len(chats)) + `) e join moved on moved.id = e.chat_id)`
	return statement + ` select id::text from moved`
}

func chatFields(change []field[*draft]) []field[*draft] {
	return append([]field[*draft]{chatID, chatBefore}, change...)
}

// unnested is a table made of arrays, the first of which is the parameter with
// this number.
func unnested[R any](fields []field[R], first int) string {
	arrays := make([]string, len(fields))
	for i, f := range fields {
		arrays[i] = fmt.Sprintf("$%d::%s[]", first+i, f.kind)
	}
	return "unnest(" + strings.Join(arrays, ", ") + ") as t(" + names(fields, "") + ")"
}

func names[R any](fields []field[R], before string) string {
	list := make([]string, len(fields))
	for i, f := range fields {
		list[i] = before + f.name
	}
	return strings.Join(list, ", ")
}

// querier is a pool of connections or a transaction.
type querier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
}

// appendAll stores drafts and returns which of them the database accepted.
func appendAll(ctx context.Context, db querier, drafts []*draft) (moved map[string]bool, err error) {
	var events []Event
	words := true
	for _, d := range drafts {
		if d.state, err = d.after.State.Encode(); err != nil {
			return nil, fmt.Errorf("encoding the state: %w", err)
		}
		for _, e := range d.events {
			words = words && staysPut(e.Kind)
			events = append(events, toRow(d.after.ID, e))
		}
	}
	var statement string
	var args []any
	switch {
	case words && len(events) == 1:
		statement, args = appendWord, append(ones(chatFields(wordsChange), drafts[0]), ones(wordsEvent, events[0])...)
	case len(events) == 1:
		statement, args = appendAct, append(ones(chatFields(actsChange), drafts[0]), ones(actEvent, events[0])...)
	case words:
		statement, args = appendWords, append(manies(chatFields(wordsChange), drafts), manies(wordsEvent, events)...)
	default:
		statement, args = appendActs, append(manies(chatFields(actsChange), drafts), manies(actEvent, events)...)
	}
	rows, err := db.Query(ctx, statement, args...)
	if err != nil {
		return nil, err
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	moved = make(map[string]bool, len(ids))
	for _, id := range ids {
		moved[id] = true
	}
	return moved, nil
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

// staysPut reports whether an event leaves a chat where it is.
func staysPut(kind chat.Kind) bool {
	return kind == chat.Said
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
