// Package visits keeps the visits of the watched sites: which pages were looked
// at, whose visit it is, and from where they came. Those that go on are in the
// memory of a server; this is what outlasts it.
package visits

import (
	"context"
	"encoding/json"
	"math"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/text/currency"

	"stoop/core/visit"
	"stoop/internal/places"
	"stoop/internal/store"
)

// Visit is one continuous stay of a visitor.
type Visit struct {
	ID        string       `json:"id"`
	WidgetID  string       `json:"widget_id"`
	VisitorID string       `json:"visitor_id"`
	PageURL   string       `json:"page_url"` // looked at now, or last
	PageTitle string       `json:"page_title"`
	PageSince time.Time    `json:"page_since"`
	Referrer  string       `json:"referrer"`
	UserAgent string       `json:"user_agent"`
	Language  string       `json:"language"`
	StartedAt time.Time    `json:"started_at"`
	SeenAt    time.Time    `json:"seen_at"`
	GoneAt    *time.Time   `json:"gone_at"`
	Address   string       `json:"address"`
	Stay      visit.Stay   `json:"stay"`
	Place     places.Place `json:"place"`
	Basket    *Basket      `json:"basket"`
	Invited   *Invitation  `json:"invited"` // the one that stands
	Data      Data         `json:"data"`
	Told      Told         `json:"told"`
}

// Invitation is words to a visitor who has not written, while it stands.
type Invitation struct {
	ID           string    `json:"id"`
	RuleID       string    `json:"ruleId,omitempty"` // empty: by hand
	OperatorID   string    `json:"operatorId"`
	DepartmentID string    `json:"departmentId"`
	Text         string    `json:"text"`
	Opens        bool      `json:"opens,omitempty"` // the panel opens by itself
	At           time.Time `json:"at"`
	Until        time.Time `json:"until"`
	Shown        bool      `json:"shown,omitempty"`
}

// Accepted is an invitation to which a visitor writes.
type Accepted struct {
	ID, RuleID, OperatorID, DepartmentID, Text string
}

// Data is what the site said of a visitor.
type Data struct {
	Claimed map[string]string `json:"claimed,omitempty"` // by the page: anybody could say it
	Vouched map[string]string `json:"vouched,omitempty"` // signed by the site
}

// Basket is what a visitor is about to buy, as the site tells it.
type Basket struct {
	Cents     int64        `json:"cents"`              // all together, in the smallest unit
	Currency  string       `json:"currency,omitempty"` // ISO 4217
	Lines     []BasketLine `json:"lines,omitempty"`
	ChangedAt time.Time    `json:"changedAt"`
	Change    int64        `json:"change,omitempty"` // by how much it changed last
}

// BasketLine is a part of a basket.
type BasketLine struct {
	Text  string `json:"text"`
	Cents int64  `json:"cents"`
}

// Value returns the worth of a basket in whole units of its currency; of none it is
// nothing.
func (b *Basket) Value() float64 {
	if b == nil {
		return 0
	}
	return b.whole(b.Cents)
}

// whole turns an amount in the smallest unit into whole units: a euro has a hundred
// cents, a yen is whole (ISO 4217).
func (b *Basket) whole(amount int64) float64 {
	digits := 2
	if unit, err := currency.ParseISO(b.Currency); err == nil {
		digits, _ = currency.Standard.Rounding(unit)
	}
	return float64(amount) / math.Pow10(digits)
}

// Here tells what is held in memory of those who are on a site now.
type Here interface {
	// Known returns what is known of a visitor's stays, if they are here.
	Known(visitorID string) (Known, bool)
	// OnSite counts who is.
	OnSite() int
}

// Tables are those of visits, with what is newer than they are.
type Tables struct {
	*store.Store
	Here Here // may be nil
}

// On returns the tables of a store alone.
func On(s *store.Store) Tables { return Tables{Store: s} }

// Put stores visits as they are now. Their visitors must be stored; the visits must be
// of different ids, in their order. Of what another server stored meanwhile, the pages
// heard of last and the words said last stay; the visits of which that is so are
// returned as they are stored now.
func (s Tables) Put(ctx context.Context, node string, list []Visit) (better []Visit, err error) {
	rows, err := json.Marshal(list)
	if err != nil {
		return nil, err
	}
	return s.findWith(ctx, putQuery, "from put v join sent on sent.id = v.id where v.told is distinct from sent.told or v.seen_at > sent.seen_at", node, string(rows))
}

