package store

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

// The statements below move chats on and add to their logs, for those chats
// whose last number is still the one that was decided on, and return the ids
// of these. One statement is one transaction and one way to the database and
// back. They go by the driver's own pool: GORM would spread an array over many
// parameters, and its way costs a tenth of a message's time.

// appendOne is for a single event that ends nothing: the usual message on a
// server that is not busy. It costs PostgreSQL less than half of appendBatch.
const appendOne = `
with moved as (
	update chats set last = $3, phase = $4, owner_id = $5, taken_at = $6, replied_at = $7,
		last_words = $8, last_words_side = $9, last_words_at = $10, state = $11
	where id = $1 and last = $2
	returning id
)
insert into events (chat_id, number, kind, at, side, party_id, client_id, text, up_to)
select id, $3::bigint, $12::text, $13::timestamptz, $14::text, $15::uuid, $16::text, $17::text, $18::bigint from moved
returning chat_id::text`

// appendBatch is for any number of chats and events. Each column is an array.
// A chat that ends gets the words of its whole log for the search; what only
// the team may say there is not part of them.
const appendBatch = `
with moved as (
	update chats c set last = d.last, phase = d.phase, ending = d.ending, owner_id = d.owner_id,
		taken_at = d.taken_at, replied_at = d.replied_at, ended_at = d.ended_at,
		last_words = d.last_words, last_words_side = d.last_words_side, last_words_at = d.last_words_at,
		state = d.state, department_id = d.department_id, priority = d.priority, arrived_at = d.arrived_at, since = d.since,
		message = d.message, seeking_id = d.seeking_id, offered_to = d.offered_to, handing_to = d.handing_to,
		wrap_until = d.wrap_until, wrapped_at = d.wrapped_at, hand_ons = d.hand_ons, name = d.name, email = d.email, phone = d.phone,
		tags = d.tags, summary = d.summary, outcome = d.outcome, sale_cents = d.sale_cents, sale_currency = d.sale_currency,
		needs_outcome = d.needs_outcome, unread = d.unread, calling_id = d.calling_id,
		words = case when d.phase = 'ended' then coalesce(c.words, search_words(chat_words(c.id) || ' ' || d.said)) end
	from unnest($1::uuid[], $2::bigint[], $3::bigint[], $4::text[], $5::text[], $6::uuid[], $7::timestamptz[], $8::timestamptz[],
		$9::timestamptz[], $10::text[], $11::text[], $12::timestamptz[], $13::text[], $14::text[],
		$26::uuid[], $27::int[], $28::timestamptz[], $29::timestamptz[], $30::bool[], $31::uuid[], $32::uuid[], $33::uuid[],
		$34::timestamptz[], $35::timestamptz[], $36::int[], $37::text[], $38::text[], $39::text[],
		$41::jsonb[], $42::text[], $43::text[], $44::bigint[], $45::text[], $46::bool[], $47::bool[], $48::uuid[])
		as d(id, before, last, phase, ending, owner_id, taken_at, replied_at, ended_at, last_words, last_words_side, last_words_at, state, said,
			department_id, priority, arrived_at, since, message, seeking_id, offered_to, handing_to, wrap_until, wrapped_at, hand_ons, name, email, phone,
			tags, summary, outcome, sale_cents, sale_currency, needs_outcome, unread, calling_id)
	where c.id = d.id and c.last = d.before
	returning c.id
), added as (
	insert into events (chat_id, number, kind, at, side, party_id, client_id, text, up_to, ending, detail, intro)
	select e.* from unnest($15::uuid[], $16::bigint[], $17::text[], $18::timestamptz[], $19::text[], $20::uuid[],
		$21::text[], $22::text[], $23::bigint[], $24::text[], $25::jsonb[], $40::jsonb[])
		as e(chat_id, number, kind, at, side, party_id, client_id, text, up_to, ending, detail, intro)
	join moved on moved.id = e.chat_id
)
select id::text from moved`

// querier is a pool of connections or a transaction.
type querier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
}

