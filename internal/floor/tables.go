package floor

import (
	"context"
)

// Nodes returns how many servers live.
func (s Tables) Nodes(ctx context.Context) (int, error) {
	var n int
	err := s.Pool().QueryRow(ctx, "select count(*) from nodes where seen_at > now() - interval '"+aliveFor+"'").Scan(&n)
	return n, err
}
