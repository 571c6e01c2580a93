package server

import (
	"os"
	"runtime/debug"
)

// garbagePercent is how much garbage may come up, in percent of what is in use,
// before it is collected. What is in use is little (100 MB with 2,000 panels), and
// messages make garbage fast: with Go's usual 100 a tenth of the time went there.
const garbagePercent = 200

// CollectLessOften lets this process use more memory and less time, unless GOGC
// says what its owner wants.
func CollectLessOften() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(garbagePercent)
	}
}
