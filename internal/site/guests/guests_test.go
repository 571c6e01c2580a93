package guests_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/visit"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
)

var noon = time.Date(2026, time.June, 3, 12, 0, 0, 0, time.UTC)

const firefox = "Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0"

func report(visitor string, isNew bool, tab, path string, after time.Duration) guests.Report {
	return guests.Report{
		Report:    visit.Report{Tab: tab, URL: "https://kelpwick.example" + path, Title: path, Source: visit.Source{Kind: visit.Direct}, At: noon.Add(after)},
		VisitorID: visitor, WidgetID: "w", New: isNew, UserAgent: firefox,
	}
}

// names returns who is there, as those see them who look on.
func names(r *guests.Registry) map[string]string {
	pages := map[string]string{}
	r.Since(0, func(g *guests.Guest) { pages[g.Visit.VisitorID] = g.Visit.PageTitle })
	return pages
}

func TestFortyTabsAreOneVisitor(t *testing.T) {
	r := guests.New()
	for i := range 40 {
		r.Report(visit.Usual, report("wren", i == 0, fmt.Sprint(i), fmt.Sprint("/", i), time.Duration(i)*time.Second))
	}
	require.Equal(t, 1, r.OnSite())
	g, here := r.Guest("wren")
	require.True(t, here)
	require.Len(t, g.Visit.Stay.Tabs, 40)
	for i := range 39 {
		r.Leave("wren", fmt.Sprint(i), 0, noon.Add(time.Minute))
	}
	require.Equal(t, 1, r.OnSite(), "the last page is still open")
	r.Leave("wren", "39", 0, noon.Add(61*time.Second))
	require.Zero(t, r.OnSite())
}

// Whoever tells something between the beginning of their chat and its being noticed is told of
// once more: also if only the title of their page changed, which is no other page.
func TestWhatAPageToldBeforeItsChatWasNoticed(t *testing.T) {
	for name, c := range map[string]struct {
		title string
		after time.Duration
		told  []string
	}{
		"nothing since": {"/", -time.Second, nil},
		"another title": {"Freight, now open", time.Second, []string{"wren"}},
	} {
		r := guests.New()
		r.Report(visit.Usual, report("wren", true, "a", "/", -time.Minute))
		p := report("wren", false, "a", "/", c.after)
		p.Title = c.title
		r.Report(visit.Usual, p)
		chats := map[string]guests.Chat{"wren": {ID: "c", Phase: "waiting", Since: noon}}
		require.Equal(t, c.told, r.SetChats(chats, noon.Add(2*time.Second)), name)
		require.Empty(t, r.SetChats(chats, noon.Add(3*time.Second)), name)
	}
}

// Between two pages somebody is nowhere for a moment, and is not shown to leave.
func TestOnTheWayToTheNextPage(t *testing.T) {
	r := guests.New()
	r.Report(visit.Usual, report("wren", true, "a", "/", 0))
	store(t, r)
	r.Leave("wren", "a", 0, noon.Add(10*time.Second))
	store(t, r)
	require.Empty(t, r.Pass(noon.Add(14*time.Second)))
	r.Report(visit.Usual, report("wren", false, "b", "/fares", 14*time.Second))
	store(t, r)
	require.Empty(t, r.Pass(noon.Add(30*time.Second)))
	g, _ := r.Guest("wren")
	require.Equal(t, 2, g.Visit.Stay.Pages, "and it is one visit")
	r.Leave("wren", "b", 0, noon.Add(40*time.Second))
	store(t, r)
	require.Equal(t, []string{"wren"}, r.Pass(noon.Add(45*time.Second)))
	_, here := r.Guest("wren")
	require.False(t, here)
	gone, _ := r.Since(0, func(*guests.Guest) { t.Error("nobody is there") })
	require.Equal(t, []string{"wren"}, gone)
}

// store takes what is not stored yet, as if it was.
func store(t *testing.T, r *guests.Registry) []visits.Visit {
	t.Helper()
	var all []visits.Visit
	for {
		list, _ := r.Unsaved()
		if len(list) == 0 {
			return all
		}
		all = append(all, list...)
	}
}

// A browser that fell silent is gone after a minute; one that says it is out of view
// is given longer, since browsers let such a page speak once a minute.
func TestSilentBrowsersAreGone(t *testing.T) {
	r := guests.New()
	r.Report(visit.Usual, report("wren", true, "a", "/", 0))
	idle := report("oskar", true, "b", "/", 0)
	idle.Idle = true
	r.Report(visit.Usual, idle)
	store(t, r)
	r.Pass(noon.Add(60 * time.Second))
	require.Equal(t, 2, r.OnSite())
	r.Pass(noon.Add(61 * time.Second))
	require.Equal(t, 1, r.OnSite())
	r.Pass(noon.Add(151 * time.Second))
	require.Zero(t, r.OnSite())
}

