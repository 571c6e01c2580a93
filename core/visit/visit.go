// Package visit makes visits of what the pages of a site report: which pages
// somebody looked at and for how long, from where they came, by which device, and
// how much they seem to want something.
//
// It reads no clock: time comes in as an argument, and pages tell durations only,
// so that no browser's clock matters.
package visit

import (
	"slices"
	"time"
)

// Limits of what is kept of one visit. What is beyond is counted and forgotten.
const (
	ViewsKept = 100 // pages of a path: the first, and the last ones
	TabsKept  = 50  // browser tabs at once
)

// Rules say when a visit ends and another begins.
type Rules struct {
	// Silence after which the next page begins another visit. The usual 30 minutes
	// are those of the Web Analytics Association's definitions (2008, "visit").
	Silence time.Duration
	// NewSource begins another visit when somebody comes from another campaign,
	// search or site than before.
	NewSource bool
	// Midnight ends all visits, in the zone.
	Midnight bool
	Zone     *time.Location
}

// Usual are the rules that hold unless an admin says otherwise.
var Usual = Rules{Silence: 30 * time.Minute, NewSource: true, Midnight: true, Zone: time.UTC}

// Report is what a page tells about itself at a moment.
type Report struct {
	Tab   string // names the page in its tab; made by the page for as long as it is loaded
	URL   string
	Title string
	// Source is from where a page says that it was reached; Direct when it was from
	// a page of the same site, or is not known.
	Source Source
	// Attended is how long the visitor has attended to this page so far: it was in
	// view, and they moved something now and then.
	Attended time.Duration
	// Left is how long they attended to the page that stood in the tab before, when this
	// one took its place without being loaded.
	Left time.Duration
	// Idle: the page is out of view, or nothing was moved for a while.
	Idle bool
	At   time.Time
}

// View is one page that was looked at.
type View struct {
	URL      string        `json:"url"`
	Title    string        `json:"title"`
	Since    time.Time     `json:"since"`
	Until    time.Time     `json:"until,omitzero"` // zero while it is open
	Attended time.Duration `json:"attended"`
	Tab      string        `json:"tab,omitempty"`
}

// Tab is a page that is open now.
type Tab struct {
	Seen  time.Time `json:"seen"`
	Idle  bool      `json:"idle,omitempty"`
	Since time.Time `json:"since"` // idle, or not, since then
}

// Stay is one visit, as far as it has gone.
type Stay struct {
	ID      string         `json:"id"`
	Started time.Time      `json:"started"`
	Seen    time.Time      `json:"seen"` // the last sign of life
	Source  Source         `json:"source"`
	Views   []View         `json:"views"` // in the order in which they were opened
	Pages   int            `json:"pages"` // all of them, also those that are not kept
	Tabs    map[string]Tab `json:"tabs"`
	// Earlier is the time attended to pages that are not kept any more.
	Earlier time.Duration `json:"earlier,omitempty"`
}

// reloads is how soon the same page opened again is the same view: a reload, or a
// step back and forth.
const reloads = 10 * time.Second

// Begins reports whether a report belongs to another visit than the one that
// stands. A visit that has not begun is another one.
func (r Rules) Begins(s Stay, p Report) bool {
	switch {
	case s.ID == "" || s.Seen.IsZero():
		return true
	case r.Silence > 0 && p.At.Sub(s.Seen) >= r.Silence:
		return true
	case r.Midnight && day(p.At, r.Zone) != day(s.Seen, r.Zone) && p.At.After(s.Seen):
		return true
	}
	// A page that was silent for a while and speaks again did not come from anywhere.
	known := slices.ContainsFunc(s.Views, func(v View) bool { return v.Tab == p.Tab })
	return r.NewSource && !known && p.Source.Kind != Direct && p.Source != s.Source
}

type date struct {
	year  int
	month time.Month
	day   int
}

func day(t time.Time, zone *time.Location) date {
	if zone == nil {
		zone = time.UTC
	}
	y, m, d := t.In(zone).Date()
	return date{y, m, d}
}

// New begins a visit with its first page.
func New(id string, p Report) Stay {
	s := Stay{ID: id, Started: p.At, Seen: p.At, Source: p.Source, Tabs: map[string]Tab{}}
	s.Take(p)
	return s
}

// Take lets a visit go on by what a page reports. It returns whether the visitor
// went to another page.
func (s *Stay) Take(p Report) (moved bool) {
	if s.Tabs == nil {
		s.Tabs = map[string]Tab{}
	}
	s.seen(p.At)
	tab, open := s.Tabs[p.Tab]
	if !open || tab.Idle != p.Idle {
		tab.Idle, tab.Since = p.Idle, p.At
	}
	tab.Seen = p.At
	at := s.viewIn(p.Tab)
	if at < 0 || s.Views[at].URL != p.URL {
		if at >= 0 {
			before := &s.Views[at]
			before.Until = p.At
			before.Attended = max(before.Attended, min(p.Left, p.At.Sub(before.Since)))
		}
		at, moved = s.open(p), true
	}
	v := &s.Views[at]
	if p.Title != "" && v.Title != p.Title {
		moved = moved || v.Title != ""
		v.Title = p.Title
	}
	// Nobody attends to a page for longer than it has been open.
	v.Attended = max(v.Attended, min(p.Attended, p.At.Sub(v.Since)), 0)
	s.Tabs[p.Tab] = tab
	s.bound(p.Tab)
	return moved
}

