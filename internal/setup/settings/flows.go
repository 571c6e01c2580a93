package settings

import (
	"context"
	"time"

	"gorm.io/gorm"

	"stoop/core/flow"
	"stoop/internal/store"
)

// Flow is a conversation of the helper as the admins work on it.
type Flow struct {
	ID           string
	Name         string
	Draft        flow.Flow `gorm:"serializer:json"`
	DraftVersion int64
	DraftByID    *string
	DraftAt      time.Time
	LiveVersion  int64 // 0: it was never published
	CreatedAt    time.Time
	RemovedAt    *time.Time
}

// FlowVersion is a flow that was published.
type FlowVersion struct {
	FlowID   string    `gorm:"primaryKey"`
	Version  int64     `gorm:"primaryKey"`
	Flow     flow.Flow `gorm:"serializer:json"`
	ByID     *string
	At       time.Time
	Restores *int64 // the earlier version that it brought back
}

// LiveFlow is a flow as it answers now.
type LiveFlow struct {
	ID      string
	Version int64
	flow.Flow
}

// Flows returns all flows that are not removed.
func (s Tables) Flows(ctx context.Context) ([]Flow, error) {
	var list []Flow
	err := s.DB.WithContext(ctx).Where("removed_at is null").Order("lower(name), id").Find(&list).Error
	for i := range list {
		list[i].Draft.Tidy()
	}
	return list, err
}

// Flow returns one flow.
func (s Tables) Flow(ctx context.Context, id string) (Flow, error) {
	var f Flow
	err := s.DB.WithContext(ctx).Where("id = ? and removed_at is null", id).Take(&f).Error
	f.Draft.Tidy()
	return f, store.NotFound(err)
}

// AddFlow stores a new flow.
func (s Tables) AddFlow(ctx context.Context, f Flow) error {
	return s.DB.WithContext(ctx).Create(&f).Error
}

// SaveFlowDraft replaces what is being worked on, if it has still the version which was
// read. When a colleague was faster, the error is store.ErrChanged.
func (s Tables) SaveFlowDraft(ctx context.Context, f Flow) (Flow, error) {
	read := f.DraftVersion
	f.DraftVersion++
	done := s.DB.WithContext(ctx).Model(&Flow{}).Where("id = ? and draft_version = ? and removed_at is null", f.ID, read).
		Select("name", "draft", "draft_version", "draft_by_id", "draft_at").Updates(&f)
	if done.Error == nil && done.RowsAffected == 0 {
		return f, store.ErrChanged
	}
	return f, done.Error
}

// PublishFlow makes a flow the one that answers from now on, if the draft has still the
// version which was read; the draft becomes it. Chats that are under way go on with
// theirs.
func (s Tables) PublishFlow(ctx context.Context, f Flow, v FlowVersion) (Flow, error) {
	read := f.DraftVersion
	f.DraftVersion++
	err := s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		var last int64
		if err := tx.Model(&FlowVersion{}).Where("flow_id = ?", f.ID).Select("coalesce(max(version), 0)").Scan(&last).Error; err != nil {
			return err
		}
		v.FlowID, v.Version, f.LiveVersion = f.ID, last+1, last+1
		done := tx.Model(&Flow{}).Where("id = ? and draft_version = ? and removed_at is null", f.ID, read).
			Select("name", "draft", "draft_version", "draft_by_id", "draft_at", "live_version").Updates(&f)
		if done.Error == nil && done.RowsAffected == 0 {
			return store.ErrChanged
		}
		if done.Error != nil {
			return done.Error
		}
		return tx.Create(&v).Error
	})
	return f, err
}

// RemoveFlow takes a flow out of use. Its versions stay: old chats name them, and those
// under way go on.
func (s Tables) RemoveFlow(ctx context.Context, id string, at time.Time) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Flow{}).Where("id = ?", id).Update("removed_at", at).Error
	})
}

// FlowHistory returns the versions of a flow that were published, the newest first.
func (s Tables) FlowHistory(ctx context.Context, id string) ([]FlowVersion, error) {
	var list []FlowVersion
	err := s.DB.WithContext(ctx).Where("flow_id = ?", id).Order("version desc").Limit(historyMost).Find(&list).Error
	for i := range list {
		list[i].Flow.Tidy()
	}
	return list, err
}

// FlowVersion returns a version of a flow.
func (s Tables) FlowVersion(ctx context.Context, id string, version int64) (flow.Flow, error) {
	var v FlowVersion
	err := s.DB.WithContext(ctx).Where("flow_id = ? and version = ?", id, version).Take(&v).Error
	v.Flow.Tidy()
	return v.Flow, store.NotFound(err)
}

// LiveFlows returns the flows that answer now, by their ids.
func (s Tables) LiveFlows(ctx context.Context) (map[string]LiveFlow, error) {
	return liveFlows(s.DB.WithContext(ctx))
}

func liveFlows(db *gorm.DB) (map[string]LiveFlow, error) {
	var list []FlowVersion
	err := db.Joins("join flows on flows.id = flow_versions.flow_id and flows.live_version = flow_versions.version and flows.removed_at is null").Find(&list).Error
	live := map[string]LiveFlow{}
	for _, v := range list {
		v.Flow.Tidy()
		live[v.FlowID] = LiveFlow{v.FlowID, v.Version, v.Flow}
	}
	return live, err
}