// Who comes back is shown when it is known who they are, with their earlier visits;
// what they did meanwhile is not lost.
func TestWhoComesBackIsKnown(t *testing.T) {
	r := guests.New()
	now, _ := r.Report(visit.Usual, report("wren", false, "a", "/fares", 0))
	require.Nil(t, now)
	r.Report(visit.Usual, report("wren", false, "a", "/book", 10*time.Second))
	require.Empty(t, names(r), "nobody is shown without it being known who they are")
	require.Equal(t, []string{"wren"}, r.Unknown())
	before := visits.Visit{ID: uuid.NewString(), VisitorID: "wren", Stay: visit.New("old", report("wren", false, "x", "/", -48*time.Hour).Report)}
	r.Learn(visit.Usual, []string{"wren"}, map[string]guests.Learned{"wren": {Visits: visits.Known{Latest: before, Visits: 3}, Person: guests.Person{Name: "Wren"}}}, noon)
	require.Equal(t, map[string]string{"wren": "/book"}, names(r))
	g, _ := r.Guest("wren")
	require.Equal(t, 3, g.Earlier)
	require.Equal(t, "Wren", g.Person.Name)
	require.Equal(t, 2, g.Visit.Stay.Pages)
	require.Equal(t, noon, g.Visit.StartedAt)
	known, here := r.Known("wren")
	require.True(t, here)
	require.Equal(t, 4, known.Visits)

	// After a restart within half an hour the visit goes on.
	r = guests.New()
	r.Report(visit.Usual, report("wren", false, "c", "/help", 10*time.Minute))
	r.Learn(visit.Usual, []string{"wren"}, map[string]guests.Learned{"wren": {Visits: visits.Known{Latest: g.Visit, Visits: 4}}}, noon)
	again, _ := r.Guest("wren")
	require.Equal(t, g.Visit.ID, again.Visit.ID)
	require.Equal(t, 3, again.Visit.Stay.Pages)
	require.Equal(t, 3, again.Earlier)
}

// Each visit is stored once it is over, also the one that a new one took the place of.
func TestVisitsThatAreOverAreStored(t *testing.T) {
	r := guests.New()
	r.Report(visit.Usual, report("wren", true, "a", "/", 0))
	first, _ := r.Guest("wren")
	next := report("wren", false, "b", "/fares", time.Minute)
	next.Source = visit.Source{Kind: visit.Email, Name: "newsletter"}
	r.Report(visit.Usual, next)
	list := store(t, r)
	require.Len(t, list, 2)
	for _, v := range list {
		require.Equal(t, v.ID == first.Visit.ID, v.GoneAt != nil, "the first is over, the second is not")
	}
	// What could not be stored is stored the next time.
	r.Report(visit.Usual, report("wren", false, "b", "/book", 2*time.Minute))
	list, failed := r.Unsaved()
	require.Len(t, list, 1)
	again, _ := r.Unsaved()
	require.Empty(t, again)
	failed()
	require.Len(t, store(t, r), 1)
}

// Two servers: who talks to the other one now is theirs, with all that was seen here.
func TestVisitorsMoveBetweenServers(t *testing.T) {
	here, there := guests.New(), guests.New()
	here.Report(visit.Usual, report("wren", true, "a", "/", 0))
	there.Elsewhere(store(t, here), noon.Add(time.Second))
	there.Learn(visit.Usual, there.Unknown(), nil, noon)
	require.Equal(t, map[string]string{"wren": "/"}, names(there))

	there.Report(visit.Usual, report("wren", false, "a", "/fares", 20*time.Second))
	list := store(t, there)
	here.Elsewhere(list, noon.Add(21*time.Second))
	g, _ := here.Guest("wren")
	require.Equal(t, "/fares", g.Visit.PageTitle)
	require.Equal(t, 2, g.Visit.Stay.Pages)
	require.Empty(t, store(t, here), "it is not this server's to store any more")

	// What comes late from the database changes nothing.
	there.Report(visit.Usual, report("wren", false, "a", "/book", 30*time.Second))
	there.Elsewhere(list, noon.Add(31*time.Second))
	g, _ = there.Guest("wren")
	require.Equal(t, "/book", g.Visit.PageTitle)
	// Who is not heard of by anybody is a phantom to nobody.
	here.Pass(noon.Add(3 * time.Minute))
	here.Pass(noon.Add(4 * time.Minute))
	require.Empty(t, names(here))
}

