package setup

import (
	"context"

	"stoop/core/access"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// read returns a document of the settings to an admin.
func read[T any](ctx context.Context, room *Room, o access.Actor, d settings.Document[T]) (T, error) {
	if err := o.Must(access.SetUp); err != nil {
		var none T
		return none, err
	}
	return d.Read(ctx, room.Settings.Tables)
}

// change changes a document of the settings for an admin, and lets what depends on it
// be read anew.
func change[T any](ctx context.Context, room *Room, o access.Actor, d settings.Document[T], how func(*T) error) (T, error) {
	if err := o.Must(access.SetUp); err != nil {
		var none T
		return none, err
	}
	after, err := d.Change(ctx, room.Settings.Tables, how)
	if err == nil {
		room.Changed()
	}
	return after, err
}

// replace puts what an admin typed in the place of what they read; check tidies it and
// says what is wrong.
func replace[T any](ctx context.Context, room *Room, o access.Actor, d settings.Document[T], in T, check func(*T) error) (T, error) {
	after, err := change(ctx, room, o, d, func(now *T) error {
		if d.Version(now) != d.Version(&in) {
			return store.ErrChanged
		}
		*now = in
		return check(now)
	})
	if err != nil {
		return in, err
	}
	return after, nil
}
