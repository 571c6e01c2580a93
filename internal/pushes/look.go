package pushes

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/push"
	"stoop/internal/alerts"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
	"stoop/internal/wording"
)

const (
	// lookingLock is the advisory lock under which one server looks.
	lookingLock = 0x570_0b0d
	waitingMost = 1000             // chats at one look
	alertFor    = 2 * time.Hour    // after which nobody is told of it any more
	waitsUntil  = 10 * time.Minute // afterwards a device that slept need not be woken
	awayUntil   = 12 * time.Hour   // likewise
	remembered  = 24 * time.Hour   // what somebody was told
	lastWaiting = "waiting"        // when somebody was last told that chats wait
)

// reachable is who can be pushed, and where.
type reachable struct {
	who     settings.Operator
	stands  view.Standing
	actor   access.Actor
	devices []string
}

// Look looks once who can be told, and whom to tell of what. Of several servers one looks at a
// time.
func (room *Room) Look(ctx context.Context) error {
	people, err := room.reach(ctx)
	if err != nil || len(people) == 0 {
		return err
	}
	waiting, err := room.waiting(ctx)
	if err != nil {
		return err
	}
	calls, err := room.Alerts.Calling(ctx)
	if err != nil {
		return err
	}
	s, err := room.Settings.Get(ctx) // before the transaction has its connection
	if err != nil {
		return err
	}
	var late []reachable
	err = pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		var mine bool
		if err := tx.QueryRow(ctx, "select pg_try_advisory_xact_lock($1)", lookingLock).Scan(&mine); err != nil || !mine {
			return err
		}
		for _, p := range people {
			if p.stands.Here { // what is open tells them
				if err := came(ctx, tx, p); err != nil {
					return err
				}
				continue
			}
			tooLate, err := room.tellWaiting(ctx, tx, s, p, waiting)
			if err != nil {
				return err
			}
			if tooLate {
				late = append(late, p)
			}
			if err := errors.Join(room.tellSaid(ctx, tx, p), room.tellAlerts(ctx, tx, p, calls)); err != nil {
				return err
			}
		}
		return nil
	})
	for _, p := range late {
		err = errors.Join(err, room.didNotCome(ctx, p))
	}
	return err
}

// came forgets that somebody was told of chats that wait: they have come. Of what still waits
// when they are gone again they are told anew.
func came(ctx context.Context, tx pgx.Tx, p reachable) error {
	_, err := tx.Exec(ctx, "delete from pushes where operator_id = $1 and about like 'waiting %'", p.who.ID)
	return err
}

// didNotCome sets somebody away who was told and is not here, and tells them: nobody is to
// wait for them.
func (room *Room) didNotCome(ctx context.Context, p reachable) error {
	away, err := room.Floor.DidNotCome(ctx, p.who.ID)
	if err != nil || !away {
		return err
	}
	return pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		return room.tell(ctx, tx, p, "push away", nil, Message{Tag: lastWaiting, Path: "/desk", Until: room.Now().Add(awayUntil)})
	})
}

// reach returns who can be pushed, as they stand, and lets the floor know who that is.
func (room *Room) reach(ctx context.Context) ([]reachable, error) {
	people, err := room.people(ctx)
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(people))
	for i, p := range people {
		ids[i] = p.who.ID
	}
	return people, room.Floor.Reachable(ctx, ids)
}

