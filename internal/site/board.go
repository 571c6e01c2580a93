package site

import (
	"context"
	"errors"
	"maps"
	"net/http"
	"slices"
	"time"

	"stoop/core/access"
	"stoop/core/visit"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/site/guests"
)

// SiteMoved brings a console what changed of what it looks at. What is missing is
// as it was.
type SiteMoved struct {
	Type   string `json:"type" enum:"site"`
	Look   string `json:"look"`
	Number int    `json:"number" doc:"1, 2, 3 … for each look: with 1 all of it comes, after a gap it must be asked for anew"`

	Total   int  `json:"total" doc:"On the sites"`
	Found   int  `json:"found" doc:"That the look is for"`
	Waiting int  `json:"waiting"`
	InChat  int  `json:"inChat"`
	Lines   int  `json:"lines" doc:"How long the list is, with its groups"`
	Fresh   int  `json:"fresh" doc:"Who came since the list must not move, and does not stand in it"`
	From    int  `json:"from" doc:"The place of the first line of the order"`
	Ordered bool `json:"ordered" doc:"The order comes along"`

	Order  []string     `json:"order,omitempty" doc:"Lines in view: ids of visitors, and groups by # and their key"`
	Guests []*GuestView `json:"guests,omitempty" doc:"New or changed"`
	Groups []*GroupView `json:"groups,omitempty" doc:"New or changed"`
	Marks  []SpotView   `json:"marks,omitempty"`
	Marked bool         `json:"marked" doc:"The places on the map come along"`
	Open   *OpenGuest   `json:"open,omitempty" doc:"The visitor whose sheet is open"`
}

// OpenGuest is the visitor whose sheet is open.
type OpenGuest struct {
	Guest *GuestView   `json:"guest"`
	Path  []visit.View `json:"path" doc:"Of this visit, in order"`
}

// Line is a console's connection.
type Line interface {
	// ID names the connection.
	ID() string
	// Send sends a message to this console alone.
	Send(message any) error
	// Gone is closed when the connection is.
	Gone() <-chan struct{}
}

// watcher is a console that looks.
type watcher struct {
	line     Line
	operator string
	look     Look

	number int
	all    *arranged             // what the look added up to last
	order  []string              // the whole list, as it was sent last
	from   int                   // of the window that was sent last
	window []string              // that was sent last
	sent   map[string]*GuestView // what the console has
	groups map[string]GroupView
	marks  []SpotView
	open   *GuestView
	last   SiteMoved // its counts
}

// board is what lookers look at.
type board struct {
	rows     map[string]*GuestView
	settings *settings.Settings // by which the rows were made
	move     uint64
	watchers map[watching]*watcher
	total    int // on the sites
	// left are those who have gone and are shown as long as somebody points at them.
	left map[string]time.Time
}

type watching struct{ line, look string }

func newBoard() board {
	return board{rows: map[string]*GuestView{}, watchers: map[watching]*watcher{}, left: map[string]time.Time{}}
}

const (
	// boardEvery is how often a console is told what changed, at most.
	boardEvery = 500 * time.Millisecond
	// looksMost bounds the looks of one connection.
	looksMost = 4
	// leftFor is how long who has gone may still be shown.
	leftFor = time.Minute
)

// Look begins to show a console what it looks at, or shows it something else.
func (room *Room) Look(ctx context.Context, o access.Actor, line Line, l Look) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	l.tidy()
	room.mu.Lock()
	defer room.mu.Unlock()
	key := watching{line.ID(), l.ID}
	w := room.board.watchers[key]
	if w == nil {
		looks := 0
		for k := range room.board.watchers {
			looks += one(k.line == line.ID())
		}
		if looks >= looksMost {
			return problem.New(http.StatusTooManyRequests, "too-many-looks", "This window looks at too much at once", "Reload the page.")
		}
		w = &watcher{line: line, operator: o.ID}
	}
	if w.all != nil && !l.Anew && w.look.sameButView(&l) {
		// Only what is in view moved, as it does many times a second while somebody
		// scrolls: the list stays the one of the last change.
		w.look = l
		room.tell(w, w.all)
		return nil
	}
	if w.number > 0 && !w.look.sameOrder(&l) {
		w.order = nil // another list altogether
	}
	*w = watcher{line: line, operator: o.ID, look: l, order: w.order, sent: map[string]*GuestView{}, groups: map[string]GroupView{}}
	room.board.watchers[key] = w
	room.refreshBoard(s)
	room.show(w, nil)
	return nil
}

// Unlook ends a look.
func (room *Room) Unlook(line Line, id string) {
	room.mu.Lock()
	defer room.mu.Unlock()
	delete(room.board.watchers, watching{line.ID(), id})
}

// showAll tells consoles what changed.
func (room *Room) showAll(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	room.mu.Lock()
	defer room.mu.Unlock()
	room.refreshBoard(s)
	shared := &arrangements{}
	for key, w := range room.board.watchers {
		select {
		case <-w.line.Gone():
			delete(room.board.watchers, key)
			continue
		default:
		}
		if !s.Operators[w.operator].Active {
			delete(room.board.watchers, key)
			continue
		}
		room.show(w, shared)
	}
	return nil
}

