package e2e_test

import (
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// An admin connects another system, tries it, sees what it was told and that it failed, and sends
// it again.
func TestAnAdminConnectsAnotherSystem(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	var fails atomic.Bool
	var got atomic.Int64
	system := httptest.NewServer(http.HandlerFunc(func(answer http.ResponseWriter, _ *http.Request) {
		if fails.Load() {
			http.Error(answer, "the records are closed", http.StatusServiceUnavailable)
			return
		}
		got.Add(1)
	}))
	t.Cleanup(system.Close)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	ansel.Turn("/setup/webhooks")
	ansel.Find(".picker h2 :: Webhooks")
	ansel.Type(".editor .fields label:has(+ div input) + div input", "Records")
	ansel.Type(".editor input[placeholder^='https']", "localhost/hook")
	ansel.Click(".editor footer button :: Save")
	ansel.Find(".editor :: Enter the whole address, like https://www.example.com/hook")
	ansel.Type(".editor input[placeholder^='https']", system.URL)
	ansel.Click(".editor footer button :: Save")
	ansel.Find(".editor code :: whsec_")
	ansel.Click(".editor header button :: Send a test")
	ansel.Find(".editor .well :: The test arrived; it answered with 200.")
	require.EqualValues(t, 1, got.Load())

	fails.Store(true)
	juno := w.Person(t).Visit("/help")
	juno.Asks("Juno Lark", "", "Where is the lift?")
	ansel.Find(".deliveries .told :: A chat starts")
	ansel.Find(".deliveries .meta :: tried once")
	ansel.Click(".deliveries .told :: A chat starts")
	ansel.Find(".delivery :: the records are closed")
	ansel.Find(".delivery pre :: Juno Lark")
	fails.Store(false)
	ansel.Click(".delivery button :: Send again")
	ansel.Until("it has arrived", func() bool { return got.Load() >= 2 })
	ansel.Find(".deliveries .meta :: arrived, answered 200")
}
