package site

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
)

// Look is what a console shows of those on the sites: whom, in which order and
// groups, and which part of that is in view.
type Look struct {
	ID string `json:"id" doc:"Made by the console; a look under the same id replaces the one before"`

	Search      string   `json:"search,omitempty"`
	States      []State  `json:"states,omitempty"`
	Countries   []string `json:"countries,omitempty"`
	Place       string   `json:"place,omitempty" doc:"A town"`
	Departments []string `json:"departments,omitempty" doc:"By name"`
	Sources     []string `json:"sources,omitempty"`
	Topics      []string `json:"topics,omitempty"`
	Basket      string   `json:"basket,omitempty" enum:"any,with,without"`
	Visits      string   `json:"visits,omitempty" enum:"any,first,later"`

	Group  string   `json:"group,omitempty" enum:",page,country,department,source,state"`
	Folded []string `json:"folded,omitempty" doc:"Groups of which the rows are not shown"`
	Sort   string   `json:"sort,omitempty" enum:",interest,name,place,page,pages,time,source,visits,basket,state"`
	Up     bool     `json:"up,omitempty" doc:"The smallest first"`

	From   int    `json:"from" doc:"The first line in view"`
	To     int    `json:"to" doc:"The line behind the last one in view"`
	Steady bool   `json:"steady,omitempty" doc:"Somebody points at the list: nothing may move"`
	Open   string `json:"open,omitempty" doc:"The visitor whose sheet is open"`
	Map    bool   `json:"map,omitempty"`
	Anew   bool   `json:"anew,omitempty" doc:"The console lost something: all of it comes again"`
}

// windowMost bounds how many lines are shown at once.
const windowMost = 300

// tidy bounds what a console asked for.
func (l *Look) tidy() {
	l.From = max(l.From, 0)
	l.To = min(max(l.To, l.From), l.From+windowMost)
	l.Search = strings.ToLower(strings.TrimSpace(l.Search))
	if len(l.Search) > 200 {
		l.Search = strings.ToValidUTF8(l.Search[:200], "")
	}
}

// shows reports whether somebody is among those that the look is for.
func (l *Look) shows(g *GuestView) bool {
	among := func(list []string, value string) bool { return len(list) == 0 || slices.Contains(list, value) }
	switch {
	case len(l.States) > 0 && !slices.Contains(l.States, g.State),
		!among(l.Countries, g.Place.Country), !among(l.Departments, g.Department), !among(l.Sources, string(g.Source.Kind)),
		l.Place != "" && l.Place != g.Place.Name,
		l.Basket == "with" && g.Basket == nil, l.Basket == "without" && g.Basket != nil,
		l.Visits == "first" && g.Visits > 1, l.Visits == "later" && g.Visits == 1,
		len(l.Topics) > 0 && !slices.ContainsFunc(l.Topics, func(t string) bool { return slices.Contains(g.Topics, t) }):
		return false
	}
	return l.Search == "" || g.holds(l.Search)
}

// holds reports whether words stand somewhere in a row, whatever their case.
func (g *GuestView) holds(words string) bool {
	for _, text := range []string{g.Name, g.Email, g.PageTitle, pathOf(g.PageURL), g.Place.Name, g.Source.Name, g.Source.Campaign, g.OwnerName, g.Department} {
		if strings.Contains(strings.ToLower(text), words) {
			return true
		}
	}
	return strings.Contains("visitor "+strconv.Itoa(g.Number), words)
}

// pathOf returns an address without the site, whose name stands in all of them.
func pathOf(page string) string {
	_, rest, _ := strings.Cut(page, "://")
	_, path, _ := strings.Cut(rest, "/")
	return "/" + path
}

// group returns the key of the group that somebody stands in.
func (l *Look) group(g *GuestView) string {
	switch l.Group {
	case "page":
		return pageKey(g)
	case "country":
		return g.Place.Country
	case "department":
		return g.Department
	case "source":
		return string(g.Source.Kind)
	case "state":
		return string(g.State)
	}
	return ""
}

