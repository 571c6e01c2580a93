package talk

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Admit lets a visitor in: the one known, if they belong to the widget, or else a
// new one. One who is known by a page only is stored now.
func (room *Room) Admit(ctx context.Context, w settings.Widget, known, address string) (access.Visitor, error) {
	id := known
	if known != "" {
		v, err := room.Register.Visitor(ctx, known)
		if err == nil && v.WidgetID == w.ID {
			return access.Visitor{ID: v.ID, WidgetID: w.ID}, room.Register.SetAddress(ctx, v.ID, address)
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return access.Visitor{}, err
		}
		if err == nil {
			id = "" // somebody of another widget
		}
	}
	if id == "" {
		fresh, err := uuid.NewV7()
		if err != nil {
			return access.Visitor{}, err
		}
		id = fresh.String()
	}
	v := register.Visitor{ID: id, WidgetID: w.ID, CreatedAt: room.Now(), Address: address}
	return access.Visitor{ID: v.ID, WidgetID: w.ID}, room.Register.EnsureVisitor(ctx, v)
}
