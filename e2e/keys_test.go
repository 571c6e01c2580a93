package e2e_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// An admin makes a key, which is shown once; a program reads with it, until it is revoked.
func TestAnAdminGivesAnotherProgramAKey(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Turn("/setup/keys")
	ansel.Type(".editor form .fields input", "Warehouse")
	ansel.Click(".editor form button :: Make the key")
	ansel.Find(".editor .wrong :: Choose what it may read.")
	ansel.Click(".key-scopes label :: Reports")
	ansel.Click(".editor form button :: Make the key")
	key := ansel.Text(".key-made code")
	require.Regexp(t, `^stoop_[A-Z2-7]{52}$`, key)
	reads := func() int {
		q, err := http.NewRequestWithContext(t.Context(), http.MethodGet, w.Server.URL+"/api/v1/reports", nil)
		require.NoError(t, err)
		q.Header.Set("Authorization", "Bearer "+key)
		r, err := http.DefaultClient.Do(q)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		return r.StatusCode
	}
	require.Equal(t, http.StatusOK, reads())
	ansel.Click(".key-made button :: I have it")
	ansel.Gone(".key-made")
	ansel.Turn("/desk")
	ansel.Turn("/setup/keys")
	ansel.Find(".editor table th :: Warehouse")
	require.NotContains(t, ansel.Text("main"), key)
	ansel.Click(".editor table button :: Revoke")
	ansel.Click("[role=dialog] button :: Revoke")
	ansel.Find(".editor table td :: revoked")
	require.Equal(t, http.StatusUnauthorized, reads())
}
