package floor

import (
	"context"

	"stoop/core/access"
	"stoop/internal/view"
)

// Team returns the team as it stands: who is there, and with how much.
func (room *Room) Team(ctx context.Context) ([]view.OperatorView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	standings, err := room.Tables.Standings(ctx, room.Now())
	if err != nil {
		return nil, err
	}
	views := []view.OperatorView{}
	for _, o := range s.Team {
		if o.Active {
			views = append(views, view.Operator(o, standings[o.ID], s))
		}
	}
	return views, nil
}

// TeamChanged: somebody of the team came, left or changed their availability.
type TeamChanged struct {
	Type      string              `json:"type" enum:"team"`
	Operators []view.OperatorView `json:"operators"`
}

// SetAvailable stores an operator's own word on taking new chats and tells the
// team and the visitors.
func (room *Room) SetAvailable(ctx context.Context, o access.Actor, available bool) (view.OperatorView, error) {
	if err := room.Tables.SetAvailable(ctx, o.ID, available); err != nil {
		return view.OperatorView{}, err
	}
	if !available {
		room.passAll(ctx, o.ID)
	}
	room.TeamMoved(ctx)
	team, err := room.Team(ctx)
	for _, view := range team {
		if view.ID == o.ID {
			return view, err
		}
	}
	return view.OperatorView{}, err
}

// Reachable takes note of who can be told on a device, and of nobody else.
func (room *Room) Reachable(ctx context.Context, operatorIDs []string) error {
	changed, err := room.Tables.SetReachable(ctx, operatorIDs)
	if changed {
		room.TeamMoved(ctx)
	}
	return err
}

// DidNotCome sets somebody away who was told that a chat waits and is not here, and reports
// whether they were available until then.
func (room *Room) DidNotCome(ctx context.Context, operatorID string) (bool, error) {
	away, err := room.Tables.SetAwayFor(ctx, operatorID, AwayByCall)
	if away {
		room.TeamMoved(ctx)
	}
	return away, err
}

// TeamMoved tells everybody who is there now.
func (room *Room) TeamMoved(ctx context.Context) {
	room.staff.Forget() // before anything that takes time: who asks now must not hear of the team as it was
	if err := room.TellTeam(ctx); err != nil {
		room.Log.Error("who is there could not be told", "error", err)
	}
	room.Notices.Tell(ctx, TeamNotice)
	room.Kick()
}

// TellTeam tells every console who is there now.
func (room *Room) TellTeam(ctx context.Context) error {
	team, err := room.Team(ctx)
	if err == nil {
		room.Near.ToTeam(TeamChanged{Type: "team", Operators: team})
	}
	return err
}
