package demo_test

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
	"stoop/internal/testpg"
	"stoop/internal/transcripts"
)

// Every page of the site stands, carries the snippet, and loads nothing from
// elsewhere: the demo must work without a network.
func TestTheSite(t *testing.T) {
	handler, err := demo.SiteHandler("http://stoop.example", slog.New(slog.DiscardHandler))
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
		require.Contains(t, html, `<script src="http://stoop.example/stoop.js" data-key="`+demo.WidgetKey+`" async></script>`)
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
	hits, err := transcripts.On(s).Search(ctx, transcripts.Search{Limit: 1000})
	require.NoError(t, err)
	require.Len(t, hits, 56)
	endings := map[chat.Ending]int{}
	for _, hit := range hits {
		log, err := chatlog.On(s).Events(ctx, hit.Chat.ID, 0, 1000)
		require.NoError(t, err)
		state, err := chat.Fold(log)
		require.NoError(t, err)
		require.Equal(t, state, hit.Chat.State)
		require.False(t, state.EndedAt.After(now), "a chat that ends in the future")
		endings[state.Ending]++
	}
	require.Positive(t, endings[chat.Answered])
	require.Positive(t, endings[chat.Missed])
	w, err := settings.On(s).WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	require.Equal(t, []string{"http://site.example"}, w.Sites)
}
