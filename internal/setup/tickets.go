package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// TicketSetup returns the settings of tickets.
func (room *Room) TicketSetup(ctx context.Context, o access.Actor) (settings.TicketSettings, error) {
	return read(ctx, room, o, settings.TicketsDocument)
}

// SaveTicketSetup replaces them. What was due before stays due then until the ticket moves on.
func (room *Room) SaveTicketSetup(ctx context.Context, o access.Actor, in settings.TicketSettings) (settings.TicketSettings, error) {
	return replace(ctx, room, o, settings.TicketsDocument, in, func(t *settings.TicketSettings) error {
		t.Tidy()
		return form.Refuse(t.Check())
	})
}
