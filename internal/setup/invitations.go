package setup

import (
	"context"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// InvitationSetup returns when visitors are invited.
func (room *Room) InvitationSetup(ctx context.Context, o access.Actor) (settings.InvitationSettings, error) {
	return read(ctx, room, o, settings.InvitationsDocument)
}

// SaveInvitationSetup replaces it.
func (room *Room) SaveInvitationSetup(ctx context.Context, o access.Actor, in settings.InvitationSettings) (settings.InvitationSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	now, err := room.Settings.Read(ctx)
	if err != nil {
		return in, err
	}
	return replace(ctx, room, o, settings.InvitationsDocument, in, func(s *settings.InvitationSettings) error {
		s.Tidy()
		for i := range s.Rules {
			if uuid.Validate(s.Rules[i].ID) != nil {
				s.Rules[i].ID = uuid.NewString()
			}
		}
		return form.Refuse(s.Check(now))
	})
}
