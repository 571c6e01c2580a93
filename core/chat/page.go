package chat

import (
	"cmp"
	"net/url"
	"slices"
	"strings"
	"time"
)

// The acts in this file show a visitor a page: it is offered to them, and their own tab goes
// there only when they say so.

// Page is a page of the site that the team shows a visitor.
type Page struct {
	URL   string `json:"url"`
	Title string `json:"title"`
}

// How far the showing of a page has come.
const (
	PageWaits = "offered" // for the visitor's word
	PageGoing = "going"   // they said yes; their tab is on its way
	PageThere = "there"   // they look at it
	PageAway  = "left"    // they went elsewhere by themselves
)

// What becomes of a page that is offered.
const (
	PageAccepted  = "accepted"
	PageDeclined  = "declined"
	PageReached   = "reached"   // the visitor's tab is there
	PageLeft      = "left"      // it is somewhere else
	PageBack      = "back"      // the visitor ends it
	PageEnded     = "ended"     // the team ends it
	PageWithdrawn = "withdrawn" // the team takes the offer back
)

// Showing is a page that is shown to the visitor, or offered.
type Showing struct {
	Page
	Number int64  `json:"number"`         // of the event that offered it
	Stage  string `json:"stage"`          // how far it has come
	From   string `json:"from,omitempty"` // where they were when they said yes: there they go back to
	Moves  int    `json:"moves,omitempty"`
}

const (
	// addressMost bounds an address, in code points, and pageTitleMost its title.
	addressMost   = 2000
	pageTitleMost = 160
	// pageMovesMost bounds how often the coming and going of one page is put down.
	pageMovesMost = 50
)

// OfferPage offers the visitor a page. One that is offered already is offered no longer; where
// one is shown, the visitor goes back from the new one to where they were before both.
func (s State) OfferPage(by Party, clientID string, p Page, now time.Time) (Event, error) {
	if by.Side != TeamSide {
		return Event{}, ErrNotYours
	}
	if err := s.mayTalk(by); err != nil {
		return Event{}, err
	}
	if s.Message {
		return Event{}, ErrIsMessage
	}
	if s.Over != nil {
		return Event{}, ErrNotOnSite
	}
	at, err := url.Parse(strings.TrimSpace(p.URL))
	if err != nil || at.Scheme != "http" && at.Scheme != "https" || at.Host == "" || at.User != nil || len(p.URL) > addressMost {
		return Event{}, ErrNoAddress
	}
	page := Page{URL: at.String(), Title: CleanLine(p.Title, pageTitleMost)}
	if page.Title == "" {
		page.Title = at.Host + at.Path
	}
	return s.next(Event{Kind: PageOffered, By: by, ClientID: clientID, Detail: &Detail{Page: &page}}, now), nil
}

// AnswerPage is the visitor's word on a page that is offered. Where they are is kept
// for the way back. Saying the same again changes nothing.
func (s State) AnswerPage(by Party, number int64, yes bool, from string, now time.Time) ([]Event, error) {
	if by.Side != VisitorSide || by.ID != s.Visitor {
		return nil, ErrNotYours
	}
	if s.Showing == nil || s.Showing.Number != number {
		return nil, ErrNoPage
	}
	if s.Showing.Stage != PageWaits {
		return nil, nil
	}
	if !yes {
		return s.movesPage(by, PageDeclined, nil, now), nil
	}
	way := &Showing{From: cmp.Or(s.Showing.From, CleanLine(from, addressMost))}
	return s.movesPage(by, PageAccepted, way, now), nil
}

// PageAt puts down where the tab is that a page is shown in: that it has come there, or has gone
// elsewhere. Back where they were, the visitor has ended it.
func (s State) PageAt(by Party, number int64, address string, now time.Time) []Event {
	p := s.Showing
	if by.Side != VisitorSide || by.ID != s.Visitor || p == nil || p.Number != number || p.Stage == PageWaits || p.Moves >= pageMovesMost {
		return nil
	}
	there := SamePage(address, p.URL)
	switch {
	case there && p.Stage != PageThere:
		return s.movesPage(by, PageReached, nil, now)
	case !there && p.Stage != PageGoing && SamePage(address, p.From):
		return s.movesPage(by, PageBack, nil, now)
	case !there && p.Stage == PageThere:
		return s.movesPage(by, PageLeft, nil, now)
	}
	return nil
}

// EndPage ends the showing of a page, by the visitor or by who speaks for the team; an offer is
// taken back. Doing so again changes nothing.
func (s State) EndPage(by Party, number int64, now time.Time) ([]Event, error) {
	if by.Side == VisitorSide && by.ID != s.Visitor {
		return nil, ErrNotYours
	}
	if by.Side == TeamSide {
		if err := s.mayTalk(by); err != nil {
			return nil, err
		}
	}
	if s.Showing == nil || s.Showing.Number != number {
		return nil, nil
	}
	how := PageEnded
	switch {
	case by.Side == VisitorSide && s.Showing.Stage == PageWaits:
		how = PageDeclined
	case by.Side == VisitorSide:
		how = PageBack
	case s.Showing.Stage == PageWaits:
		how = PageWithdrawn
	}
	return s.movesPage(by, how, nil, now), nil
}

func (s State) movesPage(by Party, how string, way *Showing, now time.Time) []Event {
	return []Event{s.next(Event{Kind: PageMoved, By: by, UpTo: s.Showing.Number, Detail: &Detail{How: how, Showing: way}}, now)}
}

// SamePage reports whether an address is that of a page: the same site and path, with at least
// the same parameters. What stands behind a # is a place on the page.
func SamePage(address, page string) bool {
	a, err := url.Parse(address)
	if err != nil {
		return false
	}
	p, err := url.Parse(page)
	if err != nil || !strings.EqualFold(a.Host, p.Host) || strings.TrimRight(a.Path, "/") != strings.TrimRight(p.Path, "/") || p.Host == "" {
		return false
	}
	has := a.Query()
	for name, values := range p.Query() {
		if !slices.Equal(has[name], values) {
			return false
		}
	}
	return true
}

// page applies PageOffered and PageMoved.
func (s State) page(e Event, d Detail) State {
	if e.Kind == PageOffered {
		p := &Showing{Page: *d.Page, Number: e.Number, Stage: PageWaits}
		if s.Showing != nil {
			p.From = s.Showing.From
		}
		s.Showing = p
		return s
	}
	p := *s.Showing
	p.Moves++
	switch d.How {
	case PageAccepted:
		p.Stage, p.From = PageGoing, d.Showing.From
	case PageReached:
		p.Stage = PageThere
	case PageLeft:
		p.Stage = PageAway
	default:
		s.Showing = nil
		return s
	}
	s.Showing = &p
	return s
}

func (s State) pageFits(e Event, d Detail) bool {
	speaks := e.By.Side == TeamSide && e.By.ID != "" && s.Phase == Active && (e.By.ID == s.Owner || s.isGuest(e.By.ID))
	visitor := e.By.Side == VisitorSide && e.By.ID != "" && e.By.ID == s.Visitor
	if e.Kind == PageOffered {
		return speaks && d.Page != nil && d.Page.URL != ""
	}
	if s.Showing == nil || e.UpTo != s.Showing.Number {
		return false
	}
	waits := s.Showing.Stage == PageWaits
	switch d.How {
	case PageAccepted:
		return visitor && waits && d.Showing != nil
	case PageDeclined:
		return visitor && waits
	case PageReached, PageLeft, PageBack:
		return visitor && !waits
	case PageWithdrawn:
		return speaks && waits
	case PageEnded:
		return speaks && !waits
	}
	return false
}