// pageKey names a page whatever is behind its address.
func pageKey(g *GuestView) string {
	page, _, _ := strings.Cut(g.PageURL, "?")
	page, _, _ = strings.Cut(page, "#")
	return page
}

// stateOrder puts who waits first, and who is idle last.
var stateOrder = map[State]int{Waits: 0, Invited: 1, Browsing: 2, InChat: 3, Message: 4, Idle: 5, Gone: 6}

// compare orders two rows; the largest first, unless the look turns it round. Rows
// that are alike keep an order of their own, so that nothing jumps.
func (l *Look) compare(a, b *GuestView) int {
	by := 0
	switch l.Sort {
	case "name":
		// By name is from A on, and who has none comes last.
		by = cmp.Compare(one(a.Name == ""), one(b.Name == ""))
		if by == 0 {
			by = strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name))
		}
		if by == 0 {
			by = cmp.Compare(a.Number, b.Number)
		}
	case "place":
		by = cmp.Or(cmp.Compare(one(a.Place.Name == ""), one(b.Place.Name == "")), strings.Compare(a.Place.Name, b.Place.Name))
	case "page":
		by = cmp.Or(strings.Compare(strings.ToLower(a.PageTitle), strings.ToLower(b.PageTitle)), a.PageSince.Compare(b.PageSince))
	case "pages":
		by = cmp.Compare(b.Pages, a.Pages)
	case "time":
		by = a.StartedAt.Compare(b.StartedAt)
	case "source":
		by = cmp.Or(strings.Compare(string(a.Source.Kind), string(b.Source.Kind)), strings.Compare(a.Source.Name, b.Source.Name))
	case "visits":
		by = cmp.Compare(b.Visits, a.Visits)
	case "basket":
		by = cmp.Compare(b.Basket.Value(), a.Basket.Value())
	case "state":
		by = cmp.Or(cmp.Compare(stateOrder[a.State], stateOrder[b.State]), a.StateSince.Compare(b.StateSince))
	default:
		by = cmp.Compare(b.Score, a.Score)
	}
	if l.Up {
		by = -by
	}
	return cmp.Or(by, cmp.Compare(b.Score, a.Score), strings.Compare(a.ID, b.ID))
}

// GroupView is a group with what it adds up to.
type GroupView struct {
	Key     string `json:"key"`
	Label   string `json:"label" doc:"Of a page or department; else the key says it"`
	Count   int    `json:"count"`
	Cents   int64  `json:"cents" doc:"In baskets, of the currency that most of them have"`
	Money   string `json:"currency,omitempty"`
	Waiting int    `json:"waiting"`
	InChat  int    `json:"inChat"`
	Folded  bool   `json:"folded,omitempty"`
}

// SpotView is a place on the map, with how many are there.
type SpotView struct {
	Name      string  `json:"name"`
	Country   string  `json:"country"`
	Latitude  float64 `json:"latitude"`
	Longitude float64 `json:"longitude"`
	Count     int     `json:"count"`
	Waiting   int     `json:"waiting"`
}

// groupMark begins the line of a group among those of visitors, whose ids are UUIDs.
const groupMark = "#"

// arranged is what a look adds up to at a moment.
type arranged struct {
	order   []string // lines: ids of visitors, and groups by their key behind a mark
	groups  map[string]*GroupView
	marks   []SpotView
	found   int // visitors that the look is for
	waiting int
	inChat  int
}