// people returns who can be pushed, as they stand.
func (room *Room) people(ctx context.Context) ([]reachable, error) {
	rows, err := room.Tables.Pool().Query(ctx, "select d.operator_id::text, array_agg(d.id::text order by d.created_at) from push_devices d where "+alive+" group by 1 order by 1")
	if err != nil {
		return nil, err
	}
	devices := map[string][]string{}
	var id string
	var of []string
	if _, err := pgx.ForEachRow(rows, []any{&id, &of}, func() error {
		devices[id], of = of, nil
		return nil
	}); err != nil || len(devices) == 0 {
		return nil, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	standings, err := room.Floor.Standings(ctx)
	if err != nil {
		return nil, err
	}
	var people []reachable
	for _, o := range s.Team {
		if o.Active && len(devices[o.ID]) > 0 {
			people = append(people, reachable{who: o, stands: standings[o.ID], actor: s.Actor(o.ID), devices: devices[o.ID]})
		}
	}
	return people, nil
}

// waiting returns the chats that look for somebody.
func (room *Room) waiting(ctx context.Context) ([]push.Waiting, error) {
	queue, err := room.Floor.Queue(ctx)
	if err != nil {
		return nil, err
	}
	all := []push.Waiting{}
	for _, w := range queue[:min(len(queue), waitingMost)] {
		if w.Not == "" { // nobody offers to hand it on
			all = append(all, push.Waiting{Chat: w.Chat, Departments: append([]string{w.Department}, w.OpenTo...), Since: w.Since, Offered: w.OfferedTo != ""})
		}
	}
	return all, nil
}

// tellWaiting tells somebody that chats wait for their departments: one by its name, several
// together, each once. It reports whether they were told so long ago that they do not come.
func (room *Room) tellWaiting(ctx context.Context, tx pgx.Tx, s *settings.Settings, p reachable, all []push.Waiting) (late bool, err error) {
	now := room.Now()
	wanted := push.Person{Available: p.stands.Available, Here: p.stands.Here, Departments: p.actor.Departments}.Wanted(all, now)
	if len(wanted) == 0 {
		return false, nil
	}
	abouts := make([]string, len(wanted))
	for i, w := range wanted {
		abouts[i] = "waiting " + w.Chat + " " + w.Since.UTC().Format(time.RFC3339Nano)
	}
	var lately bool
	err = tx.QueryRow(ctx, `select exists (select from pushes where operator_id = $1 and about = $2 and at > $3), exists (select from pushes where operator_id = $1 and about = any($4) and at <= $5)`,
		p.who.ID, lastWaiting, now.Add(-push.Pause), abouts, now.Add(-push.Comes)).Scan(&lately, &late)
	if err != nil || lately || late {
		return late, err
	}
	news, err := room.news(ctx, tx, p, abouts)
	if err != nil || news == 0 {
		return false, err
	}
	if _, err := tx.Exec(ctx, "insert into pushes (operator_id, about, at) values ($1, $2, $3) on conflict (operator_id, about) do update set at = excluded.at", p.who.ID, lastWaiting, now); err != nil {
		return false, err
	}
	return false, room.tellOf(ctx, tx, s, p, wanted)
}

// tellOf tells somebody of chats that wait.
func (room *Room) tellOf(ctx context.Context, tx pgx.Tx, s *settings.Settings, p reachable, wanted []push.Waiting) error {
	told := struct {
		Visitor, Departments string
		Waiting              int
	}{Waiting: len(wanted), Departments: departmentsOf(s, wanted)}
	path := "/desk"
	if len(wanted) == 1 {
		path += "?chat=" + wanted[0].Chat
		if err := tx.QueryRow(ctx, "select coalesce(name, '') from chats where id = $1", wanted[0].Chat).Scan(&told.Visitor); err != nil {
			return err
		}
	}
	return room.tell(ctx, tx, p, "push waiting", told, Message{Tag: lastWaiting, Path: path, Until: room.Now().Add(waitsUntil)})
}

// departmentsOf names the departments in whose line some chats stand.
func departmentsOf(s *settings.Settings, all []push.Waiting) string {
	var names []string
	for _, w := range all {
		if name := s.Departments[w.Departments[0]].Name; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return strings.Join(names, ", ")
}

// tellSaid tells somebody that the visitors of their chats have written, once for each turn.
func (room *Room) tellSaid(ctx context.Context, tx pgx.Tx, p reachable) error {
	now := room.Now()
	rows, err := tx.Query(ctx, "select id::text, coalesce(name, ''), state from chats where owner_id = $1 and phase = 'active' and not message and last_words_side = 'visitor' and last_words_at > $2 order by last_words_at",
		p.who.ID, now.Add(-push.Grace))
	if err != nil {
		return err
	}
	type spoken struct {
		chat, name string
		state      chat.State
	}
	all, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (s spoken, err error) {
		var state []byte
		if err = r.Scan(&s.chat, &s.name, &state); err == nil {
			err = json.Unmarshal(state, &s.state)
		}
		return s, err
	})
	if err != nil {
		return err
	}
	for _, s := range all {
		if s.state.Turn != chat.TeamTurn {
			continue
		}
		news, err := room.news(ctx, tx, p, []string{"said " + s.chat + " " + s.state.TurnSince.UTC().Format(time.RFC3339Nano)})
		if err != nil {
			return err
		}
		if news == 0 {
			continue
		}
		told := struct{ Visitor string }{s.name}
		if err := room.tell(ctx, tx, p, "push said", told, Message{Tag: "chat-" + s.chat, Path: "/desk?chat=" + s.chat, Until: now.Add(push.Grace)}); err != nil {
			return err
		}
	}
	return nil
}

// tellAlerts tells a lead of what calls leads, as far as they want it by push.
func (room *Room) tellAlerts(ctx context.Context, tx pgx.Tx, p reachable, all []alerts.AlertView) error {
	wants, err := settings.PreferencesOf(p.who)
	if err != nil || wants.PushAlerts == "never" || !p.actor.May(access.SeeEveryFloor) {
		return err
	}
	now := room.Now()
	for _, a := range all {
		if wants.PushAlerts != "all" && !p.actor.MemberOf(a.DepartmentID) || now.Sub(a.RaisedAt) > alertFor {
			continue
		}
		news, err := room.news(ctx, tx, p, []string{"alert " + a.ID})
		if err != nil {
			return err
		}
		if news == 0 {
			continue
		}
		told := struct {
			Kind, Department, Visitor, Wait string
			Worst                           int
		}{a.Kind, a.DepartmentName, a.Visitor, wording.Clock(time.Duration(a.Worst) * time.Second), a.Worst}
		if err := room.tell(ctx, tx, p, "alert subject", told, Message{Tag: "alert-" + a.ID, Path: "/floor", Until: now.Add(alertFor)}); err != nil {
			return err
		}
	}
	return nil
}

// news notes what somebody is told of, and returns how much of it they were not told before.
func (room *Room) news(ctx context.Context, tx pgx.Tx, p reachable, abouts []string) (int64, error) {
	noted, err := tx.Exec(ctx, "insert into pushes (operator_id, about, at) select $1, about, $3 from unnest($2::text[]) as a(about) on conflict do nothing", p.who.ID, abouts, room.Now())
	return noted.RowsAffected(), err
}

// tell sends a message to all devices of somebody, as part of the transaction that notes it.
func (room *Room) tell(ctx context.Context, tx pgx.Tx, p reachable, name string, told any, m Message) error {
	words, err := compose(p.who, name, told)
	if err != nil {
		return err
	}
	m.Title, m.Body = words.Title, words.Body
	for _, id := range p.devices {
		if err := room.Jobs.Add(ctx, tx, SendPush{DeviceID: id, Message: m, Until: m.Until}, room.Now()); err != nil {
			return err
		}
	}
	return nil
}