// refreshBoard makes the rows anew of those who changed.
func (room *Room) refreshBoard(s *settings.Settings) {
	b, now := &room.board, room.Now()
	if b.settings != s {
		b.settings, b.move = s, 0
	}
	if b.move == 0 {
		clear(b.rows)
		clear(b.left)
		b.total = 0
	}
	gone, move := room.Guests.Since(b.move, func(g *guests.Guest) {
		if g.Device.Kind == visit.Bot {
			return
		}
		before := b.rows[g.Visit.VisitorID]
		row := room.guestView(s, g, now)
		b.total += one(before == nil || before.State == Gone)
		room.tellInvitation(s, before, row)
		delete(b.left, row.ID)
		b.rows[row.ID] = row
	})
	b.move = move
	for _, id := range gone {
		if row := b.rows[id]; row != nil && row.State != Gone {
			left := *row
			left.State, left.StateSince = Gone, now
			b.rows[id], b.left[id] = &left, now
			b.total--
		}
	}
	for id, at := range b.left {
		if now.Sub(at) > leftFor {
			delete(b.rows, id)
			delete(b.left, id)
		}
	}
}

// arrangements are those that were worked out at a moment. A nil one keeps none.
type arrangements struct {
	looks []*Look
	of    []*arranged
}

// arrange returns what a look adds up to; what several look at alike is worked out
// once.
func (all *arrangements) arrange(l *Look, rows map[string]*GuestView) *arranged {
	if all == nil {
		return l.arrange(rows)
	}
	for i, other := range all.looks {
		if other.sameOrder(l) && other.Map == l.Map {
			return all.of[i]
		}
	}
	a := l.arrange(rows)
	all.looks, all.of = append(all.looks, l), append(all.of, a)
	return a
}

// show tells a console what changed for it.
func (room *Room) show(w *watcher, shared *arrangements) {
	room.tell(w, shared.arrange(&w.look, room.board.rows))
}

// tell tells a console how what it looks at differs from what it has.
func (room *Room) tell(w *watcher, a *arranged) {
	b := &room.board
	w.all = a
	if w.order == nil || !w.look.Steady {
		w.order = a.order
	}
	order := w.order
	m := SiteMoved{Type: "site", Look: w.look.ID, Total: b.total, Found: a.found, Waiting: a.waiting, InChat: a.inChat, Lines: len(order), From: min(w.look.From, len(order))}
	if w.look.Steady {
		m.Fresh = fresh(order, a.order)
	}
	window := order[m.From:min(w.look.To, len(order))]
	if w.number == 0 || m.From != w.from || !slices.Equal(window, w.window) {
		m.Ordered, m.Order = true, window
	}
	inView := make(map[string]bool, len(window))
	for _, line := range window {
		if key, group := cutMark(line); group {
			now, there := a.groups[key]
			if !there {
				now = &GroupView{Key: key, Label: w.groups[key].Label}
			}
			if before, had := w.groups[key]; !had || before != *now {
				w.groups[key] = *now
				m.Groups = append(m.Groups, now)
			}
			continue
		}
		inView[line] = true
		if row := b.rows[line]; row != nil && w.sent[line] != row {
			w.sent[line] = row
			m.Guests = append(m.Guests, row)
		}
	}
	maps.DeleteFunc(w.sent, func(id string, _ *GuestView) bool { return !inView[id] })
	if w.look.Map && (w.number == 0 || !slices.Equal(a.marks, w.marks)) {
		w.marks, m.Marks, m.Marked = a.marks, a.marks, true
	}
	if row := b.rows[w.look.Open]; w.look.Open != "" && row != nil && row != w.open {
		w.open = row
		if g, here := room.Guests.Guest(w.look.Open); here {
			m.Open = &OpenGuest{Guest: row, Path: g.Visit.Stay.Views}
		} else {
			m.Open = &OpenGuest{Guest: row, Path: []visit.View{}}
		}
	}
	if w.number > 0 && !m.Ordered && !m.Marked && m.Open == nil && len(m.Guests) == 0 && len(m.Groups) == 0 && w.last.same(m) {
		return
	}
	w.number++
	m.Number = w.number
	w.from, w.window, w.last = m.From, slices.Clone(window), m
	if err := w.line.Send(m); err != nil && !errors.Is(err, context.Canceled) {
		// The console is on its way out; it asks anew when it is back.
		delete(b.watchers, watching{w.line.ID(), w.look.ID})
	}
}

// same reports whether the counts of two messages are.
func (m SiteMoved) same(o SiteMoved) bool {
	return m.Total == o.Total && m.Found == o.Found && m.Waiting == o.Waiting && m.InChat == o.InChat && m.Lines == o.Lines && m.Fresh == o.Fresh
}

func cutMark(line string) (key string, group bool) {
	if len(line) > 0 && line[:1] == groupMark {
		return line[1:], true
	}
	return line, false
}

// fresh counts the visitors of an order who do not stand in the one that is held.
func fresh(held, now []string) int {
	stands := make(map[string]bool, len(held))
	for _, line := range held {
		stands[line] = true
	}
	n := 0
	for _, line := range now {
		if _, group := cutMark(line); !group && !stands[line] {
			n++
		}
	}
	return n
}
