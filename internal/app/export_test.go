package app

import "context"

// BeatOnce lets a server say that it lives, for tests that do not wait for it.
func BeatOnce(ctx context.Context, a *App) error { return a.beatOnce(ctx) }
