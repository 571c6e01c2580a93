// Package guests holds in memory who is on the watched sites: what their pages told,
// joined to visits. A page's word costs no query; what changed is stored in batches,
// and what other servers stored is taken over from there.
package guests

import (
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/core/invite"
	"stoop/core/visit"
	"stoop/internal/places"
	"stoop/internal/site/visits"
)

const (
	// hereFor is how long a page counts as open after its last word. The loader gives
	// one every 25 s, so that one may be lost; of a page out of view browsers let it
	// be one a minute.
	hereFor     = 60 * time.Second
	hereForIdle = 150 * time.Second
	// lingers is how long somebody is shown who has closed their last page: on the
	// way to the next one they are nowhere.
	lingers = 5 * time.Second
	// most bounds the visitors who are held at once.
	most = 200_000
	// pendingMost bounds what is kept of somebody until it is known who they are.
	pendingMost = 20
)

// Report is what a page tells, with what the server knows of who tells it.
type Report struct {
	visit.Report
	VisitorID, WidgetID string
	New                 bool // nobody had this id before
	Form                bool // the last thing that they did was in a form
	Referrer            string
	UserAgent           string
	Language            string
	Address             string
	Place               places.Place
}

// Person is what is known of who a visitor is.
type Person struct {
	Name, Email string
	ContactID   string
	Chats       int // that they had before
}

// Chat is the open chat of a visitor.
type Chat struct {
	ID         string
	Phase      string // waiting or active
	Message    bool
	OwnerID    string
	Department string
	Since      time.Time
	Name       string
}

// Guest is somebody who is on a site.
type Guest struct {
	Visit   visits.Visit
	Earlier int // visits before this one
	Person  Person
	Chat    *Chat
	Form    bool
	Own     bool // their pages talk to this server
	Device  visit.Device
	Left    time.Time // closed their last page; zero while one is open
	Before  []Invited // invitations of the last days, and rules that were tried in this visit
}

// Invited is an invitation that somebody got, or a rule that was tried without one.
type Invited struct {
	VisitID, RuleID string
	Invites         bool // false: only counted
	At, Refused     time.Time
}

// History returns what keeps somebody from being invited too often.
func (g *Guest) History() invite.History {
	h := invite.History{Served: g.Chat != nil, Standing: g.Visit.Invited != nil, Refused: g.Visit.Told.Refused.Time}
	for _, b := range g.Before {
		here := b.VisitID == g.Visit.ID
		if here && b.RuleID != "" {
			h.Tried = append(h.Tried, b.RuleID)
		}
		if !b.Invites {
			continue
		}
		h.Week++
		if here {
			h.ThisVisit++
		}
		if b.At.After(h.Last) {
			h.Last = b.At
		}
		if b.Refused.After(h.Refused) {
			h.Refused = b.Refused
		}
	}
	return h
}

// guest is a Guest as it is held.
type guest struct {
	Guest
	dirty   bool // something is not stored yet
	pending []Report
	changed uint64
}

// Registry is who is there. It is safe for concurrent use.
type Registry struct {
	mu      sync.Mutex
	guests  map[string]*guest
	pending map[string]bool // whom it is to be found out about
	ended   []visits.Visit  // visits that are over and not stored yet
	gone    []string        // since they were last asked for
	moves   uint64
}

// New returns an empty registry.
func New() *Registry {
	return &Registry{guests: map[string]*guest{}, pending: map[string]bool{}}
}

// storable returns a time as the database gives it back: what was rounded there would
// be later or earlier than itself.
func storable(t time.Time) time.Time { return t.Truncate(time.Microsecond) }

// moved takes note that something changed that lookers see.
func (r *Registry) moved(g *guest) {
	r.moves++
	g.changed = r.moves
}

// Report takes what a page tells. If it is not known yet who the visitor is, the
// guest is nil until Learn was told. moved reports that they went to another page.
func (r *Registry) Report(rules visit.Rules, p Report) (now *Guest, moved bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	p.At = storable(p.At)
	g := r.guests[p.VisitorID]
	if g == nil {
		if len(r.guests) >= most {
			return nil, false
		}
		g = &guest{}
		g.Visit.VisitorID = p.VisitorID
		r.guests[p.VisitorID] = g
		if !p.New {
			r.pending[p.VisitorID] = true
		}
	}
	if r.pending[p.VisitorID] {
		if len(g.pending) < pendingMost {
			g.pending = append(g.pending, p)
		}
		return nil, false
	}
	moved = r.take(rules, g, p)
	copied := g.Guest
	copied.Visit.Stay = visit.Stay{} // thousands of pages report; who wants the path asks for it
	return &copied, moved
}

