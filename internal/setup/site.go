package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// SiteSetup returns what is set of watching the sites.
func (room *Room) SiteSetup(ctx context.Context, o access.Actor) (settings.SiteSettings, error) {
	return read(ctx, room, o, settings.SiteDocument)
}

// SaveSiteSetup replaces it.
func (room *Room) SaveSiteSetup(ctx context.Context, o access.Actor, in settings.SiteSettings) (settings.SiteSettings, error) {
	return replace(ctx, room, o, settings.SiteDocument, in, func(s *settings.SiteSettings) error {
		s.Tidy()
		return form.Refuse(s.Check())
	})
}
