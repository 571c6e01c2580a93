package world

import (
	"os"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/launcher/flags"
	"github.com/go-rod/rod/lib/utils"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
)

// browser is a running Chromium with a profile of its own.
type browser struct {
	*rod.Browser
	launched *launcher.Launcher
	profile  string
}

// idle are browsers that no world uses at this moment. Everybody in a world has a context of
// their own in it, which ends with the test: nothing is left for the next one.
var idle struct {
	sync.Mutex
	list []*browser
}

// borrow returns a browser that no other world uses meanwhile.
func borrow(t testing.TB) *rod.Browser {
	t.Helper()
	idle.Lock()
	var b *browser
	if n := len(idle.list); n > 0 {
		b, idle.list = idle.list[n-1], idle.list[:n-1]
	}
	idle.Unlock()
	if b != nil {
		if _, err := b.Version(); err != nil { // the test before killed it
			b.end()
			b = nil
		}
	}
	if b == nil {
		b = start(t)
	}
	t.Cleanup(func() {
		idle.Lock()
		defer idle.Unlock()
		idle.list = append(idle.list, b)
	})
	return b.Browser
}

// own starts a browser for one world, with some preferences.
func own(t testing.TB, preferences string) *rod.Browser {
	t.Helper()
	b := start(t, preferences)
	t.Cleanup(b.end)
	return b.Browser
}

// whole starts the whole Chromium for one world: its headless shell has no notifications.
func whole(t testing.TB) *rod.Browser {
	t.Helper()
	b := startIn(t, []string{"new"}, "/usr/bin/chromium")
	t.Cleanup(b.end)
	return b.Browser
}

// Main runs the tests of a package, with logins that cost little, and ends the browsers
// that they used.
func Main(m *testing.M) {
	demo.HashCost = &argon2id.Params{Memory: 1024, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	code := m.Run()
	for _, b := range idle.list {
		b.end()
	}
	os.Exit(code)
}

// start starts Debian's Chromium with a new profile that holds no more than the
// preferences.
func start(t testing.TB, preferences ...string) *browser {
	t.Helper()
	return startIn(t, nil, installed("/usr/bin/chromium-headless-shell", "/usr/bin/chromium"), preferences...)
}

func startIn(t testing.TB, headless []string, path string, preferences ...string) *browser {
	t.Helper()
	if path == "" {
		t.Fatal("Chromium is not installed: run `apt-get install -y chromium` as root, then try again")
	}
	profile, err := os.MkdirTemp("", "stoop-chromium-")
	require.NoError(t, err)
	l := launcher.New().Bin(path).Leakless(false).Set(flags.Headless, headless...).NoSandbox(os.Getuid() == 0).
		UserDataDir(profile).
		Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("disable-gpu").
		Set("use-fake-device-for-media-stream").Set("use-fake-ui-for-media-stream"). // a microphone that beeps, allowed
		Set(flags.Flag("autoplay-policy"), "no-user-gesture-required").
		Set(flags.Flag("lang"), "en-GB").
		// Without a head it would call itself a robot, and those are nobody.
		Set(flags.Flag("user-agent"), "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Safari/537.36")
	for _, p := range preferences {
		l = l.Preferences(p)
	}
	address, err := l.Launch()
	require.NoError(t, err)
	b := rod.New().ControlURL(address)
	require.NoError(t, b.Connect())
	return &browser{b, l, profile}
}

// installed returns the first of some programs that is there; none: empty.
func installed(programs ...string) string {
	for _, p := range programs {
		if _, err := os.Stat(p); err == nil {
			return p
		}
	}
	return ""
}

func (b *browser) end() {
	_ = b.Close()
	b.launched.Kill()
	_ = os.RemoveAll(b.profile) // what is left is the system's to clear
}

// often is how what is waited for is looked for: soon at first, then not so often that it
// keeps the page from going on.
func often() utils.Sleeper {
	return utils.BackoffSleeper(25*time.Millisecond, 200*time.Millisecond, nil)
}
