package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// Chromium itself says whether the console can be installed; opened without a network it is there
// and goes on by itself, and what was written meanwhile is sent, once.
func TestTheConsoleIsInstalledAndOpensWithoutANetwork(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	errors, err := proto.PageGetInstallabilityErrors{}.Call(idris.Page)
	require.NoError(t, err)
	var why []string
	for _, e := range errors.InstallabilityErrors {
		if e.ErrorID != "in-incognito" { // where every test's browser is
			why = append(why, e.ErrorID)
		}
	}
	require.Empty(t, why)

	idris.Until("the console's own files are kept", func() bool {
		return idris.JS(`navigator.serviceWorker?.controller ? "yes" : ""`) == "yes"
	})
	idris.Open(w.OperatorNet.URL + "/desk") // what was loaded before it was there is kept now
	idris.Find(".line h2 :: Waiting")
	// A page of another kind, read in the same browser, does not take the console's place.
	var article string
	require.NoError(t, w.Server.Store.DB.Raw("select id::text from articles where audience = 'all' limit 1").Scan(&article).Error)
	idris.Open(w.OperatorNet.URL + "/articles/" + article)
	idris.Find("h1")
	idris.Open(w.OperatorNet.URL + "/desk")
	panel := w.Person(t).Visit("/help").Asks(wren, "", "Is there a lift on MV Curlew?")
	idris.Take(wren)
	w.OperatorNet.Cut()
	idris.Types(wren, "Yes, from the car deck.")
	idris.Press(input.Enter)
	idris.Find(world.Lane(wren) + " .unsent :: from the car deck")
	_ = idris.Navigate(w.OperatorNet.URL + "/desk") // reported as what it is: the server does not answer
	idris.Find("main.trouble button :: Try again")
	w.OperatorNet.Mend()
	idris.Find(world.Lane(wren) + " .say.team :: from the car deck")
	panel.Find(".log :: from the car deck")
	require.Len(t, idris.Texts(world.Lane(wren)+" .say.team"), 1)

	// Nothing that belongs to anybody is kept beside the files.
	found, err := idris.Eval(`async () => {
		const cache = await caches.open("stoop-shell-1");
		const paths = (await cache.keys()).map((r) => new URL(r.url).pathname);
		return paths.filter((p) => !/^\/(assets\/|icon-|favicon|desk$)/.test(p));
	}`)
	require.NoError(t, err)
	require.Empty(t, found.Value.Arr())
}

// On a phone: the line, a lane with canned responses and files, hand on, and the visitors, with
// nothing that has to be pushed sideways.
func TestAnOperatorAnswersOnAPhone(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.Size(390, 844)
	idris.BeAvailable()
	within := func(where string) {
		t.Helper()
		idris.Until(where+" fits", func() bool {
			return idris.JS(`document.documentElement.scrollWidth <= innerWidth ? "fits" : ""`) == "fits"
		})
	}
	within("the line")
	panel := w.Person(t).Visit("/help").Asks(wren, "", "Can I bring a bicycle?")
	idris.Take(wren)
	within("a lane")
	idris.Types(wren, ";")
	idris.Find("[role=listbox] [role=option]")
	idris.Press(input.Enter)
	idris.Until("it is put in", func() bool {
		return len(idris.JS(`document.querySelector(".write textarea:not([aria-hidden])").value`)) > 1
	})
	idris.Find(world.Lane(wren) + " [aria-label='Attach files']")
	idris.Press(input.Enter)
	panel.Find(".log .team, .log .said")
	idris.Click(world.Lane(wren) + " .lane-foot button :: Hand on")
	idris.Find("[role=dialog]")
	within("handing on")
	idris.Press(input.Escape)
	idris.Turn("/visitors")
	idris.Click(".guest-table .named :: " + wren)
	idris.Find(".visitors .side h2 :: " + wren)
	require.Equal(t, "none", idris.JS(`getComputedStyle(document.querySelector(".visitors .crowd")).display`))
	within("a visitor")
	idris.Turn("/tickets")
	idris.Find("main h1 :: Tickets")
	within("the tickets")
}
