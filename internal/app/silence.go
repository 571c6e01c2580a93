package app

import (
	"context"
	"time"

	"stoop/core/chat"
)

// silentVisitors reminds visitors who have fallen silent, and ends the chats of
// those who stay so. It looks at the database, so that no restart forgets one.
func (a *App) silentVisitors(ctx context.Context) error {
	silent, err := a.store.SilentChats(ctx, a.now())
	for _, c := range silent {
		d, departmentErr := a.department(ctx, c.DepartmentID)
		if departmentErr != nil {
			return departmentErr
		}
		patience := chat.Patience{Remind: time.Duration(d.SilentRemind) * time.Second, End: time.Duration(d.SilentEnd) * time.Second}
		_, endErr := a.ending(ctx, c.ID, chat.House, func(s chat.State, w chat.WrapUp) ([]chat.Event, error) { return s.Silence(patience, w, a.now()), nil })
		if overlooked(endErr) != nil {
			return endErr
		}
	}
	return err
}
