package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Simulated are the colleagues who answer some of the crowd by themselves. Their names
// say what they are.
var Simulated = []Login{
	{access.Operator, "Nils (simulated)", "nils@example.com", []string{"en"}},
	{access.Operator, "Runa (simulated)", "runa@example.com", []string{"en"}},
}

// SeedSimulated adds the simulated colleagues to the team, if they are not in it.
func SeedSimulated(ctx context.Context, s *store.Store, now time.Time) error {
	tables := settings.On(s)
	team, err := tables.Operators(ctx)
	if err != nil {
		return err
	}
	for _, l := range Simulated {
		if slices.ContainsFunc(team, func(o settings.Operator) bool { return o.Email == l.Email }) {
			continue
		}
		hash, err := argon2id.CreateHash(Password, HashCost)
		if err != nil {
			return err
		}
		two := 2
		o := settings.Operator{ID: uuid.NewString(), Email: l.Email, Name: l.Name, Role: l.Role, PasswordHash: hash, CreatedAt: now, Languages: l.Languages, Capacity: &two}
		if err := tables.AddOperator(ctx, o); err != nil {
			return fmt.Errorf("storing a simulated colleague: %w", err)
		}
		departments, err := tables.Departments(ctx)
		if err != nil {
			return err
		}
		for _, d := range departments {
			if d.Name == Freight {
				continue
			}
			d.Members = append(d.Members, settings.Member{OperatorID: o.ID})
			if err := tables.SaveDepartment(ctx, d); err != nil {
				return fmt.Errorf("storing where a simulated colleague works: %w", err)
			}
		}
	}
	return nil
}
