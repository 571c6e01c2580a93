package e2e_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// newcomer counts what somebody does who has never seen Stoop.
type newcomer struct {
	*world.Operator
	clicks, fields int
}

func (n *newcomer) click(selector string) {
	n.clicks++
	n.Click(selector)
}

func (n *newcomer) fill(selector, text string) {
	n.fields++
	n.Type(selector, text)
}

// From an empty database to the first answered chat on a site: the way that a new admin
// goes, with nothing of the command line but the address that the server prints. How long
// it takes here, and how many clicks and fields, is told and not judged.
func TestFromNothingToTheFirstChat(t *testing.T) {
	t.Parallel()
	w := world.Empty(t)
	line := ""
	site := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		fmt.Fprintf(rw, "<!doctype html><html lang=en><title>Harbour shop</title><body><h1>Harbour shop</h1>%s</body></html>", line)
	}))
	t.Cleanup(site.Close)
	siteURL := strings.Replace(site.URL, "127.0.0.1", "localhost", 1)
	begin, err := w.Server.Account.BeginPath(t.Context())
	require.NoError(t, err)

	started := time.Now()
	n := &newcomer{Operator: w.Person(t).Newcomer()}
	n.Open(w.OperatorNet.URL + "/begin/wrong")
	n.Find("[role=alert] :: set up already")
	n.Open(w.OperatorNet.URL + begin)
	n.fill("input[name=name]", "Runa Vik")
	n.fill("input[name=email]", "runa@example.com")
	n.fill("input[name=password]", "seven gulls at noon")
	n.click("button :: Make my account")
	n.Find(".steps li.done :: Your account")
	snap(t, n.Tab, "first-run-1.png")

	fields := ".start .fields > :nth-child"
	n.fill(fields+"(1) input", "Harbour shop")
	n.fill(fields+"(2) input", siteURL+"/home")
	n.click(".start button :: Go on")
	n.Find(".steps li.done :: Your site")
	// Left and gone on with: what was done is done.
	n.Open(w.OperatorNet.URL + "/setup/start")
	n.Find(".steps li.next :: Who answers, and when")
	n.click(".start .tick :: Around the clock")
	n.click(".start button :: Go on")
	n.Find(".steps li.next :: Looks and words")
	n.fill(fields+"(1) input", "Ask the harbour")
	n.click(".start button :: Publish")
	n.Find(".steps li.next :: The line on your site")
	snap(t, n.Tab, "first-run-2.png")
	line = n.Text(".copied code")
	require.Contains(t, line, "/stoop.js")

	visitor := w.Person(t).At(siteURL + "/")
	visitor.Until("the launcher", func() bool { return strings.Contains(visitor.LauncherText(), "Ask the harbour") })
	n.Find(".steps li.next :: A first chat")
	n.click(".availability")
	visitor.Until("somebody is in", func() bool { return strings.Contains(visitor.LauncherText(), "Runa is in") })
	panel := visitor.Asks("Wren", "", "Are you there?")
	n.click(".start a :: To the Desk")
	n.click(".wait")
	n.Says("Wren", "Yes, I am.")
	n.clicks++
	n.fields++
	panel.Find(".said :: Yes, I am.")
	t.Logf("from nothing to the first answered chat: %.1f s by the browser, %d clicks, %d fields", time.Since(started).Seconds(), n.clicks, n.fields)
	n.Open(w.OperatorNet.URL + "/setup/start")
	n.Find(".start .now :: Everything is there.")
	snap(t, n.Tab, "first-run-3.png")

	// Nobody begins after the first.
	again := w.Person(t).Tab()
	again.Open(w.OperatorNet.URL + begin)
	again.Find("[role=alert] :: set up already")
}

// snap keeps a picture where one is asked for: for looking at, not for judging.
func snap(t *testing.T, tab *world.Tab, name string) {
	t.Helper()
	if folder := os.Getenv("STOOP_SNAPS"); folder != "" {
		tab.Size(1280, 800)
		tab.Snap(filepath.Join(folder, name))
	}
}
