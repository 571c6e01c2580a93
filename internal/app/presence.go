package app

import (
	"context"
	"maps"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

const (
	// beatEvery is how often a server says that it lives.
	beatEvery = 2 * time.Second
	// OperatorGrace is how long an operator who lost their connection keeps
	// their chats: a reload, a tunnel, a laptop that changes the room.
	OperatorGrace = 45 * time.Second
)

// Connected takes note that a party has a connection to this server, unless it
// does not stay: it may have ended while this was on its way.
func (a *App) Connected(ctx context.Context, connectionID string, p chat.Party, stays func() bool) {
	a.mu.Lock()
	here := stays == nil || stays()
	if here {
		a.connections[connectionID] = p
	}
	a.mu.Unlock()
	if !here {
		return
	}
	a.betweenBeats(func() {
		// If the database does not answer, the next beat puts it right.
		if err := a.store.Connect(ctx, a.node, connectionID, p); err != nil {
			a.log.Warn("a connection could not be noted yet", "error", err)
		}
	})
	a.mu.Lock()
	_, here = a.connections[connectionID]
	a.mu.Unlock()
	if !here { // it ended while it was being noted
		a.ended(ctx, connectionID, p)
	}
	a.moved(ctx, p)
}

// Disconnected takes note that a connection ended. When it was the party's last
// one, the time begins after which their chats go back, or theirs is missed.
func (a *App) Disconnected(ctx context.Context, connectionID string, p chat.Party) {
	a.mu.Lock()
	delete(a.connections, connectionID)
	stopping := a.stopping
	a.mu.Unlock()
	if stopping {
		return // the whole server takes its leave, with all its connections
	}
	a.ended(ctx, connectionID, p)
	a.moved(ctx, p)
}

func (a *App) ended(ctx context.Context, connectionID string, p chat.Party) {
	a.betweenBeats(func() {
		if err := a.store.Disconnect(ctx, connectionID, p, a.now()); err != nil {
			a.log.Warn("the end of a connection could not be noted yet", "error", err)
		}
	})
}

// betweenBeats notes one connection while no beat is under way: a beat writes
// all connections as they were when it began, and would undo it.
func (a *App) betweenBeats(note func()) {
	a.beating.RLock()
	defer a.beating.RUnlock()
	note()
}

func (a *App) moved(ctx context.Context, p chat.Party) {
	if p.Side == chat.TeamSide {
		a.TeamMoved(ctx)
	} else {
		a.announcePlace(ctx, p.ID)
	}
}

// beatTimeout bounds each thing that is done again and again.
const beatTimeout = 20 * time.Second

// beat keeps this server alive in the eyes of the others. Nothing else is done
// here, so that nothing slow lets them take it for dead.
func (a *App) beat(ctx context.Context) {
	every(ctx, beatEvery, func() {
		a.inTime(ctx, "saying that this server lives", a.beatOnce)
		a.kick() // nothing may wait for an event that was missed
	})
}

func (a *App) beatOnce(ctx context.Context) error {
	a.beating.Lock()
	defer a.beating.Unlock()
	a.mu.Lock()
	connections := maps.Clone(a.connections)
	a.mu.Unlock()
	return a.store.Beat(ctx, a.node, connections)
}

// every does something now and again and again, until the context ends.
func every(ctx context.Context, period time.Duration, do func()) {
	tick := time.NewTicker(period)
	defer tick.Stop()
	for ctx.Err() == nil {
		do()
		select {
		case <-ctx.Done():
		case <-tick.C:
		}
	}
}

// inTime does what must be done again and again; what fails is done next time.
func (a *App) inTime(ctx context.Context, what string, do func(context.Context) error) {
	bounded, cancel := context.WithTimeout(ctx, beatTimeout)
	defer cancel()
	if err := do(bounded); err != nil && ctx.Err() == nil {
		a.log.Error("something could not be done in time, and is tried again", "what", what, "error", err)
	}
}

// SetAvailable stores an operator's own word on taking new chats and tells the
// team and the visitors.
func (a *App) SetAvailable(ctx context.Context, o access.Actor, available bool) (OperatorView, error) {
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
	if err := a.tellTeam(ctx); err != nil {
		a.log.Error("who is there could not be told", "error", err)
	}
	a.notify(ctx, store.TeamChanged)
	a.kick()
}

func (a *App) tellTeam(ctx context.Context) error {
	team, err := a.team(ctx)
	if err == nil {
		a.live.ToTeam(TeamChanged{Type: "team", Operators: team})
	}
	return err
}
