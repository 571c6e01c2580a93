package reports

import (
	"context"

	"stoop/core/access"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
)

// openRoutes adds what other programs read of reports.
func (room *Room) openRoutes(r *httpapi.Routes) {
	httpapi.Keyed(r, httpapi.ReadReports, "/reports", "report", "What the chats of a period add up to", "?from=2026-11-01&to=2026-11-30&by=department&against=before",
		func(ctx context.Context, o access.Actor, in *AskedReport) (Report, error) {
			return room.Report(ctx, o, in.Asked, By(in.By), Against(in.Against), in.RowsOnly)
		})
	httpapi.Keyed(r, httpapi.ReadReports, "/reports/operators", "operators", "What each operator did in a period", "?from=2026-11-01&to=2026-11-30",
		func(ctx context.Context, o access.Actor, in *facts.Asked) (Operators, error) {
			return room.Operators(ctx, o, *in)
		})
}
