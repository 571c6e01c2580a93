package setup

import (
	"context"
	"encoding/json"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// DeskSetup returns the settings of every Desk.
func (room *Room) DeskSetup(ctx context.Context, o access.Actor) (settings.DeskSettings, error) {
	if err := mustAdmin(o); err != nil {
		return settings.DeskSettings{}, err
	}
	d, _, err := room.Settings.ReadDesk(ctx)
	return d, err
}

// SaveDeskSetup replaces them.
func (room *Room) SaveDeskSetup(ctx context.Context, o access.Actor, in settings.DeskSettings) (settings.DeskSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	before, text, err := room.Settings.ReadDesk(ctx)
	if err != nil {
		return in, err
	}
	if before.Version != in.Version {
		return in, store.ErrChanged
	}
	in.Tidy()
	if err := form.Refuse(in.Check()); err != nil {
		return in, err
	}
	in.Version = settings.NextVersion(before.Version)
	data, err := json.Marshal(in)
	if err != nil {
		return in, err
	}
	if err := room.Settings.Tables.SaveSetting(ctx, settings.DeskKey, text, string(data)); err != nil {
		return in, err
	}
	room.Changed()
	return in, nil
}
