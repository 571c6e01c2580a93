package demo_test

import (
	"cmp"
	"context"
	"encoding/json"
	"io"
	"io/fs"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/booking"
	"stoop/internal/testpg"
	"stoop/web"
)

// Every page of the site stands, carries the snippet, and loads nothing from
// elsewhere: the demo must work without a network.
func TestTheSite(t *testing.T) {
	handler, err := demo.SiteHandler("http://stoop.example", booking.New(time.UTC, time.Now), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	get := func(path string) (int, string) {
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		content, err := io.ReadAll(w.Result().Body)
		require.NoError(t, err)
		return w.Code, string(content)
	}
	require.GreaterOrEqual(t, len(demo.Pages), 8)
	for _, p := range demo.Pages {
		status, html := get(p.Path)
		require.Equal(t, http.StatusOK, status, p.Path)
		require.Contains(t, html, `<script src="http://stoop.example/stoop.js" data-key="`+cmp.Or(p.Key, demo.WidgetKey)+`" async></script>`)
		require.NotContains(t, html, "https://")
		require.Contains(t, html, "<h1>")
	}
	for _, path := range []string{"/layout.html", "/pages/home.html", "/nothing"} {
		status, _ := get(path)
		require.Equal(t, http.StatusNotFound, status, path)
	}
	status, _ := get("/site.css")
	require.Equal(t, http.StatusOK, status)
}

// The site speaks the language that a browser asks for, whole: no text of a page is
// without its translation, and none is kept that no page says.
func TestTheSiteSpeaksGerman(t *testing.T) {
	handler, err := demo.SiteHandler("http://stoop.example", booking.New(time.UTC, time.Now), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	speaks := func(language string) string {
		r := httptest.NewRequest(http.MethodGet, "/timetable", nil)
		r.Header.Set("Accept-Language", language)
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, r)
		return w.Body.String()
	}
	require.Contains(t, speaks("de-AT,en;q=0.5"), `<html lang="de">`)
	require.Contains(t, speaks("de-AT,en;q=0.5"), "<h1>Fahrplan</h1>")
	for _, language := range []string{"en-GB", "da", ""} {
		require.Contains(t, speaks(language), `<html lang="en-GB">`, language)
		require.Contains(t, speaks(language), "<h1>Timetable</h1>", language)
	}

	said := map[string]bool{}
	for _, p := range demo.Pages[1:] {
		said[p.Title] = true
	}
	text := regexp.MustCompile(`\{\{ t ("(?:[^"\\]|\\.)*") \}\}`)
	require.NoError(t, fs.WalkDir(web.Site(), ".", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".html") {
			return err
		}
		html, err := fs.ReadFile(web.Site(), path)
		require.NoError(t, err)
		for _, found := range text.FindAllSubmatch(html, -1) {
			words, err := strconv.Unquote(string(found[1]))
			require.NoError(t, err)
			said[words] = true
		}
		return nil
	}))
	data, err := fs.ReadFile(web.Site(), "words/de.json")
	require.NoError(t, err)
	german := map[string]string{}
	require.NoError(t, json.Unmarshal(data, &german))
	require.Equal(t, slices.Sorted(maps.Keys(said)), slices.Sorted(maps.Keys(german)))
}

// The history is made by the rules of the job: each log folds to its row, no
// chat lies in the future, and both endings occur. Seeding again adds nothing.
func TestTheHistoryKeepsTheRules(t *testing.T) {
	ctx := context.Background()
	s := testpg.Open(t)
	now := time.Now()
	for range 2 {
		require.NoError(t, demo.Seed(ctx, s, []string{"http://site.example"}, now))
	}
	team, err := settings.On(s).Operators(ctx)
	require.NoError(t, err)
	require.Len(t, team, len(demo.Logins))
	var chats []chatlog.Chat
	require.NoError(t, chatlog.On(s).Query(ctx).Where("phase = 'ended'").Find(&chats).Error)
	require.Len(t, chats, 56)
	endings := map[chat.Ending]int{}
	for _, c := range chats {
		log, err := chatlog.On(s).Events(ctx, c.ID, 0, 1000)
		require.NoError(t, err)
		state, err := chat.Fold(log)
		require.NoError(t, err)
		require.Equal(t, state, c.State)
		require.False(t, state.EndedAt.After(now), "a chat that ends in the future")
		endings[state.Ending]++
	}
	require.Positive(t, endings[chat.Answered])
	require.Positive(t, endings[chat.Missed])
	w, err := settings.On(s).WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	require.Equal(t, []string{"http://site.example"}, w.Sites)
}
