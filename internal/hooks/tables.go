package hooks

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"stoop/internal/chatlog"
	"stoop/internal/store"
)

// Webhook is another system that is told what happens.
type Webhook struct {
	ID           string
	Name         string
	URL          string
	Kinds        []string `gorm:"serializer:json"`
	Departments  []string `gorm:"serializer:json"`
	Secret       string
	FormerSecret string
	FormerUntil  *time.Time
	Off          bool
	Fails        int
	FailingSince *time.Time
	PausedAt     *time.Time
	Dropped      int64
	Version      int64
	CreatedAt    time.Time
}

// Delivery is something that a webhook was or is to be told.
type Delivery struct {
	ID        string
	Seq       int64 `gorm:"->"`
	WebhookID string
	ChatID    *string
	Number    int64 // of the event
	Kind      string
	Body      string
	CreatedAt time.Time
	Tries     int
	NextAt    time.Time
	DoneAt    *time.Time
	Failed    bool
	Status    int
	Answer    string
}

// TableName names the table to GORM.
func (Delivery) TableName() string { return "webhook_deliveries" }

// Tables are those of webhooks.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Webhooks returns all webhooks, by name.
func (s Tables) Webhooks(ctx context.Context) ([]Webhook, error) {
	var list []Webhook
	return list, s.DB.WithContext(ctx).Order("lower(name), id").Find(&list).Error
}

// Webhook returns one.
func (s Tables) Webhook(ctx context.Context, id string) (Webhook, error) {
	var w Webhook
	if uuid.Validate(id) != nil {
		return w, store.ErrNotFound
	}
	return w, store.NotFound(s.DB.WithContext(ctx).Where("id = ?", id).Take(&w).Error)
}

// waitingMost bounds what waits for one webhook: what comes when there is as much is counted
// and not kept.
const waitingMost = 100_000

// add puts an event into the queue of a webhook, if it wants those of the chat's department, as
// part of the transaction that notes how far the feed was followed.
func add(ctx context.Context, tx pgx.Tx, w Webhook, e chatlog.Entry, now time.Time) error {
	var wanted, put bool
	err := tx.QueryRow(ctx, `with wanted as (select id from chats where id = $3 and (cardinality($4::text[]) = 0 or department_id::text = any($4::text[]))),
			room as (select count(*) < $5 as left_over from (select 1 from webhook_deliveries where webhook_id = $2 and done_at is null limit $5) w),
			put as (insert into webhook_deliveries (id, webhook_id, chat_id, number, kind, created_at, next_at)
				select $1, $2, wanted.id, $6, $7, $8, $8 from wanted, room where left_over returning 1)
		select exists (select from wanted), exists (select from put)`,
		uuid.NewString(), w.ID, e.ChatID, append([]string{}, w.Departments...), waitingMost, e.Number, string(e.Kind), now).Scan(&wanted, &put)
	if err == nil && wanted && !put {
		_, err = tx.Exec(ctx, "update webhooks set dropped = dropped + 1 where id = $1", w.ID)
	}
	return err
}

// claim takes the delivery that is due first of those that are first of their chat for their
// webhook, and lets nobody else take it for a time: whoever dies with it, it is sent again.
func (s Tables) claim(ctx context.Context, now time.Time, lease time.Duration) (d Delivery, w Webhook, found bool, err error) {
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var list []Delivery
		err := tx.Raw(`select d.* from webhook_deliveries d join webhooks w on w.id = d.webhook_id
			where d.done_at is null and d.next_at <= @now and w.paused_at is null and not w.off
			and not exists (select from webhook_deliveries e where e.webhook_id = d.webhook_id and e.chat_id = d.chat_id and e.done_at is null and e.seq < d.seq)
			order by d.next_at, d.seq limit 1 for update of d skip locked`, map[string]any{"now": now}).Scan(&list).Error
		if err != nil || len(list) == 0 {
			return err
		}
		d, found = list[0], true
		d.Tries++
		if err := tx.Exec("update webhook_deliveries set tries = ?, next_at = ? where id = ?", d.Tries, now.Add(lease), d.ID).Error; err != nil {
			return err
		}
		return tx.Where("id = ?", d.WebhookID).Take(&w).Error
	})
	return d, w, found, err
}

// Log returns what a webhook was or is to be told, the latest first, before a number.
func (s Tables) Log(ctx context.Context, webhookID, which string, before int64, limit int) ([]Delivery, error) {
	q := s.DB.WithContext(ctx).Where("webhook_id = ?", webhookID).Order("seq desc").Limit(limit)
	if before > 0 {
		q = q.Where("seq < ?", before)
	}
	switch which {
	case "waiting":
		q = q.Where("done_at is null")
	case "failed":
		q = q.Where("failed")
	}
	var list []Delivery
	return list, q.Find(&list).Error
}