// seen moves the last sign of life on, never back: reports may overtake each other.
func (s *Stay) seen(at time.Time) {
	if at.After(s.Seen) {
		s.Seen = at
	}
}

// viewIn returns the place of the view that is open in a tab, or -1.
func (s *Stay) viewIn(tab string) int {
	for i := len(s.Views) - 1; i >= 0; i-- {
		if s.Views[i].Tab == tab && s.Views[i].Until.IsZero() {
			return i
		}
	}
	return -1
}

// open adds a view, or takes up the one that was left a moment ago.
func (s *Stay) open(p Report) int {
	if last := len(s.Views) - 1; last >= 0 {
		if v := &s.Views[last]; v.URL == p.URL && !v.Until.IsZero() && p.At.Sub(v.Until) < reloads {
			v.Until, v.Tab = time.Time{}, p.Tab
			return last
		}
	}
	s.Pages++
	s.Views = append(s.Views, View{URL: p.URL, Title: p.Title, Since: p.At, Tab: p.Tab})
	if len(s.Views) > ViewsKept {
		gone := slices.IndexFunc(s.Views[1:], func(v View) bool { return !v.Until.IsZero() }) + 1
		if gone == 0 {
			gone = 1
		}
		s.Earlier += s.Views[gone].Attended
		s.Views = slices.Delete(s.Views, gone, gone+1)
	}
	return len(s.Views) - 1
}

// bound keeps the tabs that were seen last.
func (s *Stay) bound(keep string) {
	if len(s.Tabs) <= TabsKept {
		return
	}
	oldest := ""
	for id, t := range s.Tabs {
		if id != keep && (oldest == "" || t.Seen.Before(s.Tabs[oldest].Seen)) {
			oldest = id
		}
	}
	s.Leave(oldest, s.Tabs[oldest].Seen)
}

// Leave takes note that a page was closed, or has long not been heard of.
func (s *Stay) Leave(tab string, at time.Time) {
	if _, open := s.Tabs[tab]; !open {
		return
	}
	delete(s.Tabs, tab)
	if i := s.viewIn(tab); i >= 0 {
		s.Views[i].Until = at
	}
	s.seen(at)
}

// Expire closes the pages that have not been heard of since a time. It reports
// whether there were any.
func (s *Stay) Expire(since time.Time) bool {
	expired := false
	for id, t := range s.Tabs {
		if t.Seen.Before(since) {
			seen := s.Seen
			s.Leave(id, t.Seen)
			s.Seen, expired = seen, true
		}
	}
	return expired
}

// Here reports whether a page is open.
func (s *Stay) Here() bool { return len(s.Tabs) > 0 }

// Now returns the page that the visitor looks at: of those that are open, one that
// is not idle before one that is, then the one opened last. If none is open it is
// the one looked at last.
func (s *Stay) Now() View {
	best := -1
	for i, v := range s.Views {
		if best < 0 || s.before(s.Views[best], v) {
			best = i
		}
	}
	if best < 0 {
		return View{}
	}
	return s.Views[best]
}

// before reports whether a view gives way to one that was opened after it.
func (s *Stay) before(a, b View) bool {
	if open := !b.Until.IsZero(); open != !a.Until.IsZero() {
		return !open
	}
	if !a.Until.IsZero() {
		return !b.Until.Before(a.Until)
	}
	if idle := s.Tabs[b.Tab].Idle; idle != s.Tabs[a.Tab].Idle {
		return !idle
	}
	return true
}

// Idle reports whether the visitor does nothing in any of their pages, and since
// when.
func (s *Stay) Idle() (since time.Time, idle bool) {
	for _, t := range s.Tabs {
		if !t.Idle {
			return time.Time{}, false
		}
		if t.Since.After(since) {
			since = t.Since
		}
	}
	return since, len(s.Tabs) > 0
}

// Attended is how long the visitor attended to the pages of the visit, together.
func (s *Stay) Attended() time.Duration {
	sum := s.Earlier
	for _, v := range s.Views {
		sum += v.Attended
	}
	return sum
}

// Clone returns a copy that shares nothing.
func (s *Stay) Clone() Stay {
	c := *s
	c.Views = slices.Clone(s.Views)
	c.Tabs = make(map[string]Tab, len(s.Tabs))
	for id, t := range s.Tabs {
		c.Tabs[id] = t
	}
	return c
}