// take lets a guest's visit go on, or begins another one.
func (r *Registry) take(rules visit.Rules, g *guest, p Report) (moved bool) {
	v := &g.Visit
	if rules.Begins(v.Stay, p.Report) {
		id, err := uuid.NewV7()
		if err != nil {
			id = uuid.New() // of another kind, and as good
		}
		if v.ID != "" {
			old := *v
			gone := v.Stay.Seen
			old.GoneAt = &gone
			r.ended = append(r.ended, old)
			g.Earlier++
		}
		stay := visit.New(id.String(), p.Report)
		*v = visits.Visit{ID: stay.ID, VisitorID: p.VisitorID, StartedAt: p.At, Stay: stay, Referrer: p.Referrer, Basket: v.Basket, Data: v.Data, Told: v.Told}
		moved = true
	} else {
		moved = v.Stay.Take(p.Report)
	}
	g.Form = p.Form
	v.WidgetID, v.UserAgent, v.Language, v.Address, v.Place = p.WidgetID, p.UserAgent, p.Language, p.Address, p.Place
	if g.Device == (visit.Device{}) {
		g.Device = visit.DeviceOf(p.UserAgent)
	}
	page := v.Stay.Now()
	v.PageURL, v.PageTitle, v.PageSince, v.SeenAt, v.GoneAt = page.URL, page.Title, page.Since, v.Stay.Seen, nil
	g.Own, g.dirty, g.Left = true, true, time.Time{}
	r.moved(g)
	return moved
}

// Leave takes note that a page was closed; it says how long it was attended to.
func (r *Registry) Leave(visitorID, tab string, attended time.Duration, at time.Time) {
	r.mu.Lock()
	defer r.mu.Unlock()
	at = storable(at)
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] {
		return
	}
	if _, open := g.Visit.Stay.Tabs[tab]; !open {
		return
	}
	for i := range g.Visit.Stay.Views {
		if v := &g.Visit.Stay.Views[i]; v.Tab == tab && v.Until.IsZero() {
			v.Attended = max(v.Attended, min(attended, at.Sub(v.Since)))
		}
	}
	g.Visit.Stay.Leave(tab, at)
	g.Own = true // whoever hears of them last stores it
	r.left(g, at)
}

// left follows that a page of somebody is not open any more.
func (r *Registry) left(g *guest, at time.Time) {
	page := g.Visit.Stay.Now()
	g.Visit.PageURL, g.Visit.PageTitle, g.Visit.PageSince, g.Visit.SeenAt = page.URL, page.Title, page.Since, g.Visit.Stay.Seen
	if !g.Visit.Stay.Here() {
		g.Left = at
		g.Visit.GoneAt = &at
	}
	g.dirty = g.dirty || g.Own
	r.moved(g)
}

// Pass lets time pass: pages that have long said nothing are closed, and who has
// left is forgotten. It returns who left for good.
func (r *Registry) Pass(now time.Time) (gone []string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for id, g := range r.guests {
		if r.pending[id] {
			continue
		}
		since := now.Add(-hereFor)
		if _, idle := g.Visit.Stay.Idle(); idle {
			since = now.Add(-hereForIdle)
		}
		if g.Visit.Stay.Expire(since) {
			r.left(g, now)
		}
		if i := g.Visit.Invited; i != nil && now.After(i.Until) {
			r.invited(g, nil, now)
		}
		if !g.Left.IsZero() && now.Sub(g.Left) >= lingers && !g.dirty {
			delete(r.guests, id)
			r.moves++
			r.gone = append(r.gone, id)
			gone = append(gone, id)
		}
	}
	return gone
}

// Unknown returns of whom it is to be found out who they are.
func (r *Registry) Unknown() []string {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Collect(maps.Keys(r.pending))
}

// Learned is what was found out of somebody.
type Learned struct {
	Visits visits.Known
	Person Person
	Before []Invited
}