// putQuery stores visits ("sent") and has them as they are then ("put").
var putQuery = `with sent as (
	select * from jsonb_to_recordset($2::jsonb) as sent(id uuid, widget_id uuid, visitor_id uuid, page_url text, page_title text, page_since timestamptz,
		referrer text, user_agent text, language text, started_at timestamptz, seen_at timestamptz, gone_at timestamptz, address text,
		stay jsonb, place jsonb, basket jsonb, invited jsonb, data jsonb, told jsonb)
), put as (
	insert into visits as v (id, widget_id, visitor_id, page_url, page_title, page_since, referrer, user_agent, language, started_at, seen_at, gone_at, address, stay, place, basket, invited, data, told, node, stored_at)
	select id, widget_id, visitor_id, page_url, page_title, page_since, referrer, user_agent, language, started_at, seen_at, gone_at, address, stay, place, basket, invited, data, told, $1, clock_timestamp()
	from sent order by id
	on conflict (id) do update set ` + newest("excluded.seen_at >= v.seen_at", "page_url", "page_title", "page_since", "seen_at", "gone_at", "address", "stay", "place") +
	newest(saidLater("basket"), "basket") + newest(saidLater("invited"), "invited") + newest(saidLater("data"), "data") + `
		told = v.told || (select coalesce(jsonb_object_agg(key, value), '{}') from jsonb_each_text(excluded.told) where value > coalesce(v.told ->> key, '')),
		node = excluded.node, stored_at = excluded.stored_at
	where v.visitor_id = excluded.visitor_id
	returning v.*
) `

// newest sets columns to what comes if a condition holds, and else lets them be.
func newest(holds string, columns ...string) (set string) {
	for _, c := range columns {
		set += c + " = case when " + holds + " then excluded." + c + " else v." + c + " end, "
	}
	return set
}

// saidLater is the condition that what comes of a part was said later. Times are all
// written alike, so that their texts are in their order.
func saidLater(part string) string {
	return "coalesce(excluded.told ->> '" + part + "', '') >= coalesce(v.told ->> '" + part + "', '')"
}

// columns of a visit, in the order in which scan reads them.
const columns = `v.id::text, v.widget_id::text, coalesce(v.visitor_id::text, ''), v.page_url, v.page_title, v.page_since, v.referrer, v.user_agent, v.language,
	v.started_at, v.seen_at, v.gone_at, v.address, v.stay, v.place, v.basket, v.invited, v.data, v.told`

func (v *Visit) fields(more ...any) []any {
	return append([]any{&v.ID, &v.WidgetID, &v.VisitorID, &v.PageURL, &v.PageTitle, &v.PageSince, &v.Referrer, &v.UserAgent, &v.Language,
		&v.StartedAt, &v.SeenAt, &v.GoneAt, &v.Address, &v.Stay, &v.Place, &v.Basket, &v.Invited, &v.Data, &v.Told}, more...)
}

func (s Tables) find(ctx context.Context, query string, args ...any) ([]Visit, error) {
	return s.findWith(ctx, "", query, args...)
}

// findWith finds visits by a query that others stand before.
func (s Tables) findWith(ctx context.Context, with, query string, args ...any) ([]Visit, error) {
	rows, err := s.Pool().Query(ctx, with+"select "+columns+" "+query, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (v Visit, err error) { return v, row.Scan(v.fields()...) })
}

// StoredSince returns the visits that other servers stored after a time of the
// database, with that of the last one. With another server of none it is all.
func (s Tables) StoredSince(ctx context.Context, node string, since time.Time) (list []Visit, last time.Time, err error) {
	rows, err := s.Pool().Query(ctx, "select "+columns+", v.stored_at from visits v where v.stored_at > $1 and v.node is distinct from $2::uuid and v.visitor_id is not null order by v.stored_at", since, node)
	if err != nil {
		return nil, since, err
	}
	last = since
	list, err = pgx.CollectRows(rows, func(row pgx.CollectableRow) (v Visit, err error) { return v, row.Scan(v.fields(&last)...) })
	return list, last, err
}

// Forget deletes some of the visits that were stored last before a time, and
// returns how many.
func Forget(ctx context.Context, tx pgx.Tx, before time.Time, atMost int) (int64, error) {
	done, err := tx.Exec(ctx, "delete from visits where id in (select id from visits where stored_at < $1 order by stored_at limit $2)", before, atMost)
	return done.RowsAffected(), err
}

// ForgetOf deletes all visits of some visitors.
func ForgetOf(ctx context.Context, tx pgx.Tx, visitorIDs []string) error {
	_, err := tx.Exec(ctx, "delete from visits where visitor_id = any($1::uuid[])", visitorIDs)
	return err
}

// CountBefore counts the visits that were stored last before a time.
func (s Tables) CountBefore(ctx context.Context, before time.Time) (n int64, err error) {
	err = s.Pool().QueryRow(ctx, "select count(*) from visits where stored_at < $1", before).Scan(&n)
	return n, err
}

