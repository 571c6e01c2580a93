package e2e_test

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
)

// An admin changes a capacity, tries it on past chats before it is saved, thinks better
// of it, and nothing was ever in force.
func TestAChangeIsTriedOnPastChats(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	require.NoError(t, demo.SeedPast(context.Background(), w.Server.Store, w.SiteURL, 3000, time.Now(), func(facts.Loading) {}))
	w.Server.Settings.Forget()
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/departments")
	ansel.Click(".picker li button :: Travel help")
	ansel.Find(".editor h2 :: Travel help")
	ansel.JS(`(() => { const label = [...document.querySelectorAll("label")].find((l) => l.textContent.startsWith("Capacity")); label.control.setAttribute("data-capacity", ""); return "" })()`)
	ansel.Type("[data-capacity]", "1")
	ansel.Click(".editor footer a :: Try it on past chats")
	ansel.Find(".dry-run .tick :: Department: Travel help")
	ansel.Click(".dry-run .period button :: Start")
	ansel.Find(".dry-run .figures th :: draft, replayed")
	ansel.Find(".dry-run .chart")
	ansel.Find(".dry-run h3 :: Travel help")
	var capacity int
	require.NoError(t, w.Server.Store.DB.Raw("select capacity from departments where name = 'Travel help'").Scan(&capacity).Error)
	require.NotEqual(t, 1, capacity, "it was tried, not saved")
	ansel.Click(".dry-run .about a :: Departments")
	ansel.Click(".picker li button :: Travel help")
	ansel.Find(".picker .not-saved")
	ansel.Click(".editor footer button :: Undo changes")
	ansel.Open(w.OperatorNet.URL + "/setup/dry-run")
	ansel.Find(".dry-run .about :: What is in force is compared")
}

// The set-up is saved as a file, changed in it, looked at and taken in.
func TestAConfigurationIsTakenIn(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	o, err := settings.On(w.Server.Store).OperatorByEmail(context.Background(), world.Email(4))
	require.NoError(t, err)
	by, err := w.Server.Actor(context.Background(), o.ID)
	require.NoError(t, err)
	c, err := w.Server.Setup.Configuration(context.Background(), by)
	require.NoError(t, err)
	c.Widgets[0].Design.Title = "Ask the harbour"
	data, err := json.Marshal(c)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "stoop-configuration.json")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	ansel.Open(w.OperatorNet.URL + "/setup/file")
	ansel.Find("a[href='/api/setup/configuration']")
	require.NoError(t, ansel.Find(".choose input").SetFiles([]string{file}))
	ansel.Find(".change-list ins :: Ask the harbour")
	ansel.Click(".editor footer button :: Apply")
	ansel.Click("[role=dialog] button :: Apply")
	ansel.Find(".import-file b :: Done: 1 thing changed.")
	petra := w.Person(t).Visit("/")
	petra.Until("the new words on the site", func() bool { return strings.Contains(petra.LauncherText(), "Ask the harbour") })
}

// A visitor who waits is told so by itself, sees that nobody typed it, and is welcomed by
// whoever takes the chat.
func TestAutomaticWordsAreShownAsSuch(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	k, err := settings.On(w.Server.Store).WidgetByKey(context.Background(), demo.WidgetKey)
	require.NoError(t, err)
	k.Automatic = []widget.Automatic{{ID: "hello", On: chat.AtStart, Text: "We have your question."}}
	require.NoError(t, settings.On(w.Server.Store).SaveWidget(context.Background(), k))
	w.Server.Settings.Forget()
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	idris.Click(".top .face")
	idris.Click("[role=menuitem] :: My account")
	idris.Find("form.words")
	idris.JS(`(() => { const label = [...document.querySelectorAll("form.words label")].find((l) => l.textContent.startsWith("Welcome")); label.control.setAttribute("data-welcome", ""); return "" })()`)
	idris.Type("[data-welcome]", "Idris here, good day.")
	idris.Click("form.words button :: Save")
	idris.Until("the words to be stored", func() bool {
		o, err := settings.On(w.Server.Store).OperatorByEmail(context.Background(), world.Email(0))
		require.NoError(t, err)
		return o.Welcome == "Idris here, good day."
	})
	idris.Open(w.OperatorNet.URL + "/desk")
	petra := w.Person(t).Visit("/fares")
	panel := petra.Asks("Petra", "", "Is the ramp open?")
	panel.Find(".said .receipt :: Automatic message")
	panel.Find(".said .words :: We have your question.")
	idris.Take("Petra")
	panel.Find(".said .words :: Idris here, good day.")
	idris.Find(world.Lane("Petra") + " .event :: Idris Vane’s welcome, said automatically")
	idris.Says("Petra", "It is.")
	panel.Find(".said .words :: It is.")
}
