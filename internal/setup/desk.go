package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// DeskSetup returns the settings of every Desk.
func (room *Room) DeskSetup(ctx context.Context, o access.Actor) (settings.DeskSettings, error) {
	return read(ctx, room, o, settings.DeskDocument)
}

// SaveDeskSetup replaces them.
func (room *Room) SaveDeskSetup(ctx context.Context, o access.Actor, in settings.DeskSettings) (settings.DeskSettings, error) {
	return replace(ctx, room, o, settings.DeskDocument, in, func(d *settings.DeskSettings) error {
		d.Tidy()
		return form.Refuse(d.Check())
	})
}
