package measure

import (
	"time"

	"stoop/core/chat"
)

// helperBegan ends the wait: with the helper alone nobody waits for a person.
func (m *meter) helperBegan(before chat.State, d chat.Detail, at time.Time) {
	c := &m.chat
	if d.Helper.Beside {
		if c.Helper == NoHelp {
			c.Helper = HelpAside
		}
		return
	}
	c.Helper = HelpFirst
	m.endWait(at)
	m.release(before, at, PutBack)
	m.owed(at)
	if m.turn == chat.TeamTurn {
		c.Turns-- // the helper's to answer
	}
	m.live, m.turn = false, chat.NobodysTurn
}

// helperLeft begins the wait of somebody who was with the helper alone: what they asked
// it, they ask the team from now on.
func (m *meter) helperLeft(before chat.State, at time.Time) {
	if !before.WithHelperAlone() {
		return
	}
	c := &m.chat
	if before.TakenAt.IsZero() {
		c.Arrived, m.waited = at, 0
	}
	if m.turn != chat.TeamTurn {
		c.Turns++
	}
	m.live, m.waitFrom, m.turn, m.turnSince = true, at, chat.TeamTurn, at
}
