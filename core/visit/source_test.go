package visit_test

import (
	"bufio"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/visit"
)

// The parameters and what they mean are those of Google's Campaign URL Builder and
// of the default channel groups of web analytics ("Traffic-source dimensions",
// support.google.com/analytics/answer/9756891): Organic Search, Organic Social,
// Email, Referral, Direct by utm_medium and referrer. The examples' hosts stand for
// such sites; kelpwick.example and brae-walks.example are invented.
func TestWhereVisitorsComeFrom(t *testing.T) {
	const home = "https://kelpwick.example/"
	for _, c := range []struct {
		page, referrer string
		want           visit.Source
	}{
		{home, "", visit.Source{Kind: visit.Direct}},
		{home, "https://kelpwick.example/fares", visit.Source{Kind: visit.Direct}},
		{home, "https://www.kelpwick.example/fares", visit.Source{Kind: visit.Direct}},
		{home, "https://book.kelpwick.example/", visit.Source{Kind: visit.Direct}},
		{home, "https://www.google.com/", visit.Source{Kind: visit.Search, Name: "google.com"}},
		{home, "https://www.google.co.uk/search?q=ferry", visit.Source{Kind: visit.Search, Name: "google.co.uk"}},
		{home, "https://duckduckgo.com/", visit.Source{Kind: visit.Search, Name: "duckduckgo.com"}},
		{home, "https://search.brave.com/", visit.Source{Kind: visit.Search, Name: "search.brave.com"}},
		{home, "https://de.search.yahoo.com/", visit.Source{Kind: visit.Search, Name: "de.search.yahoo.com"}},
		{home, "https://docs.google.com/document", visit.Source{Kind: visit.Referral, Name: "docs.google.com"}},
		{home, "https://mail.google.com/", visit.Source{Kind: visit.Email, Name: "mail.google.com"}},
		{home, "https://google.brae-walks.example/", visit.Source{Kind: visit.Referral, Name: "google.brae-walks.example"}},
		{home, "https://l.facebook.com/l.php", visit.Source{Kind: visit.Social, Name: "l.facebook.com"}},
		{home, "https://t.co/abc", visit.Source{Kind: visit.Social, Name: "t.co"}},
		{home, "https://not.co/abc", visit.Source{Kind: visit.Referral, Name: "not.co"}},
		{home, "https://brae-walks.example/ferries", visit.Source{Kind: visit.Referral, Name: "brae-walks.example"}},
		{home, "javascript:alert(1)", visit.Source{Kind: visit.Direct}},
		{home, "::not an address", visit.Source{Kind: visit.Direct}},
		{home + "?utm_source=newsletter&utm_medium=email&utm_campaign=spring", "", visit.Source{Kind: visit.Email, Name: "newsletter", Medium: "email", Campaign: "spring"}},
		{home + "?utm_source=google&utm_medium=cpc&utm_campaign=brae&utm_term=ferry&utm_content=a", "https://www.google.com/", visit.Source{Kind: visit.Campaign, Name: "google", Medium: "cpc", Campaign: "brae", Term: "ferry", Content: "a"}},
		{home + "?utm_source=facebook&utm_medium=social", "", visit.Source{Kind: visit.Social, Name: "facebook", Medium: "social"}},
		{home + "?utm_source=facebook", "", visit.Source{Kind: visit.Social, Name: "facebook"}},
		{home + "?utm_medium=organic&utm_source=bing", "", visit.Source{Kind: visit.Search, Name: "bing", Medium: "organic"}},
		{home + "?utm_campaign=harbour-board", "https://brae-walks.example/", visit.Source{Kind: visit.Campaign, Name: "brae-walks.example", Campaign: "harbour-board"}},
		{home + "?utm_medium=e-mail", "", visit.Source{Kind: visit.Email, Medium: "e-mail"}},
	} {
		require.Equal(t, c.want, visit.SourceOf(c.page, c.referrer, "book.kelpwick.example"), "%s from %s", c.page, c.referrer)
	}
	long := visit.SourceOf(home+"?utm_source="+strings.Repeat("é", 500), "")
	require.LessOrEqual(t, len(long.Name), 100)
}

// The list is a sample of the npm package user-agents 2.1.198 (BSD 2-Clause, Intoli
// LLC): real browsers with the category that it gives each.
func TestDevicesOfAPublishedList(t *testing.T) {
	file, err := os.Open("testdata/user-agents.tsv")
	require.NoError(t, err)
	defer file.Close()
	kinds := map[string]string{"desktop": visit.Desktop, "mobile": visit.Phone, "tablet": visit.Tablet}
	right, all := 0, 0
	lines := bufio.NewScanner(file)
	for lines.Scan() {
		category, agent, _ := strings.Cut(lines.Text(), "\t")
		all++
		d := visit.DeviceOf(agent)
		require.NotEmpty(t, d.Browser, agent)
		if d.Kind == kinds[category] {
			right++
		}
	}
	require.NoError(t, lines.Err())
	require.Greater(t, all, 80)
	// Tablets that call themselves desktops, as their makers made them, are told apart
	// by nobody who has only this header.
	require.GreaterOrEqual(t, float64(right)/float64(all), 0.9, "%d of %d", right, all)
	require.Equal(t, visit.Bot, visit.DeviceOf("Mozilla/5.0 (compatible; Googlebot/2.1; +http://www.google.com/bot.html)").Kind)
	require.Empty(t, visit.DeviceOf("").Kind)
}

func TestAddressesThatAreKept(t *testing.T) {
	for page, want := range map[string]string{
		"https://kelpwick.example/book?from=sandry&token=secret#top": "https://kelpwick.example/book?from=sandry",
		"https://kelpwick.example/#/book":                            "https://kelpwick.example/#/book",
		"https://ann:pw@kelpwick.example/":                           "https://kelpwick.example/",
		"javascript:alert(1)":                                        "",
		"data:text/html,x":                                           "",
		"/book":                                                      "",
		"":                                                           "",
	} {
		require.Equal(t, want, visit.CleanURL(page, []string{"from"}), page)
	}
	require.Equal(t, "https://kelpwick.example/book", visit.CleanURL("https://kelpwick.example/book?from=sandry", nil))
}

func TestPatternsOfPages(t *testing.T) {
	for _, c := range []struct {
		pattern, page string
		is            bool
	}{
		{"/book", "https://kelpwick.example/book?x=1", true},
		{"/book", "https://kelpwick.example/book/pay", false},
		{"/book*", "https://kelpwick.example/Book/Pay", true},
		{"*/pay", "https://kelpwick.example/book/pay", true},
		{"/b*k/*y", "https://kelpwick.example/book/pay", true},
		{"/", "https://kelpwick.example", true},
		{"/", "https://kelpwick.example/book", false},
		{"*", "https://kelpwick.example/anything", true},
		{"https://shop.*", "https://shop.kelpwick.example/", true},
		{"https://shop.*", "https://kelpwick.example/shop.", false},
		{"/list?page=*", "https://kelpwick.example/list?page=2", true},
		{"/#/book", "https://kelpwick.example/#/book", true},
		{"", "https://kelpwick.example/", false},
		{"/a*a", "https://kelpwick.example/a", false},
	} {
		require.Equal(t, c.is, visit.Matches(c.pattern, c.page), "%s on %s", c.pattern, c.page)
	}
	// Patterns that other matchers take years for.
	require.False(t, visit.Matches("/"+strings.Repeat("a*", 140)+"b", "https://kelpwick.example/"+strings.Repeat("a", 100_000)))
}
