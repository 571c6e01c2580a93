package visit_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/visit"
)

var noon = time.Date(2026, time.June, 3, 12, 0, 0, 0, time.UTC)

func at(d time.Duration, tab, path string) visit.Report {
	return visit.Report{Tab: tab, URL: "https://kelpwick.example" + path, Title: path, Source: visit.Source{Kind: visit.Direct}, At: noon.Add(d)}
}

// The Web Analytics Association's definition of a visit (Web Analytics
// Definitions, 2008): it ends after 30 minutes without activity. That it ends at
// midnight and with another campaign is common practice.
func TestWhenAVisitEnds(t *testing.T) {
	r := visit.Usual
	s := visit.New("1", at(0, "a", "/"))
	require.True(t, r.Begins(visit.Stay{}, at(0, "a", "/")), "the first one")
	require.False(t, r.Begins(s, at(30*time.Minute-time.Second, "b", "/fares")))
	require.True(t, r.Begins(s, at(30*time.Minute, "b", "/fares")))

	// Midnight is that of the zone: 22:00 UTC is midnight in Copenhagen in June.
	late := visit.New("1", at(9*time.Hour+50*time.Minute, "a", "/"))
	require.False(t, r.Begins(late, at(10*time.Hour+5*time.Minute, "a", "/fares")))
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(t, err)
	r.Zone = zone
	require.True(t, r.Begins(late, at(10*time.Hour+5*time.Minute, "a", "/fares")))
	r.Midnight = false
	require.False(t, r.Begins(late, at(10*time.Hour+5*time.Minute, "a", "/fares")))

	search := at(time.Minute, "b", "/fares")
	search.Source = visit.Source{Kind: visit.Search, Name: "duckduckgo.com"}
	require.True(t, r.Begins(s, search), "a new source begins a new visit")
	same := search
	same.Tab = "a"
	require.False(t, r.Begins(s, same), "what an open page says again is no new source")
	found := visit.New("2", search)
	search.Tab, search.At = "c", search.At.Add(time.Minute)
	require.False(t, r.Begins(found, search), "the same source again")
	require.False(t, r.Begins(found, at(3*time.Minute, "d", "/")), "typing the address is no new source")
	r.NewSource = false
	search.Tab = "e"
	require.False(t, r.Begins(s, search))
}

func TestTimeIsThatOfAttention(t *testing.T) {
	s := visit.New("1", at(0, "a", "/"))
	p := at(time.Minute, "a", "/")
	p.Attended = 40 * time.Second
	require.False(t, s.Take(p))
	require.Equal(t, 40*time.Second, s.Attended())
	// A page that claims a day has been open for two minutes only.
	p = at(2*time.Minute, "a", "/")
	p.Attended = 24 * time.Hour
	s.Take(p)
	require.Equal(t, 2*time.Minute, s.Attended())
	p.Attended = -time.Hour
	s.Take(p)
	require.Equal(t, 2*time.Minute, s.Attended(), "time attended does not shrink")
	// The next page counts for itself, and is attended for as long as it says.
	p = at(3*time.Minute, "a", "/fares")
	p.Left = 2*time.Minute + 10*time.Second
	require.True(t, s.Take(p), "what was attended to since the last report counts for the page before")
	require.Equal(t, 2*time.Minute+10*time.Second, s.Attended())
	p = at(13*time.Minute, "a", "/fares")
	p.Attended, p.Idle = 20*time.Second, true
	s.Take(p)
	require.Equal(t, 2*time.Minute+30*time.Second, s.Attended(), "ten minutes of silence are none")
	since, idle := s.Idle()
	require.True(t, idle)
	require.Equal(t, noon.Add(13*time.Minute), since)
}

func TestSeveralTabsAreOneVisit(t *testing.T) {
	s := visit.New("1", at(0, "a", "/"))
	require.True(t, s.Take(at(time.Minute, "b", "/fares")))
	require.False(t, s.Take(at(2*time.Minute, "a", "/")), "a pulse of the other tab is no other page")
	require.Equal(t, 2, s.Pages)
	require.Equal(t, "/fares", s.Now().Title, "the page opened last")
	idle := at(3*time.Minute, "b", "/fares")
	idle.Idle = true
	s.Take(idle)
	require.Equal(t, "/", s.Now().Title, "the page in view before one that is not")
	_, all := s.Idle()
	require.False(t, all)
	s.Leave("a", noon.Add(4*time.Minute))
	require.True(t, s.Here())
	s.Leave("b", noon.Add(5*time.Minute))
	require.False(t, s.Here())
	require.Equal(t, "/fares", s.Now().Title, "the page left last")
	require.Equal(t, 2, s.Pages)
	s.Leave("b", noon.Add(6*time.Minute))
	require.Equal(t, noon.Add(5*time.Minute), s.Seen, "leaving twice is leaving once")
}

func TestAReloadIsNoOtherPage(t *testing.T) {
	s := visit.New("1", at(0, "a", "/book"))
	s.Leave("a", noon.Add(20*time.Second))
	require.False(t, s.Here())
	s.Take(at(22*time.Second, "b", "/book"))
	require.Equal(t, 1, s.Pages)
	require.True(t, s.Now().Until.IsZero())
	s.Leave("b", noon.Add(30*time.Second))
	s.Take(at(time.Minute, "c", "/book"))
	require.Equal(t, 2, s.Pages, "the same page a while later is another view")
}

func TestPagesThatAreNotHeardOfAnyMore(t *testing.T) {
	s := visit.New("1", at(0, "a", "/"))
	s.Take(at(50*time.Second, "b", "/fares"))
	require.True(t, s.Expire(noon.Add(30*time.Second)))
	require.Len(t, s.Tabs, 1)
	require.False(t, s.Expire(noon.Add(30*time.Second)))
	require.True(t, s.Expire(noon.Add(time.Hour)))
	require.False(t, s.Here())
	require.Equal(t, noon.Add(50*time.Second), s.Seen, "silence is no sign of life")
}

// Whatever pages report, in whatever order, what is kept of a visit is bounded and
// hangs together.
func TestAnyReportsKeepAVisitWhole(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := visit.New("1", at(0, "0", "/0"))
		n := rapid.IntRange(1, 400).Draw(t, "reports")
		for i := range n {
			tab := fmt.Sprint(rapid.IntRange(0, 70).Draw(t, "tab"))
			when := time.Duration(i)*time.Second + time.Duration(rapid.IntRange(-90, 90).Draw(t, "late"))*time.Second
			if rapid.IntRange(0, 5).Draw(t, "leaves") == 0 {
				s.Leave(tab, noon.Add(when))
				continue
			}
			p := at(when, tab, fmt.Sprint("/", rapid.IntRange(0, 30).Draw(t, "page")))
			p.Attended = time.Duration(rapid.IntRange(-10, 100_000).Draw(t, "attended")) * time.Second
			p.Idle = rapid.Bool().Draw(t, "idle")
			s.Take(p)
			if now := s.Now(); now.Until.IsZero() != s.Here() {
				t.Fatalf("a page is in view and none is open, or the other way round: %+v", now)
			}
		}
		open := 0
		for _, v := range s.Views {
			if v.Attended < 0 {
				t.Fatalf("negative time on %s", v.URL)
			}
			if v.Until.IsZero() {
				open++
			}
		}
		if open != len(s.Tabs) || len(s.Views) > visit.ViewsKept || len(s.Tabs) > visit.TabsKept || s.Pages < len(s.Views) {
			t.Fatalf("%d open views for %d tabs, %d views of %d pages", open, len(s.Tabs), len(s.Views), s.Pages)
		}
	})
}