// appendAll stores drafts and returns which of them the database accepted.
func appendAll(ctx context.Context, db querier, drafts []*draft) (moved map[string]bool, err error) {
	for _, d := range drafts {
		state, err := json.Marshal(d.after.State)
		if err != nil {
			return nil, fmt.Errorf("encoding the state: %w", err)
		}
		d.state = string(state)
	}
	var statement string
	var args []any
	if len(drafts) == 1 && len(drafts[0].events) == 1 && staysPut(drafts[0].events[0].Kind) && drafts[0].after.Phase != chat.Over {
		statement, args = appendOne, oneArgs(drafts[0])
	} else {
		statement, args = appendBatch, batchArgs(drafts)
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

// staysPut reports whether an event leaves a chat where it is.
func staysPut(kind chat.Kind) bool {
	return kind == chat.Said || kind == chat.Delivered || kind == chat.Seen
}

func oneArgs(d *draft) []any {
	c, e := d.after, toRow(d.after.ID, d.events[0])
	return []any{
		c.ID, d.before.Last, c.Last, string(c.Phase), c.OwnerID, c.TakenAt, c.RepliedAt,
		c.LastWords, string(c.LastWordsSide), c.LastWordsAt, d.state,
		string(e.Kind), e.At, string(e.Side), e.PartyID, e.ClientID, e.Text, e.UpTo,
	}
}

func batchArgs(drafts []*draft) []any {
	var events []Event
	for _, d := range drafts {
		for _, e := range d.events {
			events = append(events, toRow(d.after.ID, e))
		}
	}
	return []any{
		column(drafts, func(d *draft) string { return d.after.ID }),
		column(drafts, func(d *draft) int64 { return d.before.Last }),
		column(drafts, func(d *draft) int64 { return d.after.Last }),
		column(drafts, func(d *draft) string { return string(d.after.Phase) }),
		column(drafts, func(d *draft) string { return string(d.after.Ending) }),
		column(drafts, func(d *draft) *string { return d.after.OwnerID }),
		column(drafts, func(d *draft) *time.Time { return d.after.TakenAt }),
		column(drafts, func(d *draft) *time.Time { return d.after.RepliedAt }),
		column(drafts, func(d *draft) *time.Time { return d.after.EndedAt }),
		column(drafts, func(d *draft) string { return d.after.LastWords }),
		column(drafts, func(d *draft) string { return string(d.after.LastWordsSide) }),
		column(drafts, func(d *draft) *time.Time { return d.after.LastWordsAt }),
		column(drafts, func(d *draft) string { return d.state }),
		column(drafts, (*draft).said),
		column(events, func(e Event) string { return e.ChatID }),
		column(events, func(e Event) int64 { return e.Number }),
		column(events, func(e Event) string { return string(e.Kind) }),
		column(events, func(e Event) time.Time { return e.At }),
		column(events, func(e Event) string { return string(e.Side) }),
		column(events, func(e Event) string { return e.PartyID }),
		column(events, func(e Event) *string { return e.ClientID }),
		column(events, func(e Event) string { return e.Text }),
		column(events, func(e Event) int64 { return e.UpTo }),
		column(events, func(e Event) string { return string(e.Ending) }),
		column(events, func(e Event) *string { return jsonOrNil(e.Detail) }),
		column(drafts, func(d *draft) *string { return d.after.DepartmentID }),
		column(drafts, func(d *draft) int { return d.after.Priority }),
		column(drafts, func(d *draft) *time.Time { return d.after.ArrivedAt }),
		column(drafts, func(d *draft) *time.Time { return d.after.Since }),
		column(drafts, func(d *draft) bool { return d.after.Message }),
		column(drafts, func(d *draft) *string { return d.after.SeekingID }),
		column(drafts, func(d *draft) *string { return d.after.OfferedTo }),
		column(drafts, func(d *draft) *string { return d.after.HandingTo }),
		column(drafts, func(d *draft) *time.Time { return d.after.WrapUntil }),
		column(drafts, func(d *draft) *time.Time { return d.after.WrappedAt }),
		column(drafts, func(d *draft) int { return d.after.HandOns }),
		column(drafts, func(d *draft) string { return d.after.Name }),
		column(drafts, func(d *draft) string { return d.after.Email }),
		column(drafts, func(d *draft) string { return d.after.Phone }),
		column(events, func(e Event) *string { return jsonOrNil(e.Intro) }),
		column(drafts, func(d *draft) *string { return jsonOrNil(&d.after.Tags) }),
		column(drafts, func(d *draft) string { return d.after.Summary }),
		column(drafts, func(d *draft) string { return d.after.Outcome }),
		column(drafts, func(d *draft) *int64 { return d.after.SaleCents }),
		column(drafts, func(d *draft) string { return d.after.SaleCurrency }),
		column(drafts, func(d *draft) bool { return d.after.NeedsOutcome }),
		column(drafts, func(d *draft) bool { return d.after.Unread }),
		column(drafts, func(d *draft) *string { return d.after.CallingID }),
	}
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

// said joins the words that a draft adds.
func (d *draft) said() string {
	said := slices.DeleteFunc(slices.Clone(d.events), func(e chat.Event) bool { return e.Kind != chat.Said })
	return strings.Join(column(said, func(e chat.Event) string { return e.Text }), " ")
}
