package access

import "context"

type actingKey struct{}

// Acting returns a context in which somebody acts: what is changed with it is noted as
// theirs.
func Acting(ctx context.Context, by Actor) context.Context {
	return context.WithValue(ctx, actingKey{}, by)
}

// ActingIn returns who acts in a context; false when nobody of the team does.
func ActingIn(ctx context.Context) (Actor, bool) {
	by, ok := ctx.Value(actingKey{}).(Actor)
	return by, ok
}