// CountOf counts the visits of some visitors.
func (s Tables) CountOf(ctx context.Context, visitorIDs []string) (n int64, err error) {
	err = s.Pool().QueryRow(ctx, "select count(*) from visits where visitor_id = any($1::uuid[])", visitorIDs).Scan(&n)
	return n, err
}

// AnyHere reports whether one of some visitors has a page open, on whatever server.
func (s Tables) AnyHere(ctx context.Context, visitorIDs []string, now time.Time) (here bool, err error) {
	for _, id := range visitorIDs {
		if s.IsHere(id) {
			return true, nil
		}
	}
	err = s.Pool().QueryRow(ctx, "select exists (select from visits where visitor_id = any($1::uuid[]) and gone_at is null and stored_at > $2)", visitorIDs, now.Add(-silentFor)).Scan(&here)
	return here, err
}

// silentFor is how long a page may be open without a word of it; later its server has died.
const silentFor = 30 * time.Minute

// OnSite counts the visitors who have a page open.
func (s Tables) OnSite() int64 {
	if s.Here == nil {
		return 0
	}
	return int64(s.Here.OnSite())
}

// LatestVisits returns for each visitor the visit seen last.
func (s Tables) LatestVisits(ctx context.Context, visitorIDs []string) (map[string]Visit, error) {
	out := map[string]Visit{}
	var ask []string
	for _, id := range visitorIDs {
		if k, here := s.here(id); here {
			out[id] = k.Latest
		} else {
			ask = append(ask, id)
		}
	}
	if len(ask) == 0 {
		return out, nil
	}
	list, err := s.find(ctx, "from unnest($1::uuid[]) as of(id) cross join lateral (select * from visits where visitor_id = of.id order by seen_at desc limit 1) v", ask)
	for _, v := range list {
		out[v.VisitorID] = v
	}
	return out, err
}

// Past returns the visits of some visitors, newest first, before a time.
func (s Tables) Past(ctx context.Context, visitorIDs []string, before time.Time, limit int) ([]Visit, error) {
	return s.find(ctx, "from visits v where v.visitor_id = any($1::uuid[]) and v.started_at < $2 order by v.started_at desc limit $3", visitorIDs, before, limit)
}

// Known is what is known of a visitor's stays on the site.
type Known struct {
	Latest Visit // the zero value when there was none
	Visits int
}

func (s Tables) here(visitorID string) (Known, bool) {
	if s.Here == nil {
		return Known{}, false
	}
	return s.Here.Known(visitorID)
}

// IsHere reports whether a visitor has a page open.
func (s Tables) IsHere(visitorID string) bool {
	k, known := s.here(visitorID)
	return known && k.Latest.GoneAt == nil
}

// AskKnown adds to a batch the question for a visitor's latest visit, and how many
// there were; of who is here it is known at once.
func (s Tables) AskKnown(b *pgx.Batch, visitorID string, k *Known) {
	if here, is := s.here(visitorID); is {
		*k = here
		return
	}
	s.askStored(b, visitorID, k)
}

func (s Tables) askStored(b *pgx.Batch, visitorID string, k *Known) {
	b.Queue("select "+columns+", count(*) over () from visits v where v.visitor_id = $1 order by v.seen_at desc limit 1", visitorID).QueryRow(func(row pgx.Row) error {
		return store.IgnoreNoRows(row.Scan(k.Latest.fields(&k.Visits)...))
	})
}

// KnownOf returns a visitor's latest visit and how many there were.
func (s Tables) KnownOf(ctx context.Context, visitorID string) (k Known, err error) {
	var b pgx.Batch
	s.AskKnown(&b, visitorID, &k)
	if b.Len() == 0 {
		return k, nil
	}
	return k, s.Pool().SendBatch(ctx, &b).Close()
}

// KnownOfAll returns of some visitors what is stored of their visits.
func (s Tables) KnownOfAll(ctx context.Context, visitorIDs []string) (map[string]Known, error) {
	rows, err := s.Pool().Query(ctx, "select "+columns+`, (select count(*) from visits where visitor_id = of.id)
		from unnest($1::uuid[]) as of(id) cross join lateral (select * from visits where visitor_id = of.id order by seen_at desc limit 1) v`, visitorIDs)
	if err != nil {
		return nil, err
	}
	out := map[string]Known{}
	var k Known
	_, err = pgx.ForEachRow(rows, k.Latest.fields(&k.Visits), func() error {
		out[k.Latest.VisitorID] = k
		k = Known{}
		return nil
	})
	return out, err
}
