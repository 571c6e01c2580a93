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
	tables := settings.On(s)
	topic := func(name string, points, most int, pages ...string) visit.Topic {
		return visit.Topic{Name: name, Pages: pages, Points: points, Most: most}
	}
	_, err := settings.SiteDocument.Change(ctx, tables, func(site *settings.SiteSettings) error {
		site.Zone, site.Privacy.QueryParameters = TimeZone, []string{"from", "to"}
		site.Interest.Topics = []visit.Topic{
			topic("Booking", 12, 40, "/book*"), topic("Fares", 6, 12, "/fares*"), topic("Freight", 10, 30, "/freight*"),
			topic("Animals", 5, 10, "/animals*"), topic("Timetable", 3, 6, "/timetable*"), topic("Own booking", 6, 12, "/my-booking*"),
		}
		return nil
	})
	if err != nil {
		return err
	}
	rule := func(id, name, words string, pages []string, change func(*invite.InvitationRule), conditions ...routing.Condition) invite.InvitationRule {
		r := invite.InvitationRule{ID: id, Name: name, On: true, Match: routing.All, Conditions: conditions, Pages: pages, Text: words, Share: 100}
		if change != nil {
			change(&r)
		}
		return r
	}
	rules := []invite.InvitationRule{
		rule("5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0001", "Stuck while paying", "Can I help you finish the booking?", []string{"/book/pay*"}, func(r *invite.InvitationRule) {
			r.Department, r.Other = h.departments[Bookings], "Is anything unclear about the price or the sailing? I am here."
			r.Share = 80
		}, routing.Condition{Field: "page.seconds", Operator: routing.AtLeast, Value: "75"}),
		rule("5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0002", "Long at the freight rates", "A lorry to plan? Tell me its length and I look for deck space.", []string{"/freight*"}, func(r *invite.InvitationRule) {
			r.Department = h.departments[Freight]
		}, routing.Condition{Field: "page.seconds", Operator: routing.AtLeast, Value: "90"}),
	}
	_, err = settings.InvitationsDocument.Change(ctx, tables, func(s *settings.InvitationSettings) error {
		s.Rules = rules
		return nil
	})
	if err != nil {
		return err
	}
	_, err = settings.SiteDataDocument.Change(ctx, tables, func(d *settings.SiteData) error {
		d.Fields = []settings.SiteField{{Name: "party", Label: "Travelling"}, {Name: "vehicle", Label: "Vehicle"}, {Name: "tier", Label: "Loyalty tier"}}
		return nil
	})
	return err
}
