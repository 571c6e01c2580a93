package desk

import (
	"context"
	"encoding/json"

	"stoop/core/access"
	"stoop/internal/setup/settings"
)

// MyPreferences returns an operator's preferences.
func (room *Room) MyPreferences(ctx context.Context, by access.Actor) (settings.Preferences, error) {
	o, err := room.Settings.Tables.OperatorByID(ctx, by.ID)
	if err != nil {
		return settings.Preferences{}, err
	}
	return settings.PreferencesOf(o)
}

// SetPreferences changes those of an operator's preferences that are given.
func (room *Room) SetPreferences(ctx context.Context, o access.Actor, p settings.Preferences) error {
	data, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return room.Settings.Tables.SetPreferences(ctx, o.ID, string(data))
}
