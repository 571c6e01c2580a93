package account

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/visit"
)

// Session is one place in which somebody is logged in.
type Session struct {
	ID      string    `json:"id" doc:"By which it is ended; it opens nothing"`
	Began   time.Time `json:"began"`
	Address string    `json:"address"`
	Device  string    `json:"device" doc:"Browser and system, as far as it says"`
	This    bool      `json:"this" doc:"The one that asks"`
}

// began notes where somebody logged in.
func (room *Room) began(ctx context.Context, operatorID, token, address, agent string) error {
	pool := room.Settings.Tables.Pool()
	// What is over is forgotten here, so that nothing has to sweep; not what began a moment
	// ago: its session is stored after this.
	if _, err := pool.Exec(ctx, `delete from operator_sessions o where operator_id = $1 and began_at < $2
		and not exists (select from sessions s where s.token = o.token and s.expiry > now())`, operatorID, room.Now().Add(-time.Hour)); err != nil {
		return err
	}
	agent = chat.CleanLine(agent, 400) // browsers send what they like
	_, err := pool.Exec(ctx, "insert into operator_sessions (token, operator_id, began_at, address, agent) values ($1, $2, $3, $4, $5) on conflict (token) do nothing", token, operatorID, room.Now(), address, agent)
	return err
}

// Sessions returns where somebody is logged in, the newest first.
func (room *Room) Sessions(ctx context.Context, by access.Actor, token string) ([]Session, error) {
	rows, err := room.Settings.Tables.Pool().Query(ctx, `select o.token, o.began_at, o.address, o.agent from operator_sessions o
		join sessions s on s.token = o.token and s.expiry > now() where o.operator_id = $1 order by o.began_at desc limit 100`, by.ID)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	list := []Session{}
	for rows.Next() {
		var s Session
		var of, agent string
		if err := rows.Scan(&of, &s.Began, &s.Address, &agent); err != nil {
			return nil, err
		}
		device := visit.DeviceOf(agent)
		s.ID, s.This, s.Device = of, of == token, device.Browser
		if device.System != "" {
			s.Device += ", " + device.System
		}
		list = append(list, s)
	}
	return list, rows.Err()
}

// EndSession logs somebody out in one of the places; with no id in all but the one that
// asks.
func (room *Room) EndSession(ctx context.Context, by access.Actor, token, id string) error {
	tokens, err := room.Settings.Tables.IDs(ctx, "select token from operator_sessions where operator_id = $1", by.ID)
	if err != nil {
		return err
	}
	var ended []string
	for _, of := range tokens {
		if of != token && (id == "" || of == id) {
			ended = append(ended, of)
		}
	}
	if err := room.end(ctx, ended); err != nil {
		return err
	}
	room.Log.Info("sessions were ended", "operator", by.ID, "sessions", len(ended))
	room.Live.Reconnect(by.ID)
	return nil
}

func (room *Room) end(ctx context.Context, tokens []string) error {
	if _, err := room.Settings.Tables.Pool().Exec(ctx, "delete from sessions where token = any($1)", tokens); err != nil {
		return err
	}
	_, err := room.Settings.Tables.Pool().Exec(ctx, "delete from operator_sessions where token = any($1)", tokens)
	return err
}

// endAll logs somebody out everywhere.
func (room *Room) endAll(ctx context.Context, operatorID string) error {
	tokens, err := room.Settings.Tables.IDs(ctx, "select token from operator_sessions where operator_id = $1", operatorID)
	if err == nil {
		err = room.end(ctx, tokens)
	}
	return err
}
