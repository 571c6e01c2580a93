package main

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/require"

	"stoop/internal/account"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// run gives a command its words and its standard input.
func run(t *testing.T, c *cobra.Command, input string, args ...string) error {
	t.Helper()
	c.SetArgs(args)
	c.SetIn(strings.NewReader(input))
	c.SilenceUsage, c.SilenceErrors = true, true
	return c.ExecuteContext(context.Background())
}

// The first admin of an installation is made from the command line, can log
// in, and gets a new password the same way when they forgot theirs.
func TestFirstAdminAndForgottenPassword(t *testing.T) {
	url := testpg.New(t)
	t.Setenv("STOOP_DATABASE_URL", url)
	t.Setenv("STOOP_FILES", t.TempDir())
	data, err := store.Open(url, 2)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	a := account.Room{Settings: &settings.Cache{Tables: settings.On(data)}, Log: slog.New(slog.DiscardHandler), Now: time.Now}
	a.Prepare()
	login := func(password string) error {
		_, err := a.Login(context.Background(), "ADA@example.com", password, "", "")
		return err
	}

	require.ErrorContains(t, run(t, passwordCommand(), "a long password\n", "ada@example.com"), "--name")
	require.ErrorContains(t, run(t, passwordCommand(), "short\n", "ada@example.com", "--name", "Ada"), "at least 15")
	require.ErrorIs(t, login("short"), account.ErrBadLogin)
	require.NoError(t, run(t, passwordCommand(), "a long password\n", "ada@example.com", "--name", "Ada Merrow"))
	require.NoError(t, login("a long password"))
	require.Error(t, run(t, passwordCommand(), "a long password\n", "idris@example.com", "--name", "Idris", "--role", "emperor"))

	require.NoError(t, run(t, passwordCommand(), "another password\n", "ada@example.com"))
	require.ErrorIs(t, login("a long password"), account.ErrBadLogin)
	require.NoError(t, login("another password"))
}

func TestWidgetOfASite(t *testing.T) {
	url := testpg.New(t)
	t.Setenv("STOOP_DATABASE_URL", url)
	set := func(args ...string) error {
		return run(t, widgetCommand(), "", append([]string{"my-site"}, args...)...)
	}

	require.ErrorContains(t, set("--name", "My site"), "site")
	for _, bad := range []string{"example.com", "https://example.com/path", "ftp://example.com", "https://"} {
		require.ErrorContains(t, set("--name", "My site", "--site", bad), "--site: A site must be an address like")
	}
	require.ErrorContains(t, set("--name", "My site", "--site", "https://example.com", "--colour", "red;}"), "--colour: A colour must be like")
	require.Error(t, set("--name", "My site", "--site", "https://example.com", "--message-limit", "0"))
	require.NoError(t, set("--name", "My site", "--site", "https://example.com,http://localhost:3000", "--message-limit", "500"))
	file := filepath.Join(t.TempDir(), "form.json")
	require.NoError(t, os.WriteFile(file, []byte(`[{"name":"topic","kind":"dropdown","label":"Topic"}]`), 0o600))
	require.ErrorContains(t, set("--name", "My site", "--site", "https://example.com", "--form", file), "at least one option")
	require.ErrorContains(t, set("--name", "My site", "--site", "https://example.com", "--department", "Nowhere"), "no department")
	require.ErrorContains(t, set("--name", "My site", "--site", "https://example.com", "--reach-by", "pigeon"), "--reach-by: Choose email")
	require.NoError(t, set("--name", "My site", "--site", "https://example.org"), "the same key again changes the widget")

	data, err := store.Open(url, 2)
	require.NoError(t, err)
	t.Cleanup(func() { data.Close() })
	w, err := settings.On(data).WidgetByKey(context.Background(), "my-site")
	require.NoError(t, err)
	require.Equal(t, []string{"https://example.org"}, w.Sites)
	require.Equal(t, 500, w.MessageLimit, "what was not given stays")

	// What was saved on screen outlasts a new colour.
	w.Title, w.Greeting = "Ask the harbour", "Good day"
	w, err = settings.On(data).ChangeWidget(context.Background(), w)
	require.NoError(t, err)
	require.NoError(t, set("--colour", "#112233"))
	after, err := settings.On(data).WidgetByKey(context.Background(), "my-site")
	require.NoError(t, err)
	require.Equal(t, "#112233", after.Colour)
	require.Equal(t, "Ask the harbour", after.Title)
	require.Equal(t, "Good day", after.Greeting)
	require.Greater(t, after.Version, w.Version, "who has it open on screen is told that it changed")
	var said strings.Builder
	command := widgetCommand()
	command.SetOut(&said)
	require.NoError(t, run(t, command, "", "my-site", "--site", "https://example.com/"), "as it stands in the address bar")
	require.Contains(t, said.String(), `/stoop.js" data-key="my-site" async></script>`, "what to put on the site is told")
	after, err = settings.On(data).WidgetByKey(context.Background(), "my-site")
	require.NoError(t, err)
	require.Equal(t, []string{"https://example.com"}, after.Sites)
}

func TestWithoutADatabaseTheCommandSaysWhatToSet(t *testing.T) {
	t.Setenv("STOOP_DATABASE_URL", "")
	require.ErrorContains(t, run(t, serveCommand(), ""), "STOOP_DATABASE_URL is not set")
	require.ErrorContains(t, run(t, migrateCommand(), ""), "STOOP_DATABASE_URL is not set")
	t.Setenv("STOOP_DATABASE_URL", testpg.New(t))
	t.Setenv("STOOP_TIME_ZONE", "Mars/Olympus")
	require.ErrorContains(t, run(t, serveCommand(), ""), "is not a known time zone")
	t.Setenv("STOOP_TIME_ZONE", "UTC")
	t.Setenv("STOOP_TRUSTED_PROXIES", "everyone")
	require.ErrorContains(t, run(t, serveCommand(), ""), "is not a network")
}
