package demo

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"stoop/core/acting"
	"stoop/core/routing"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// SeedRules gives the ferry line two rules that act, unless an admin has made some.
func SeedRules(ctx context.Context, s *store.Store) error {
	tables := settings.On(s)
	now, err := settings.ActingDocument.Read(ctx, tables)
	if err != nil || now.Version != "" {
		return err
	}
	departments, err := tables.Departments(ctx)
	if err != nil {
		return err
	}
	freight := []string{}
	for _, d := range departments {
		if d.Name == Freight {
			freight = append(freight, d.ID)
		}
	}
	rule := func(r acting.ActingRule) acting.ActingRule {
		r.ID, r.On, r.Match, r.If = uuid.NewSHA1(uuid.NameSpaceURL, []byte(r.Name)).String(), true, routing.All, []routing.Condition{}
		r.Tidy()
		return r
	}
	_, err = settings.ActingDocument.Change(ctx, tables, func(d *settings.ActingSettings) error {
		d.Rules = []acting.ActingRule{
			rule(acting.ActingRule{Name: "Look into poor ratings", When: acting.RatedLow, Do: []acting.RuleAct{
				{Kind: acting.Tag, Tag: "complaint"}, {Kind: acting.Ticket, Text: "Look into a poor rating", Urgency: "high"},
			}}),
			rule(acting.ActingRule{Name: "Freight that waits long", When: acting.Waits, Seconds: 120, Departments: freight, Do: []acting.RuleAct{
				{Kind: acting.Priority, Priority: 5}, {Kind: acting.Say, Text: "We have not forgotten you: freight takes a little longer today."},
			}}),
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("storing the demo's rules: %w", err)
	}
	return nil
}
