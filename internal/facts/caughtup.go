package facts

import (
	"context"
	"time"

	"stoop/internal/again"
)

// patience is how long somebody who asks waits for facts that are about to follow.
const patience = 1500 * time.Millisecond

// behind reports whether chats ended whose facts have not followed.
const behind = `select exists (
	select from followers p, feed where p.name = $1 and exists (
		select from events e where e.kind <> 'said' and e.kind = any($2) and (e.generation, e.xid) >= (p.generation, p.xid)
			and (e.generation, e.xid, e.chat_id, e.number) > (p.generation, p.xid, p.chat_id, p.number)
			and (e.generation < feed.generation or e.xid < pg_snapshot_xmin(pg_current_snapshot()))))`

// CatchUp waits until the facts tell of all chats that had ended when it was asked, for
// a second or so: who ends a chat and looks for it finds it. When that does not come
// about in time, it is no error: what there is is shown.
func (t Tables) CatchUp(ctx context.Context, followers ...string) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	kinds := make([]string, len(late))
	for i, k := range late {
		kinds[i] = string(k)
	}
	for {
		waits := false
		for _, name := range followers {
			var lags bool
			if err := t.Pool().QueryRow(ctx, behind, name, kinds).Scan(&lags); err != nil {
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
