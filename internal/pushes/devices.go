package pushes

import (
	"context"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/push"
	"stoop/core/visit"
	"stoop/internal/httpapi"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// Pushing is whether and where an operator is told on devices.
type Pushing struct {
	PublicKey string       `json:"publicKey" doc:"For which a browser lets itself be pushed"`
	Devices   []PushDevice `json:"devices"`
}

// PushDevice is a browser that an operator wants to be told in.
type PushDevice struct {
	ID       string     `json:"id"`
	Device   string     `json:"device" doc:"Browser and system, as far as it says"`
	Since    time.Time  `json:"since"`
	PushedAt *time.Time `json:"pushedAt,omitempty" doc:"When its push service last took something"`
	This     bool       `json:"this" doc:"The one that asks"`
}

// PushKeys is what a browser tells of itself, so that it can be pushed.
type PushKeys struct {
	Endpoint string `json:"endpoint" maxLength:"1000" doc:"Of its push service"`
	P256dh   string `json:"p256dh" maxLength:"100"`
	Auth     string `json:"auth" maxLength:"50"`
}

// devicesMost bounds the devices of one person; who adds one more loses the oldest.
const devicesMost = 10

var (
	errEndpoint = problem.New(http.StatusUnprocessableEntity, "push-endpoint", "This browser named no push service that Stoop can reach", "Try another browser.")
	errKeys     = problem.New(http.StatusUnprocessableEntity, "push-keys", "This browser’s keys cannot be read", "Switch push off and on again.")
	errRefused  = problem.New(http.StatusBadGateway, "push-refused", "The push service did not take the message", "Try again, or switch push off and on again on that device.")
)

// alive is a query's condition that the session is there in which a device was added.
const alive = "exists (select from sessions s where s.token = d.token and s.expiry > now())"

// Mine returns where an operator is told; token is that of the session that asks.
func (room *Room) Mine(ctx context.Context, o access.Actor, token string) (Pushing, error) {
	out := Pushing{Devices: []PushDevice{}}
	sender, err := room.sender(ctx)
	if err != nil {
		return out, err
	}
	if out.PublicKey, err = sender.PublicKey(); err != nil {
		return out, err
	}
	rows, err := room.Tables.Pool().Query(ctx, "select d.id::text, d.agent, d.created_at, d.pushed_at, d.token = $2 from push_devices d where d.operator_id = $1 and "+alive+" order by d.created_at desc, d.id", o.ID, token)
	if err != nil {
		return out, err
	}
	var d PushDevice
	_, err = pgx.ForEachRow(rows, []any{&d.ID, &d.Device, &d.Since, &d.PushedAt, &d.This}, func() error {
		is := visit.DeviceOf(d.Device)
		if d.Device = is.Browser; is.System != "" {
			d.Device += ", " + is.System
		}
		out.Devices = append(out.Devices, d)
		return nil
	})
	return out, err
}

// Add lets an operator be told in a browser. A browser tells one person at a time: the last
// who asked for it.
func (room *Room) Add(ctx context.Context, o access.Actor, token, agent string, in PushKeys) (Pushing, error) {
	if _, err := push.NewDevice(in.Endpoint, in.P256dh, in.Auth); err != nil {
		return Pushing{}, errKeys
	}
	if !room.mayReach(in.Endpoint) {
		return Pushing{}, errEndpoint
	}
	err := pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `insert into push_devices as d (id, operator_id, token, endpoint, p256dh, auth, agent, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8)
			on conflict (endpoint) do update set operator_id = excluded.operator_id, token = excluded.token, p256dh = excluded.p256dh, auth = excluded.auth, agent = excluded.agent,
				created_at = case when d.operator_id = excluded.operator_id then d.created_at else excluded.created_at end`,
			uuid.NewString(), o.ID, token, in.Endpoint, in.P256dh, in.Auth, chat.CleanLine(agent, 400), room.Now())
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "delete from push_devices where operator_id = $1 and id not in (select id from push_devices where operator_id = $1 order by created_at desc, id limit $2)", o.ID, devicesMost)
		return err
	})
	if err != nil {
		return Pushing{}, err
	}
	if _, err := room.reach(ctx); err != nil {
		return Pushing{}, err
	}
	return room.Mine(ctx, o, token)
}

// mayReach reports whether an address can be that of a push service: over TLS, but to a
// network that the admin of the machine allowed.
func (room *Room) mayReach(endpoint string) bool {
	at, err := url.Parse(endpoint)
	if err != nil || at.Host == "" || at.User != nil {
		return false
	}
	if at.Scheme == "https" {
		return true
	}
	ip, err := netip.ParseAddr(at.Hostname())
	return err == nil && at.Scheme == "http" && slices.ContainsFunc(room.Fetch.Allowed, func(p netip.Prefix) bool { return p.Contains(ip) })
}

// Remove lets one of an operator's browsers be told nothing more.
func (room *Room) Remove(ctx context.Context, o access.Actor, id string) error {
	if _, err := room.Tables.Pool().Exec(ctx, "delete from push_devices where operator_id = $1 and id = $2", o.ID, id); err != nil {
		return err
	}
	_, err := room.reach(ctx)
	return err
}

// Test tells one of an operator's devices that it can be told, at once.
func (room *Room) Test(ctx context.Context, o access.Actor, id string) error {
	var mine bool
	if err := room.Tables.Pool().QueryRow(ctx, "select exists (select from push_devices where operator_id = $1 and id = $2)", o.ID, id).Scan(&mine); err != nil {
		return err
	}
	if !mine {
		return store.ErrNotFound
	}
	who, err := room.Settings.Tables.OperatorByID(ctx, o.ID)
	if err != nil {
		return err
	}
	m, err := compose(who, "push test", nil)
	if err != nil {
		return err
	}
	m.Tag, m.Path, m.Until = "test", "/desk", room.Now().Add(time.Minute)
	outcome, err := room.deliver(ctx, id, m)
	if err != nil {
		room.Log.Warn("a device could not be told as a test", "operator", o.ID, "error", err)
	}
	if err != nil || outcome != taken {
		return errRefused
	}
	return nil
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/me/push", "pushing", "Where I am told by push",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (Pushing, error) {
			return room.Mine(ctx, o, r.Sessions.Stored(ctx))
		})
	httpapi.Answer(r, http.MethodPut, "/api/me/push", "push-here", "Tell me in this browser",
		func(ctx context.Context, o access.Actor, in *struct {
			Agent string `header:"User-Agent"`
			Body  PushKeys
		}) (Pushing, error) {
			return room.Add(ctx, o, r.Sessions.Stored(ctx), in.Agent, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/me/push/{id}", "push-no-more", "Tell me in one of my browsers no more",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.Remove(ctx, o, in.ID)
		})
	httpapi.Do(r, http.MethodPost, "/api/me/push/{id}/test", "test-push", "Send a test to one of my browsers",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.Test(ctx, o, in.ID)
		})
}
