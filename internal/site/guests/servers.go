package guests

import (
	"slices"
	"strings"
	"time"

	"stoop/core/visit"
	"stoop/internal/site/visits"
)

// atOnce bounds how many visits are stored in one statement.
const atOnce = 1000

// Unsaved returns visits that are not stored yet, some at once, and what to call
// when they could not be.
func (r *Registry) Unsaved() (list []visits.Visit, failed func()) {
	r.mu.Lock()
	defer r.mu.Unlock()
	n := min(len(r.ended), atOnce)
	ended := r.ended[:n:n]
	r.ended = r.ended[n:]
	list = append(list, ended...)
	var taken []string
	for id, g := range r.guests {
		if len(list) >= atOnce {
			break
		}
		if g.dirty && !r.pending[id] {
			g.dirty = false
			v := g.Visit
			v.Stay = g.Visit.Stay.Clone()
			list = append(list, v)
			taken = append(taken, id)
		}
	}
	slices.SortFunc(list, func(a, b visits.Visit) int { return strings.Compare(a.ID, b.ID) })
	return list, func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		r.ended = append(r.ended, ended...)
		for _, id := range taken {
			if g := r.guests[id]; g != nil {
				g.dirty = true
			}
		}
	}
}

// Elsewhere takes over what other servers stored. Whoever talks to another server
// now is theirs; of what is told beside the pages, the last word holds.
func (r *Registry) Elsewhere(list []visits.Visit, now time.Time) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, v := range list {
		g := r.guests[v.VisitorID]
		if g == nil {
			if v.GoneAt != nil || now.Sub(v.SeenAt) > hereForIdle || len(r.guests) >= most {
				continue
			}
			g = &guest{}
			r.guests[v.VisitorID] = g
			r.pending[v.VisitorID] = true // who they are is to be found out
			g.Visit = v
			continue
		}
		if !r.pending[v.VisitorID] && r.takeOver(g, v, now) {
			r.moved(g)
		}
	}
}

// takeOver takes over what another server stored of a guest, and reports whether it
// was news.
func (r *Registry) takeOver(g *guest, v visits.Visit, now time.Time) bool {
	another := g.Visit.ID != v.ID
	standing := g.Visit.Invited
	news := false
	if another && v.StartedAt.Before(g.Visit.StartedAt) || !another && !v.SeenAt.After(g.Visit.SeenAt) {
		news = g.Visit.TakeTold(v)
	} else {
		if another {
			g.Earlier++
		}
		here := g.Visit
		g.Visit, g.Own, g.Left, news = v, false, time.Time{}, true
		g.dirty = g.Visit.TakeTold(here) // what is not stored yet of that still is to be
		g.Device = visit.DeviceOf(v.UserAgent)
		if v.GoneAt != nil {
			g.Left = now
		}
	}
	if i := g.Visit.Invited; i != nil && (standing == nil || standing.ID != i.ID) {
		g.remember(Invited{VisitID: g.Visit.ID, RuleID: i.RuleID, Invites: true, At: i.At})
	}
	return news
}
