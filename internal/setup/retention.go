package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// RetentionSetup returns what is kept for how long.
func (room *Room) RetentionSetup(ctx context.Context, o access.Actor) (settings.Retention, error) {
	return read(ctx, room, o, settings.RetentionDocument)
}

// SaveRetentionSetup replaces it.
func (room *Room) SaveRetentionSetup(ctx context.Context, o access.Actor, in settings.Retention) (settings.Retention, error) {
	return replace(ctx, room, o, settings.RetentionDocument, in, func(r *settings.Retention) error { return form.Refuse(r.Check()) })
}
