// Package alerts is the room that calls leads: when too many wait, somebody waits too
// long, nobody is there, or a chat was rated low.
package alerts

import (
	"context"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/alert"
	"stoop/internal/again"
	"stoop/internal/notice"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Floor is where it is known who waits and who is there.
type Floor interface {
	// Seen returns how each department stands.
	Seen(ctx context.Context) (map[string]alert.Seen, error)
}

// Post is what sends mail.
type Post interface {
	// SendAlert tells somebody of the team of an alert, soon, if they want such mail, as
	// part of a transaction.
	SendAlert(ctx context.Context, tx pgx.Tx, operatorID, alertID string) error
}

// Near are the browsers of this server.
type Near interface{ ToLeads(message any) }

// Notice tells other servers that alerts began or ended.
const Notice = "alerts"

// AlertsMoved tells leads that alerts began or ended; who shows them asks anew.
type AlertsMoved struct {
	Type string `json:"type" enum:"alerts"`
}

// Tables are those of alerts.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room calls leads. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Settings *settings.Cache
	Floor    Floor
	Post     Post
	Notices  *notice.Board
	Near     Near
	Log      *slog.Logger
	Now      func() time.Time
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.Notices.On(Notice, func(context.Context, string) { room.tellNear() })
}

func (room *Room) tellNear() { room.Near.ToLeads(AlertsMoved{Type: "alerts"}) }

// lookEvery is how often it is looked whether a lead should be called.
const lookEvery = 5 * time.Second

// Run looks whether leads should be called, until the context ends.
func (room *Room) Run(ctx context.Context) {
	again.Every(ctx, lookEvery, func() {
		again.InTime(ctx, room.Log, "whether leads should be called", room.Look)
	})
}
