package guests

import (
	"maps"
	"time"

	"stoop/internal/site/visits"
)

// SetBasket takes note of what somebody is about to buy; nil for nothing. It
// reports whether they are here.
func (r *Registry) SetBasket(visitorID string, basket *visits.Basket, at time.Time) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] {
		return false
	}
	if basket != nil {
		before := int64(0)
		if g.Visit.Basket != nil {
			before = g.Visit.Basket.Cents
		}
		basket.Change = basket.Cents - before
	}
	g.Visit.Basket, g.Visit.Told.Basket = basket, g.Visit.Told.Basket.Next(at)
	g.dirty = true
	r.moved(g)
	return true
}

// SetData takes note of what the site said of somebody: fields that are given replace
// those of before, and what is empty is forgotten. It reports whether they are here.
func (r *Registry) SetData(visitorID string, at time.Time, change func(*visits.Data)) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] {
		return false
	}
	data := visits.Data{Claimed: maps.Clone(g.Visit.Data.Claimed), Vouched: maps.Clone(g.Visit.Data.Vouched)}
	change(&data)
	g.Visit.Data, g.Visit.Told.Data = data, g.Visit.Told.Data.Next(at)
	g.dirty = true
	r.moved(g)
	return true
}

// Invite lets an invitation stand, if none does and nobody serves them; tried is put
// down at any rate.
func (r *Registry) Invite(visitorID string, i *visits.Invitation, tried Invited) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || r.pending[visitorID] || !g.Left.IsZero() || i != nil && (g.Visit.Invited != nil || g.Chat != nil) {
		return false
	}
	g.remember(tried)
	if i != nil {
		r.invited(g, i, tried.At)
	}
	return true
}

// invited lets an invitation stand, another in its place, or none.
func (r *Registry) invited(g *guest, i *visits.Invitation, at time.Time) {
	g.Visit.Invited, g.Visit.Told.Invited = i, g.Visit.Told.Invited.Next(at)
	g.dirty = true
	r.moved(g)
}

// remember puts down an invitation, or a rule that was tried.
func (g *guest) remember(tried Invited) {
	if g.Before = append(g.Before, tried); len(g.Before) > beforeKept {
		g.Before = g.Before[len(g.Before)-beforeKept:]
	}
}

// beforeKept bounds what is remembered of somebody's invitations.
const beforeKept = 60

// Answer takes note of what became of an invitation: it was shown, or it does not
// stand any more, perhaps because it was refused.
func (r *Registry) Answer(visitorID, invitationID string, stands, refused bool, at time.Time) {
	r.mu.Lock()
	defer r.mu.Unlock()
	g := r.guests[visitorID]
	if g == nil || g.Visit.Invited == nil || g.Visit.Invited.ID != invitationID {
		return
	}
	if stands {
		shown := *g.Visit.Invited
		shown.Shown = true
		r.invited(g, &shown, at)
		return
	}
	if refused {
		g.Visit.Told.Refused = g.Visit.Told.Refused.Next(at)
	}
	r.invited(g, nil, at)
}
