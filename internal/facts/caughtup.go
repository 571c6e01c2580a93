package facts

import (
	"context"
	"time"

	"stoop/internal/again"
	"stoop/internal/chatlog"
)

// patience is how long somebody who asks waits for facts that are about to follow.
const patience = 1500 * time.Millisecond

// Lags reports whether chats have ended, or changed since, that are not counted yet.
func (t Tables) Lags(ctx context.Context) (bool, error) {
	return chatlog.On(t.Store).Lags(ctx, FollowerName, late)
}

// CatchUp waits until the facts tell of all chats that had ended when it was asked, for
// a second or so: who ends a chat and looks for it finds it. When that does not come
// about in time, it is no error: what there is is shown.
func (t Tables) CatchUp(ctx context.Context, followers ...string) error {
	outer := ctx
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	for {
		waits := false
		for _, name := range followers {
			lags, err := chatlog.On(t.Store).Lags(ctx, name, late)
			if ctx.Err() != nil {
				return outer.Err() // it takes too long to find out
			}
			if err != nil {
				return err
			}
			waits = waits || lags
		}
		if !waits {
			return nil
		}
		if !again.Pause(ctx, 40*time.Millisecond) {
			return nil
		}
	}
}
