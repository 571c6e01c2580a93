package demo

import (
	"context"

	"stoop/core/invite"
	"stoop/core/routing"
	"stoop/core/visit"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// seedWatching stores what is watched on the site: topics, whom to invite, and what
// the site tells of its visitors.
func seedWatching(ctx context.Context, s *store.Store, h house) error {
	cache := &settings.Cache{Tables: settings.On(s)}
	site, text, err := cache.ReadSite(ctx)
	if err != nil {
		return err
	}
	site.Version, site.Zone = "1", TimeZone
	site.Privacy.QueryParameters = []string{"from", "to"}
	topic := func(name string, points, most int, pages ...string) visit.Topic {
		return visit.Topic{Name: name, Pages: pages, Points: points, Most: most}
	}
	site.Interest.Topics = []visit.Topic{
		topic("Booking", 12, 40, "/book*"), topic("Fares", 6, 12, "/fares*"), topic("Freight", 10, 30, "/freight*"),
		topic("Animals", 5, 10, "/animals*"), topic("Timetable", 3, 6, "/timetable*"), topic("Own booking", 6, 12, "/my-booking*"),
	}
	if err := settings.On(s).SaveSite(ctx, text, site); err != nil {
		return err
	}
	invitations, text, err := cache.ReadInvitations(ctx)
	if err != nil {
		return err
	}
	invitations.Version = "1"
	rule := func(id, name, words string, pages []string, change func(*invite.InvitationRule), conditions ...routing.Condition) invite.InvitationRule {
		r := invite.InvitationRule{ID: id, Name: name, On: true, Match: routing.All, Conditions: conditions, Pages: pages, Text: words, Share: 100}
		if change != nil {
			change(&r)
		}
		return r
	}
	invitations.Rules = []invite.InvitationRule{
		rule("5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0001", "Stuck while paying", "Can I help you finish the booking?", []string{"/book/pay*"}, func(r *invite.InvitationRule) {
			r.Department, r.Other = h.departments[Bookings], "Is anything unclear about the price or the sailing? I am here."
			r.Share = 80
		}, routing.Condition{Field: "page.seconds", Operator: routing.AtLeast, Value: "75"}),
		rule("5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0002", "Long at the freight rates", "A lorry to plan? Tell me its length and I look for deck space.", []string{"/freight*"}, func(r *invite.InvitationRule) {
			r.Department = h.departments[Freight]
		}, routing.Condition{Field: "page.seconds", Operator: routing.AtLeast, Value: "90"}),
	}
	if err := settings.On(s).SaveInvitations(ctx, text, invitations); err != nil {
		return err
	}
	data, text, err := cache.ReadSiteData(ctx)
	if err != nil {
		return err
	}
	data.Version = "1"
	data.Fields = []settings.SiteField{{Name: "party", Label: "Travelling"}, {Name: "vehicle", Label: "Vehicle"}, {Name: "tier", Label: "Loyalty tier"}}
	return settings.On(s).SaveSiteData(ctx, text, data)
}
