package setup

import (
	"context"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// InvitationSetup returns when visitors are invited.
func (room *Room) InvitationSetup(ctx context.Context, o access.Actor) (settings.InvitationSettings, error) {
	if err := mustAdmin(o); err != nil {
		return settings.InvitationSettings{}, err
	}
	s, _, err := room.Settings.ReadInvitations(ctx)
	return s, err
}

// SaveInvitationSetup replaces it.
func (room *Room) SaveInvitationSetup(ctx context.Context, o access.Actor, in settings.InvitationSettings) (settings.InvitationSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	before, text, err := room.Settings.ReadInvitations(ctx)
	if err != nil {
		return in, err
	}
	if before.Version != in.Version {
		return in, store.ErrChanged
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return in, err
	}
	in.Tidy()
	for i := range in.Rules {
		if uuid.Validate(in.Rules[i].ID) != nil {
			in.Rules[i].ID = uuid.NewString()
		}
	}
	if err := form.Refuse(in.Check(s)); err != nil {
		return in, err
	}
	in.Version = settings.NextVersion(before.Version)
	if err := room.Settings.Tables.SaveInvitations(ctx, text, in); err != nil {
		return in, err
	}
	room.Changed()
	return in, nil
}
