package files

import (
	"context"
	"time"

	"stoop/internal/store"
)

// Tables hold what is known of the files whose contents a Store keeps.
type Tables struct{ *store.Store }

// On returns the tables of a database.
func On(s *store.Store) Tables { return Tables{s} }

// orphanAge is how long a content may lie that no file needs: an upload whose
// message was not stored in the end, or not yet, on whatever server.
const orphanAge = 24 * time.Hour

// SweptEvery is how often contents are looked for that no file needs.
const SweptEvery = 6 * time.Hour

// Sweep removes contents that no file needs.
func Sweep(ctx context.Context, known Tables, contents Store) error {
	used, err := known.FilesInUse(ctx)
	if err != nil {
		return err
	}
	limit := time.Now().Add(-orphanAge)
	return contents.Each(ctx, func(hash string, since time.Time) error {
		if used[hash] || since.After(limit) {
			return nil
		}
		return contents.Remove(ctx, hash)
	})
}
