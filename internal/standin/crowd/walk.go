package crowd

import (
	"math"
	"math/rand/v2"
	"time"
)

// step is one way from a page to another, with how often it is gone.
type step struct {
	share int
	to    string // a path; empty for leaving the site
}

// ways is the walk over the pages of Kelpwick Ferries: where one goes on depends on
// the page that one is on, and on nothing before (a Markov chain).
var ways = map[string][]step{
	"/":            {{26, "/timetable"}, {22, "/fares"}, {16, "/book"}, {9, "/my-booking"}, {6, "/freight"}, {6, "/animals"}, {7, "/disruptions"}, {4, "/help"}, {4, ""}},
	"/timetable":   {{30, "/book"}, {28, "/fares"}, {12, "/"}, {10, "/disruptions"}, {6, "/animals"}, {4, "/help"}, {10, ""}},
	"/fares":       {{38, "/book"}, {18, "/timetable"}, {10, "/"}, {8, "/animals"}, {8, "/freight"}, {4, "/help"}, {14, ""}},
	"/book":        {{30, "/book/sailings"}, {20, "/fares"}, {16, "/timetable"}, {8, "/help"}, {6, "/"}, {20, ""}},
	"/my-booking":  {{26, "/help"}, {20, "/timetable"}, {14, "/"}, {10, "/disruptions"}, {30, ""}},
	"/freight":     {{34, "/freight/rates"}, {14, "/help"}, {14, "/timetable"}, {8, "/"}, {30, ""}},
	"/animals":     {{30, "/book"}, {18, "/fares"}, {12, "/help"}, {10, "/"}, {30, ""}},
	"/disruptions": {{24, "/timetable"}, {18, "/my-booking"}, {12, "/help"}, {10, "/"}, {36, ""}},
	"/help":        {{20, "/timetable"}, {18, "/my-booking"}, {14, "/fares"}, {8, "/"}, {40, ""}},
	// What the site shows under one address and calls two pages.
	"/book/sailings": {{46, "/book/pay"}, {20, "/fares"}, {14, "/book"}, {20, ""}},
	"/book/pay":      {{20, "/help"}, {20, "/book/sailings"}, {10, "/my-booking"}, {50, ""}},
	"/freight/rates": {{30, "/freight"}, {20, "/timetable"}, {10, "/help"}, {40, ""}},
}

// titles of the pages.
var titles = map[string]string{
	"/": "Kelpwick Ferries", "/timetable": "Timetable", "/fares": "Fares", "/book": "Book a crossing", "/book/sailings": "Choose your sailings", "/book/pay": "Pay for your trip",
	"/my-booking": "My booking", "/freight": "Freight", "/freight/rates": "Freight rates", "/animals": "Travelling with animals", "/disruptions": "Disruptions", "/help": "Help",
}

// next returns where somebody goes from a page; nothing when they leave.
func next(random *rand.Rand, page string) string {
	all := 0
	for _, s := range ways[page] {
		all += s.share
	}
	if all == 0 {
		return "/"
	}
	at := random.IntN(all)
	for _, s := range ways[page] {
		if at -= s.share; at < 0 {
			return s.to
		}
	}
	return ""
}

// entries are the pages by which one comes to the site.
var entries = []step{{52, "/"}, {16, "/timetable"}, {10, "/fares"}, {6, "/book"}, {6, "/my-booking"}, {4, "/freight"}, {3, "/animals"}, {3, "/disruptions"}}

// reads returns how long somebody stays on a page: a lognormal time, as dwell times
// on pages are known to be (common practice), of half a minute in the middle.
func reads(random *rand.Rand) time.Duration {
	seconds := math.Exp(3.4 + 0.8*random.NormFloat64())
	return time.Duration(min(max(seconds, 4), 400) * float64(time.Second))
}

// origin is from where somebody comes.
type origin struct {
	share    int
	referrer string
	query    string
}

// origins are invented, like all of the demo: which search it was says the address, as
// it does for those that Stoop does not know by name.
var origins = []origin{
	{38, "", ""}, {32, "https://lookout.example/", "?utm_source=lookout&utm_medium=organic"}, {8, "https://brae-walks.example/ferries", ""},
	{6, "https://harbour-board.example/", ""}, {6, "", "?utm_source=newsletter&utm_medium=email&utm_campaign=winter-sailings"},
	{5, "https://gangway.example/", "?utm_source=gangway&utm_medium=social"}, {5, "", "?utm_source=harbour-board&utm_medium=banner&utm_campaign=brae-weekend"},
}

// pick returns one of several by their shares.
func pick[T any](random *rand.Rand, list []T, share func(T) int) T {
	all := 0
	for _, one := range list {
		all += share(one)
	}
	at := random.IntN(all)
	for _, one := range list {
		if at -= share(one); at < 0 {
			return one
		}
	}
	return list[len(list)-1]
}

// browsers are what visitors look with.
var browsers = []struct {
	share int
	agent string
}{
	{30, "Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Safari/537.36"},
	{14, "Mozilla/5.0 (X11; Linux x86_64; rv:144.0) Gecko/20100101 Firefox/144.0"},
	{16, "Mozilla/5.0 (Macintosh; Intel Mac OS X 10_15_7) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.6 Safari/605.1.15"},
	{24, "Mozilla/5.0 (iPhone; CPU iPhone OS 18_6 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.6 Mobile/15E148 Safari/604.1"},
	{14, "Mozilla/5.0 (Linux; Android 15; Pixel 8) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Mobile Safari/537.36"},
	{2, "Mozilla/5.0 (iPad; CPU OS 18_6 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.6 Mobile/15E148 Safari/604.1"},
}

// languages by country; of others English.
var languages = map[string]string{"DK": "da-DK", "NO": "nb-NO", "SE": "sv-SE", "DE": "de-DE", "NL": "nl-NL", "FR": "fr-FR", "ES": "es-ES", "FI": "fi-FI", "IT": "it-IT", "JP": "ja-JP"}