// Whom another server heard of a moment ago, and has not stored yet, is waited for.
func TestTheFirstMomentIsOneVisit(t *testing.T) {
	here, there := guests.New(), guests.New()
	here.Report(visit.Usual, report("wren", true, "a", "/", 0))
	there.Report(visit.Usual, report("wren", false, "a", "/fares", 100*time.Millisecond))
	there.Learn(visit.Usual, []string{"wren"}, nil, noon.Add(200*time.Millisecond))
	require.False(t, there.Has("wren"))
	list := store(t, here)
	there.Learn(visit.Usual, []string{"wren"}, map[string]guests.Learned{"wren": {Visits: visits.Known{Latest: list[0], Visits: 1}}}, noon.Add(time.Second))
	g, is := there.Guest("wren")
	require.True(t, is)
	require.Equal(t, list[0].ID, g.Visit.ID)
	require.Equal(t, 2, g.Visit.Stay.Pages)
	require.Zero(t, g.Earlier)

	// Who brings an id of which nothing is stored any more is not waited for without end.
	there.Report(visit.Usual, report("oskar", false, "b", "/", 0))
	there.Learn(visit.Usual, []string{"oskar"}, nil, noon.Add(3*time.Second))
	require.True(t, there.Has("oskar"))
}

// Of what is told beside the pages the last word holds, to whichever server it came.
func TestTheLastWordHolds(t *testing.T) {
	here, there := guests.New(), guests.New()
	here.Report(visit.Usual, report("wren", true, "a", "/", 0))
	there.Elsewhere(store(t, here), noon)
	there.Learn(visit.Usual, there.Unknown(), nil, noon)
	basket := func(cents int64) *visits.Basket { return &visits.Basket{Cents: cents} }
	there.SetBasket("wren", basket(10), noon.Add(time.Second))
	there.SetData("wren", noon.Add(time.Second), func(d *visits.Data) { d.Claimed = map[string]string{"tier": "gold"} })
	here.SetBasket("wren", basket(20), noon.Add(2*time.Second))
	here.Report(visit.Usual, report("wren", false, "a", "/book", 3*time.Second))
	old, fresh := store(t, there), store(t, here)
	here.Elsewhere(old, noon)
	there.Elsewhere(fresh, noon)
	there.Elsewhere(old, noon) // twice, and late
	for _, r := range []*guests.Registry{here, there} {
		g, _ := r.Guest("wren")
		require.EqualValues(t, 20, g.Visit.Basket.Cents)
		require.Equal(t, "gold", g.Visit.Data.Claimed["tier"])
		require.Equal(t, "/book", g.Visit.PageTitle)
	}
	// A server whose clock is behind is heard all the same: it knew of the word before.
	there.SetBasket("wren", nil, noon)
	here.Elsewhere(store(t, there), noon)
	g, _ := here.Guest("wren")
	require.Nil(t, g.Visit.Basket)
}

func TestInvitationsStandOnce(t *testing.T) {
	r := guests.New()
	r.Report(visit.Usual, report("wren", true, "a", "/", 0))
	g, _ := r.Guest("wren")
	tried := guests.Invited{VisitID: g.Visit.ID, RuleID: "r", Invites: true, At: noon}
	require.True(t, r.Invite("wren", &visits.Invitation{ID: "1", At: noon, Until: noon.Add(time.Minute)}, tried))
	require.False(t, r.Invite("wren", &visits.Invitation{ID: "2"}, tried), "two colleagues at once: the first")
	require.False(t, r.Invite("nobody", &visits.Invitation{ID: "3"}, tried))
	g, _ = r.Guest("wren")
	require.True(t, g.Visit.Invited != nil && g.Visit.Invited.ID == "1")
	h := g.History()
	require.Equal(t, 1, h.ThisVisit)
	require.Equal(t, []string{"r"}, h.Tried)
	require.True(t, h.Standing)

	r.Answer("wren", "another", false, true, noon)
	g, _ = r.Guest("wren")
	require.NotNil(t, g.Visit.Invited, "a late answer to another one changes nothing")
	r.Answer("wren", "1", false, true, noon.Add(time.Second))
	g, _ = r.Guest("wren")
	require.Nil(t, g.Visit.Invited)
	h = g.History()
	require.Equal(t, noon.Add(time.Second), h.Refused)

	// One that nobody answers goes by itself; one in a chat needs none.
	require.True(t, r.Invite("wren", &visits.Invitation{ID: "4", Until: noon.Add(time.Minute)}, tried))
	r.Report(visit.Usual, report("wren", false, "a", "/", 50*time.Second))
	r.Pass(noon.Add(61 * time.Second))
	g, _ = r.Guest("wren")
	require.Nil(t, g.Visit.Invited)
	r.SetChats(map[string]guests.Chat{"wren": {ID: "c", Phase: "waiting"}}, noon)
	require.False(t, r.Invite("wren", &visits.Invitation{ID: "5", Until: noon.Add(time.Hour)}, tried))
	r.SetChats(nil, noon)
	g, _ = r.Guest("wren")
	require.Nil(t, g.Chat)
	require.Equal(t, 1, g.Person.Chats)
}