// arrange puts those that a look is for in order and groups.
func (l *Look) arrange(rows map[string]*GuestView) *arranged {
	a := &arranged{groups: map[string]*GroupView{}}
	found := make([]*GuestView, 0, len(rows))
	places := map[town]*SpotView{}
	for _, g := range rows {
		if g.State == Gone {
			continue
		}
		if !l.shows(g) {
			continue
		}
		found = append(found, g)
		a.waiting += one(g.State == Waits)
		a.inChat += one(g.State == InChat)
		if l.Map && (g.Place.Latitude != 0 || g.Place.Longitude != 0) {
			key := town{g.Place.Country, g.Place.Name}
			m := places[key]
			if m == nil {
				m = &SpotView{Name: g.Place.Name, Country: g.Place.Country, Latitude: g.Place.Latitude, Longitude: g.Place.Longitude}
				places[key] = m
			}
			m.Count++
			m.Waiting += one(g.State == Waits)
		}
	}
	a.found = len(found)
	slices.SortFunc(found, l.compare)
	for _, m := range places {
		a.marks = append(a.marks, *m)
	}
	slices.SortFunc(a.marks, func(x, y SpotView) int {
		return cmp.Or(cmp.Compare(y.Count, x.Count), strings.Compare(x.Name, y.Name), strings.Compare(x.Country, y.Country))
	})
	if l.Group == "" {
		a.order = make([]string, len(found))
		for i, g := range found {
			a.order[i] = g.ID
		}
		return a
	}
	l.grouped(a, found)
	return a
}

// town names a place on the map.
type town struct{ country, name string }

// grouped puts rows that are in order into groups: the group with most in it first.
func (l *Look) grouped(a *arranged, found []*GuestView) {
	members := map[string][]string{}
	money := map[string]map[string]int{}
	for _, g := range found {
		key := l.group(g)
		group := a.groups[key]
		if group == nil {
			group = &GroupView{Key: key, Folded: slices.Contains(l.Folded, key)}
			a.groups[key], money[key] = group, map[string]int{}
		}
		if l.Group == "page" && group.Label == "" {
			group.Label = cmp.Or(g.PageTitle, key)
		}
		group.Count++
		group.Waiting += one(g.State == Waits)
		group.InChat += one(g.State == InChat)
		if g.Basket != nil {
			money[key][g.Basket.Currency]++
			if money[key][g.Basket.Currency] > money[key][group.Money] || group.Money == "" {
				group.Money = g.Basket.Currency
			}
		}
		members[key] = append(members[key], g.ID)
	}
	for _, g := range found {
		// Money of different kinds is not added up.
		if group := a.groups[l.group(g)]; g.Basket != nil && g.Basket.Currency == group.Money {
			group.Cents += g.Basket.Cents
		}
	}
	keys := make([]string, 0, len(members))
	for key := range members {
		keys = append(keys, key)
	}
	slices.SortFunc(keys, func(x, y string) int {
		if l.Group == "state" {
			return cmp.Compare(stateOrder[State(x)], stateOrder[State(y)])
		}
		return cmp.Or(cmp.Compare(a.groups[y].Count, a.groups[x].Count), strings.Compare(x, y))
	})
	for _, key := range keys {
		a.order = append(a.order, groupMark+key)
		if !a.groups[key].Folded {
			a.order = append(a.order, members[key]...)
		}
	}
}

// sameOrder tells looks apart by what decides their order.
func (l *Look) sameOrder(o *Look) bool {
	return l.Search == o.Search && slices.Equal(l.States, o.States) && slices.Equal(l.Countries, o.Countries) && l.Place == o.Place &&
		slices.Equal(l.Departments, o.Departments) && slices.Equal(l.Sources, o.Sources) && slices.Equal(l.Topics, o.Topics) &&
		l.Basket == o.Basket && l.Visits == o.Visits && l.Group == o.Group && slices.Equal(l.Folded, o.Folded) && l.Sort == o.Sort && l.Up == o.Up
}

// sameButView tells looks apart by all but the lines in view.
func (l *Look) sameButView(o *Look) bool {
	return l.sameOrder(o) && l.Open == o.Open && l.Map == o.Map
}

// one counts what is so.
func one(yes bool) int {
	if yes {
		return 1
	}
	return 0
}
