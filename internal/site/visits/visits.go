// Package visits keeps the visits of the watched sites: which page is open, and
// whose it is.
package visits

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/internal/store"
)

// Visit is one continuous stay of a visitor.
type Visit struct {
	ID        string
	WidgetID  string
	VisitorID *string
	PageURL   string
	PageTitle string
	PageSince time.Time
	Referrer  string
	UserAgent string
	Language  string
	StartedAt time.Time
	SeenAt    time.Time
	GoneAt    *time.Time
	Address   string
}

// Tables are those of visits.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// hereFor is how long a visit counts as on the site after its last pulse. The
// loader sends one every 25 s, so that one may be lost.
const hereFor = 60 * time.Second

// Pulse stores that a page is open now. It starts the visit if there is none;
// the time on the page begins anew only when the page changed. moved reports
// whether address or title did.
func (s Tables) Pulse(ctx context.Context, v Visit) (stored Visit, moved bool, err error) {
	v.PageSince, v.StartedAt = v.SeenAt, v.SeenAt
	var row struct {
		Visit
		Moved bool
	}
	err = s.DB.WithContext(ctx).Raw(`
		with before as (select page_url, page_title from visits where id = ?)
		insert into visits (id, widget_id, page_url, page_title, page_since, referrer, user_agent, language, started_at, seen_at, address)
		values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (id) do update set
			page_since = case when visits.page_url = excluded.page_url then visits.page_since else excluded.page_since end,
			page_url = excluded.page_url, page_title = excluded.page_title, seen_at = excluded.seen_at, gone_at = null,
			address = excluded.address
		where visits.widget_id = excluded.widget_id
		returning *, not exists (select 1 from before b where b.page_url = visits.page_url and b.page_title = visits.page_title) as moved`,
		v.ID, v.ID, v.WidgetID, v.PageURL, v.PageTitle, v.PageSince, v.Referrer, v.UserAgent, v.Language, v.StartedAt, v.SeenAt, v.Address).
		Scan(&row).Error
	return row.Visit, row.Moved, err
}

// Leave stores that the page of a visit was closed.
func (s Tables) Leave(ctx context.Context, visitID, widgetID string, at time.Time) error {
	if uuid.Validate(visitID) != nil {
		return store.ErrNotFound
	}
	return s.DB.WithContext(ctx).Model(&Visit{}).
		Where("id = ? and widget_id = ?", visitID, widgetID).Update("gone_at", at).Error
}

// LinkVisit tells whose visit it is.
func (s Tables) LinkVisit(ctx context.Context, visitID, widgetID, visitorID string) error {
	if uuid.Validate(visitID) != nil {
		return store.ErrNotFound
	}
	return s.DB.WithContext(ctx).Model(&Visit{}).
		Where("id = ? and widget_id = ?", visitID, widgetID).Update("visitor_id", visitorID).Error
}

// OnSite counts the visits that have a page open.
func (s Tables) OnSite(ctx context.Context, now time.Time) (int64, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&Visit{}).
		Where("gone_at is null and seen_at > ?", now.Add(-hereFor)).Count(&n).Error
	return n, err
}

// LatestVisits returns for each visitor the visit seen last.
func (s Tables) LatestVisits(ctx context.Context, visitorIDs []string) (map[string]Visit, error) {
	out := map[string]Visit{}
	if len(visitorIDs) == 0 {
		return out, nil
	}
	var rows []Visit
	err := s.DB.WithContext(ctx).Select("distinct on (visitor_id) *").
		Where("visitor_id in ?", visitorIDs).
		Order("visitor_id, seen_at desc").Find(&rows).Error
	for _, v := range rows {
		out[*v.VisitorID] = v
	}
	return out, err
}

// Known is what is known of a visitor's stays on the site.
type Known struct {
	Latest Visit // the zero value when there was none
	Visits int
}

// AskKnown adds to a batch the question for a visitor's latest visit, and how many
// there were.
func (s Tables) AskKnown(b *pgx.Batch, visitorID string, k *Known) {
	v := &k.Latest
	b.Queue(`select id::text, widget_id::text, visitor_id::text, page_url, page_title, page_since, referrer, user_agent, language, started_at, seen_at, gone_at, address,
		count(*) over () from visits where visitor_id = $1 order by seen_at desc limit 1`, visitorID).QueryRow(func(row pgx.Row) error {
		return store.IgnoreNoRows(row.Scan(&v.ID, &v.WidgetID, &v.VisitorID, &v.PageURL, &v.PageTitle, &v.PageSince, &v.Referrer, &v.UserAgent, &v.Language, &v.StartedAt, &v.SeenAt, &v.GoneAt, &v.Address, &k.Visits))
	})
}

// KnownOf returns a visitor's latest visit and how many there were.
func (s Tables) KnownOf(ctx context.Context, visitorID string) (k Known, err error) {
	var b pgx.Batch
	s.AskKnown(&b, visitorID, &k)
	return k, s.Pool().SendBatch(ctx, &b).Close()
}
