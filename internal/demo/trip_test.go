package demo_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/standin/booking"
)

// A trip is put together on the site, told to Stoop as it is, and booked once; what
// cannot be sailed is refused with words, and nothing of it is kept.
func TestATripOnTheSite(t *testing.T) {
	zone, err := time.LoadLocation(demo.TimeZone)
	require.NoError(t, err)
	now := time.Date(2026, time.June, 3, 13, 0, 0, 0, zone)
	lines := booking.New(zone, func() time.Time { return now })
	handler, err := demo.SiteHandler("http://stoop.example", lines, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	site := httptest.NewServer(handler)
	t.Cleanup(site.Close)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	browser := &http.Client{Jar: jar}
	read := func(answer *http.Response, err error) string {
		t.Helper()
		require.NoError(t, err)
		defer answer.Body.Close()
		html, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return string(html)
	}
	get := func(path string) string { return read(browser.Get(site.URL + path)) }
	post := func(path string, values url.Values) string { return read(browser.PostForm(site.URL+path, values)) }

	today := get("/book/sailings?from=Kelpwick&to=Isle+of+Brae&day=2026-06-03&adults=10&vehicle=car")
	require.NotContains(t, today, "10:50–", "it has left")
	id := regexp.MustCompile(`name="sailing" value="([^"]+)"`).FindStringSubmatch(today)
	require.Equal(t, "kelpwick-isleofbrae-20260603-1410", id[1])
	require.Contains(t, post("/book/sailings", url.Values{"sailing": {"kelpwick-littlefenna-20260604-1315"}, "adults": {"2"}, "vehicle": {"minibus"}}), "does not take this vehicle")
	require.Contains(t, get("/book/pay"), "nothing in your trip")

	// By the site's fares: 10 × 14.00, a tenth less for ten, and a car at 32.00.
	pay := post("/book/sailings", url.Values{"sailing": {id[1]}, "adults": {"10"}, "vehicle": {"car"}})
	require.Contains(t, pay, "€158.00")
	require.Contains(t, pay, `"price":-14.00`, "the basket is told in whole units")
	require.Contains(t, get("/book/pay?discount=winter10"), "€142.20")
	require.Contains(t, get("/book/pay?discount=free"), "no discount with the code free")

	require.Contains(t, post("/book/pay", url.Values{"name": {"Nell Carraway"}, "email": {"no email"}}), `value="Nell Carraway"`, "what was typed is still there")
	now = now.Add(2 * time.Hour)
	require.Contains(t, post("/book/pay", url.Values{"name": {"Nell Carraway"}, "email": {"nell@example.org"}}), "one of the sailings has left")
	now = now.Add(-2 * time.Hour)
	done := post("/book/pay", url.Values{"name": {"Nell Carraway"}, "email": {"nell@example.org"}})
	number := regexp.MustCompile(`KF-\d{5}`).FindString(done)
	require.NotEmpty(t, number)
	require.Contains(t, post("/book/pay", url.Values{"name": {"Nell Carraway"}, "email": {"nell@example.org"}}), "nothing in the trip", "sent twice it is booked once")
	require.Contains(t, get("/my-booking?name=carraway&number="+number), "€142.20")
	require.Contains(t, get("/my-booking?name=stranger&number="+number), "no booking with this number and name")

	answer, err := browser.Post(site.URL+"/book/card", "application/json", strings.NewReader(`{"Kind":"sailing","ID":"`+id[1]+`"}`))
	require.Contains(t, read(answer, err), "1 adult, Kelpwick to Isle of Brae")
	r, err := http.NewRequest(http.MethodPost, site.URL+"/book/pay", nil)
	require.NoError(t, err)
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err = browser.Do(r)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	require.Equal(t, http.StatusForbidden, answer.StatusCode, "another site books nothing here")
}
