package app

import (
	"context"

	"stoop/internal/store"
)

// SetAvailable stores an operator's own word on taking new chats and tells the
// team and the visitors.
func (a *App) SetAvailable(ctx context.Context, o store.Operator, available bool) (OperatorView, error) {
	if err := a.store.SetAvailable(ctx, o.ID, available); err != nil {
		return OperatorView{}, err
	}
	o.Available = available
	a.TeamMoved(ctx)
	return a.operatorView(o), nil
}

// TeamMoved tells everybody who is there now. The live connections call it
// when an operator comes or leaves.
func (a *App) TeamMoved(ctx context.Context) {
	team, err := a.team(ctx)
	if err != nil {
		a.log.Error("who is there could not be read", "error", err)
		return
	}
	a.live.ToTeam(TeamChanged{Type: "team", Operators: team})
	in, err := a.in(ctx)
	if err != nil {
		a.log.Error("who is there could not be read", "error", err)
		return
	}
	widgets, err := a.store.Widgets(ctx)
	if err != nil {
		a.log.Error("the widgets could not be read", "error", err)
		return
	}
	for _, w := range widgets {
		a.live.ToWidget(w.ID, TeamIn{Type: "in", In: in})
	}
}
