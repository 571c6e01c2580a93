package people

import (
	"context"
	"time"

	"github.com/google/uuid"

	"stoop/internal/store"
)

// Ban shuts a visitor or all visitors of a network out.
type Ban struct {
	ID        string
	VisitorID *string
	Network   *string // in CIDR form
	Name      string
	Reason    string
	ByID      string
	CreatedAt time.Time
	Until     *time.Time // none: until it is lifted
	LiftedAt  *time.Time
}

// Bans returns the bans, the newest first.
func (s Tables) Bans(ctx context.Context) ([]Ban, error) {
	var list []Ban
	err := s.DB.WithContext(ctx).Select("id, visitor_id, network::text as network, name, reason, by_id, created_at, until, lifted_at").
		Order("created_at desc, id").Limit(1000).Find(&list).Error
	return list, err
}

// AddBan stores a ban.
func (s Tables) AddBan(ctx context.Context, b Ban) error {
	return s.DB.WithContext(ctx).Exec(`insert into bans (id, visitor_id, network, name, reason, by_id, created_at, until) values (?, ?, ?::cidr, ?, ?, ?, ?, ?)`,
		b.ID, b.VisitorID, b.Network, b.Name, b.Reason, b.ByID, b.CreatedAt, b.Until).Error
}

// LiftBan ends a ban.
func (s Tables) LiftBan(ctx context.Context, id string, at time.Time) error {
	if uuid.Validate(id) != nil {
		return store.ErrNotFound
	}
	done := s.DB.WithContext(ctx).Exec("update bans set lifted_at = ? where id = ? and lifted_at is null", at, id)
	if done.Error == nil && done.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return done.Error
}

// HoldingBans returns the bans that hold at a time, or will until then.
func (s Tables) HoldingBans(ctx context.Context, now time.Time) ([]Ban, error) {
	var list []Ban
	err := s.DB.WithContext(ctx).Select("id, visitor_id, network::text as network, until").
		Where("lifted_at is null and (until is null or until > ?)", now).Find(&list).Error
	return list, err
}
