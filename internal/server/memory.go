package server

import (
	"context"
	"os"
	"runtime/debug"
	"runtime/metrics"
	"time"

	"stoop/internal/again"
)

// How much garbage may come up, in percent of what is in use, before it is collected.
// Messages make garbage fast: with Go's usual 100 a tenth of the time went there, so a
// small server takes more memory and less time. What ten thousand visitors need is no
// little any more, and three times that is too much.
const (
	mostGarbage  = 200
	leastGarbage = 65
	littleInUse  = 96 << 20 // bytes
	collectedFor = 15 * time.Second
)

// CollectLessOften lets this process use more memory and less time as long as it needs
// little, unless GOGC says what its owner wants. It ends with the context.
func CollectLessOften(ctx context.Context) {
	if os.Getenv("GOGC") != "" {
		return
	}
	debug.SetGCPercent(mostGarbage)
	now := mostGarbage
	go again.Every(ctx, collectedFor, func() {
		inUse := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
		metrics.Read(inUse)
		if percent := garbageFor(inUse[0].Value.Uint64()); percent != now {
			now = percent
			debug.SetGCPercent(percent)
		}
	})
}

// garbageFor returns how much garbage may come up beside what is in use, in percent.
func garbageFor(inUse uint64) int {
	return max(leastGarbage, min(mostGarbage, int(mostGarbage*littleInUse/max(inUse, 1))))
}
