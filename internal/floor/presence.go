package floor

import (
	"context"
	"maps"
	"time"

	"stoop/core/chat"
	"stoop/internal/again"
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
func (room *Room) Connected(ctx context.Context, connectionID string, p chat.Party, stays func() bool) {
	room.mu.Lock()
	here := stays == nil || stays()
	if here {
		room.connections[connectionID] = p
	}
	room.mu.Unlock()
	if !here {
		return
	}
	room.betweenBeats(func() {
		// If the database does not answer, the next beat puts it right.
		if err := room.Tables.Connect(ctx, room.Node, connectionID, p); err != nil {
			room.Log.Warn("a connection could not be noted yet", "error", err)
		}
	})
	room.mu.Lock()
	_, here = room.connections[connectionID]
	room.mu.Unlock()
	if !here { // it ended while it was being noted
		room.ended(ctx, connectionID, p)
	}
	room.moved(ctx, p)
}

// Disconnected takes note that a connection ended. When it was the party's last
// one, the time begins after which their chats go back, or theirs is missed.
func (room *Room) Disconnected(ctx context.Context, connectionID string, p chat.Party) {
	room.mu.Lock()
	delete(room.connections, connectionID)
	stopping := room.stopping
	room.mu.Unlock()
	if stopping {
		return // the whole server takes its leave, with all its connections
	}
	room.ended(ctx, connectionID, p)
	room.moved(ctx, p)
}

func (room *Room) ended(ctx context.Context, connectionID string, p chat.Party) {
	room.betweenBeats(func() {
		if err := room.Tables.Disconnect(ctx, connectionID, p, room.Now()); err != nil {
			room.Log.Warn("the end of a connection could not be noted yet", "error", err)
		}
	})
}

// betweenBeats notes one connection while no beat is under way: a beat writes
// all connections as they were when it began, and would undo it.
func (room *Room) betweenBeats(note func()) {
	room.beating.RLock()
	defer room.beating.RUnlock()
	note()
}

func (room *Room) moved(ctx context.Context, p chat.Party) {
	if p.Side == chat.TeamSide {
		room.TeamMoved(ctx)
	} else {
		room.Site.AnnouncePlace(ctx, p.ID)
	}
}

// beat keeps this server alive in the eyes of the others. Nothing else is done
// here, so that nothing slow lets them take it for dead.
func (room *Room) beat(ctx context.Context) {
	again.Every(ctx, beatEvery, func() {
		again.InTime(ctx, room.Log, "saying that this server lives", room.BeatOnce)
		room.Kick() // nothing may wait for an event that was missed
	})
}

// BeatOnce says once that this server lives, with the connections that it has.
func (room *Room) BeatOnce(ctx context.Context) error {
	room.beating.Lock()
	defer room.beating.Unlock()
	room.mu.Lock()
	connections := maps.Clone(room.connections)
	room.mu.Unlock()
	return room.Tables.Beat(ctx, room.Node, connections)
}
