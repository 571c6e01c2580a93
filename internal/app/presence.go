package app

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/jobs"
	"stoop/internal/store"
)

const (
	// beatEvery is how often a server says that it lives.
	beatEvery = 5 * time.Second
	// OperatorGrace is how long an operator who lost their connection keeps
	// their chats: a reload, a tunnel, a laptop that changes the room.
	OperatorGrace = 45 * time.Second
)

// Connected takes note that a party has a connection to this server.
func (a *App) Connected(ctx context.Context, connectionID string, p chat.Party) {
	a.mu.Lock()
	a.connections[connectionID] = p
	a.mu.Unlock()
	// If the database does not answer, the next beat puts it right.
	if err := a.store.Connect(ctx, a.node, connectionID, p); err != nil {
		a.log.Warn("a connection could not be noted yet", "error", err)
	}
	a.moved(ctx, p)
}

// Disconnected takes note that a connection ended. When it was the party's last
// one, the time begins after which their chats go back, or theirs is missed.
func (a *App) Disconnected(ctx context.Context, connectionID string, p chat.Party) {
	a.mu.Lock()
	delete(a.connections, connectionID)
	a.mu.Unlock()
	now := a.now()
	err := a.store.Disconnect(ctx, connectionID, p, now, func(ctx context.Context, tx pgx.Tx) error { return a.lost(ctx, tx, p, now) })
	if err != nil {
		a.log.Warn("the end of a connection could not be noted yet", "error", err)
	}
	a.moved(ctx, p)
}

func (a *App) moved(ctx context.Context, p chat.Party) {
	if p.Side == chat.TeamSide {
		a.TeamMoved(ctx)
	} else {
		a.announcePlace(ctx, p.ID)
	}
}

// lost enqueues what follows when a party does not come back.
func (a *App) lost(ctx context.Context, tx pgx.Tx, p chat.Party, now time.Time) error {
	if p.Side == chat.TeamSide {
		return a.jobs.Add(ctx, tx, jobs.OwnerGone{OperatorID: p.ID}, now.Add(a.grace))
	}
	gone, err := a.visitorGrace(ctx, p.ID)
	if err != nil {
		return err
	}
	return a.jobs.Add(ctx, tx, jobs.VisitorGone{VisitorID: p.ID}, now.Add(gone))
}

func (a *App) visitorGrace(ctx context.Context, visitorID string) (time.Duration, error) {
	v, err := a.store.Visitor(ctx, visitorID)
	if err != nil {
		return 0, err
	}
	w, err := a.widget(ctx, v.WidgetID)
	return time.Duration(w.GoneSeconds) * time.Second, err
}

// beat keeps this server alive in the eyes of the others, and time going for
// everybody, until the context ends.
func (a *App) beat(ctx context.Context) {
	second := time.NewTicker(time.Second)
	defer second.Stop()
	var beaten, swept time.Time
	for {
		if now := time.Now(); now.Sub(beaten) >= beatEvery {
			beaten = now
			a.beatOnce(ctx)
			a.inTime(ctx, "silent visitors", a.silentVisitors)
			a.inTime(ctx, "messages left", a.tellOfMessages)
		}
		if now := time.Now(); now.Sub(swept) >= sweepEvery {
			swept = now
			a.inTime(ctx, "files that nobody needs", a.sweepFiles)
		}
		a.hoursTurned(ctx)
		if err := a.jobs.WakeLate(ctx, time.Now()); err != nil && ctx.Err() == nil {
			a.log.Warn("due jobs could not be looked for", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-second.C:
		}
	}
}

// sweepEvery is how often files are looked for that nobody needs.
const sweepEvery = 6 * time.Hour

// inTime does what must be done again and again; what fails is done next time.
func (a *App) inTime(ctx context.Context, what string, do func(context.Context) error) {
	if err := do(ctx); err != nil && ctx.Err() == nil {
		a.log.Error("something could not be done in time, and is tried again", "what", what, "error", err)
	}
}

func (a *App) beatOnce(ctx context.Context) {
	a.mu.Lock()
	connections := make(map[string]chat.Party, len(a.connections))
	for id, p := range a.connections {
		connections[id] = p
	}
	a.mu.Unlock()
	if err := a.store.Beat(ctx, a.node, connections); err != nil {
		if ctx.Err() == nil {
			a.log.Error("this server could not say that it lives", "error", err)
		}
		return
	}
	now, team := a.now(), false
	err := a.store.Reap(ctx, now, func(ctx context.Context, tx pgx.Tx, p chat.Party) error {
		team = team || p.Side == chat.TeamSide
		return a.lost(ctx, tx, p, now)
	})
	if err != nil && ctx.Err() == nil {
		a.log.Error("servers that died could not be looked for", "error", err)
	}
	if team {
		a.TeamMoved(ctx)
	}
	a.kick() // nothing may wait for an event that was missed
}

// SetAvailable stores an operator's own word on taking new chats and tells the
// team and the visitors.
func (a *App) SetAvailable(ctx context.Context, o store.Operator, available bool) (OperatorView, error) {
	if err := a.store.SetAvailable(ctx, o.ID, available); err != nil {
		return OperatorView{}, err
	}
	if !available {
		a.passAll(ctx, o.ID)
	}
	a.TeamMoved(ctx)
	team, err := a.team(ctx)
	for _, view := range team {
		if view.ID == o.ID {
			return view, err
		}
	}
	return OperatorView{}, err
}

// TeamMoved tells everybody who is there now.
func (a *App) TeamMoved(ctx context.Context) {
	a.tellTeam(ctx)
	a.notify(ctx, store.TeamChanged)
	a.kick()
}

func (a *App) tellTeam(ctx context.Context) {
	team, err := a.team(ctx)
	if err != nil {
		a.log.Error("who is there could not be read", "error", err)
		return
	}
	a.live.ToTeam(TeamChanged{Type: "team", Operators: team})
}