// storedBy is how long another server may take to store what it heard a moment ago.
const storedBy = 2500 * time.Millisecond

// Learn takes what was found out of those who were asked for. Of whom no visit is
// stored although they bring their id, another server may just have heard for the
// first time: that is waited for, or their visit would be two.
func (r *Registry) Learn(rules visit.Rules, asked []string, found map[string]Learned, now time.Time) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, id := range asked {
		g := r.guests[id]
		if g == nil || !r.pending[id] {
			continue
		}
		l := found[id]
		if l.Visits.Latest.ID == "" && len(g.pending) > 0 && now.Sub(g.pending[0].At) < storedBy {
			continue
		}
		delete(r.pending, id)
		g.Person, g.Before = l.Person, l.Before
		if l.Visits.Latest.ID != "" {
			g.Visit, g.Earlier = l.Visits.Latest, l.Visits.Visits-1
			g.Device = visit.DeviceOf(l.Visits.Latest.UserAgent)
		}
		pending := g.pending
		g.pending = nil
		for _, p := range pending {
			r.take(rules, g, p)
		}
		if g.Visit.ID == "" {
			delete(r.guests, id)
		} else {
			r.moved(g)
		}
	}
}

// Meet takes note of who somebody is.
func (r *Registry) Meet(visitorID string, person Person) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if g := r.guests[visitorID]; g != nil && g.Person != person {
		g.Person = person
		r.moved(g)
	}
}

// SetChats takes note of all open chats, by visitor. It returns who may have gone to another
// page between the beginning of their chat and now: whose page has told something since.
func (r *Registry) SetChats(chats map[string]Chat, now time.Time) (elsewhere []string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for id, g := range r.guests {
		c, open := chats[id]
		switch {
		case !open && g.Chat != nil:
			if !g.Chat.Message {
				g.Person.Chats++
			}
			g.Chat = nil
			r.moved(g)
		case open && (g.Chat == nil || *g.Chat != c):
			if g.Chat == nil && g.Visit.SeenAt.After(c.Since) { // also the title of a page may have changed
				elsewhere = append(elsewhere, id)
			}
			g.Chat = &c
			if g.Visit.Invited != nil {
				r.invited(g, nil, now)
			}
			if c.Name != "" {
				g.Person.Name = c.Name
			}
			r.moved(g)
		}
	}
	return elsewhere
}

// Known implements visits.Here.
func (r *Registry) Known(visitorID string) (visits.Known, bool) {
	g, here := r.Guest(visitorID)
	return visits.Known{Latest: g.Visit, Visits: g.Earlier + 1}, here
}

// Guest returns somebody who is there.
func (r *Registry) Guest(visitorID string) (Guest, bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] || g.Visit.ID == "" {
		return Guest{}, false
	}
	copied := g.Guest
	copied.Visit.Stay = g.Visit.Stay.Clone()
	return copied, true
}

// Standing returns the invitation that stands, to whom it is in the page that they
// look at.
func (r *Registry) Standing(visitorID, tab string) *visits.Invitation {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] || g.Visit.Invited == nil || g.Visit.Stay.Now().Tab != tab {
		return nil
	}
	return g.Visit.Invited
}

// Has reports whether somebody is there and it is known who they are.
func (r *Registry) Has(visitorID string) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.guests[visitorID] != nil && !r.pending[visitorID]
}

// OnSite implements visits.Here: robots are nobody.
func (r *Registry) OnSite() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	n := 0
	for id, g := range r.guests {
		if !r.pending[id] && g.Left.IsZero() && g.Device.Kind != visit.Bot {
			n++
		}
	}
	return n
}

// Since hands over who changed after a move, and returns who has gone since it was last
// asked, and the last move; after move 0 it is everybody. What is handed over is the
// registry's own: it may be read until see returns, and not kept. There is one who
// asks.
func (r *Registry) Since(move uint64, see func(*Guest)) (gone []string, now uint64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if move == r.moves {
		return nil, move
	}
	for id, g := range r.guests {
		if g.changed > move && !r.pending[id] && g.Visit.ID != "" {
			see(&g.Guest)
		}
	}
	gone, r.gone = r.gone, nil
	return gone, r.moves
}
