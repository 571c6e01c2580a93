package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// SiteSetup returns what is set of watching the sites.
func (room *Room) SiteSetup(ctx context.Context, o access.Actor) (settings.SiteSettings, error) {
	if err := mustAdmin(o); err != nil {
		return settings.SiteSettings{}, err
	}
	s, _, err := room.Settings.ReadSite(ctx)
	return s, err
}

// SaveSiteSetup replaces it.
func (room *Room) SaveSiteSetup(ctx context.Context, o access.Actor, in settings.SiteSettings) (settings.SiteSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	before, text, err := room.Settings.ReadSite(ctx)
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
	if err := room.Settings.Tables.SaveSite(ctx, text, in); err != nil {
		return in, err
	}
	room.Changed()
	return in, nil
}
