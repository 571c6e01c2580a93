package alerts

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/alert"
	"stoop/internal/setup/settings"
)

// lookingLock is the advisory lock under which one server looks.
const lookingLock = 0x570_0b07

const (
	keptFor     = 30 * 24 * time.Hour // alerts that are over
	ratingsFrom = 24 * time.Hour      // older ratings call nobody any more
	ratingsMost = 100                 // at one look
)

// row is an alert as it is stored.
type row struct {
	alert.Alert
	ID         string
	Department string
	Chat       string // that was rated
	Over       int
}

// place is what an alert is about: there is one at a time.
type place struct {
	kind             alert.Kind
	department, chat string
}

func (r row) place() place { return place{r.Kind, r.Department, r.Chat} }

// LimitsOf returns from when on a department calls its leads.
func LimitsOf(d settings.Department) alert.Limits {
	return alert.Limits{Waiting: d.AlertWaiting, WaitSeconds: d.AlertWaitSeconds, NobodySeconds: d.AlertNobodySeconds, Ratings: d.AlertRatings}
}

func over(l alert.Limits, k alert.Kind) int {
	return map[alert.Kind]int{alert.Queue: l.Waiting, alert.Wait: l.WaitSeconds, alert.Nobody: l.NobodySeconds}[k]
}

// Look looks once how the departments stand, and calls leads. Of several servers one
// looks at a time.
func (room *Room) Look(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	seen, err := room.Floor.Seen(ctx) // before the transaction has its connection
	if err != nil {
		return err
	}
	moved := false
	err = pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		var mine bool
		if err := tx.QueryRow(ctx, "select pg_try_advisory_xact_lock($1)", lookingLock).Scan(&mine); err != nil || !mine {
			return err
		}
		now := room.Now()
		troubles := map[place]alert.Trouble{}
		for _, d := range s.InUse {
			for _, t := range LimitsOf(d).Troubles(seen[d.ID]) {
				troubles[place{t.Kind, d.ID, ""}] = t
			}
		}
		if err := lowRatings(ctx, tx, s, now, troubles); err != nil {
			return err
		}
		moved, err = room.follow(ctx, tx, s, troubles, now)
		return err
	})
	if err == nil && moved {
		room.tellNear()
		room.Notices.Tell(ctx, Notice)
	}
	return err
}

// lowRatings adds the low ratings that no lead has closed.
func lowRatings(ctx context.Context, tx pgx.Tx, s *settings.Settings, now time.Time, troubles map[place]alert.Trouble) error {
	rows, err := tx.Query(ctx, `select id::text, coalesce(department_id::text, ''), rating from chats c
		where feedback_to_read and rated_at > $1 or feedback_to_read and exists (select from alerts a where a.chat_id = c.id and a.ended_at is null)
		order by rated_at limit $2`, now.Add(-ratingsFrom), ratingsMost)
	if err != nil {
		return err
	}
	var chat, department string
	var rating int
	_, err = pgx.ForEachRow(rows, []any{&chat, &department, &rating}, func() error {
		if d, ok := s.Departments[department]; ok && d.RemovedAt == nil && d.AlertRatings {
			troubles[place{alert.Rating, department, chat}] = alert.Trouble{Kind: alert.Rating, Value: rating}
		}
		return nil
	})
	return err
}

// follow lets the alerts that are open go on or end, and begins those of new troubles.
func (room *Room) follow(ctx context.Context, tx pgx.Tx, s *settings.Settings, troubles map[place]alert.Trouble, now time.Time) (moved bool, err error) {
	open, err := openAlerts(ctx, tx)
	if err != nil {
		return false, err
	}
	for _, before := range open {
		trouble, still := troubles[before.place()]
		delete(troubles, before.place())
		after := before
		if still {
			after.Alert = before.Goes(&trouble, now)
		} else {
			after.Alert = before.Goes(nil, now)
		}
		if before.Kind == alert.Rating && !still {
			after.EndedAt = &now // closed: it does not come and go
		}
		_, err := tx.Exec(ctx, "update alerts set last_at = $2, raised_at = $3, ended_at = $4, worst = $5 where id = $1", after.ID, after.LastAt, after.RaisedAt, after.EndedAt, after.Worst)
		if err != nil {
			return moved, err
		}
		raised := before.RaisedAt == nil && after.RaisedAt != nil
		moved = moved || raised || after.EndedAt != nil && after.RaisedAt != nil
		if raised {
			if err := room.mail(ctx, tx, s, after); err != nil {
				return moved, err
			}
		}
	}
	for at, trouble := range troubles {
		r := row{Alert: alert.Begin(trouble, now), ID: uuid.NewString(), Department: at.department, Chat: at.chat, Over: over(LimitsOf(s.Departments[at.department]), at.kind)}
		_, err := tx.Exec(ctx, `insert into alerts (id, kind, department_id, chat_id, began_at, last_at, raised_at, worst, over) values ($1, $2, $3, nullif($4, '')::uuid, $5, $6, $7, $8, $9)`,
			r.ID, r.Kind, r.Department, r.Chat, r.BeganAt, r.LastAt, r.RaisedAt, r.Worst, r.Over)
		if err != nil {
			return moved, err
		}
		if r.RaisedAt != nil {
			moved = true
			if err := room.mail(ctx, tx, s, r); err != nil {
				return moved, err
			}
		}
	}
	if moved {
		_, err = tx.Exec(ctx, "delete from alerts where ended_at < $1", now.Add(-keptFor))
	}
	return moved, err
}

func openAlerts(ctx context.Context, tx pgx.Tx) ([]row, error) {
	rows, err := tx.Query(ctx, "select id::text, kind, department_id::text, coalesce(chat_id::text, ''), began_at, last_at, raised_at, worst, over from alerts where ended_at is null")
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (a row, err error) {
		err = r.Scan(&a.ID, &a.Kind, &a.Department, &a.Chat, &a.BeganAt, &a.LastAt, &a.RaisedAt, &a.Worst, &a.Over)
		return a, err
	})
}

// mail lets those know by mail who want to, unless they got one of the same a moment ago.
func (room *Room) mail(ctx context.Context, tx pgx.Tx, s *settings.Settings, r row) error {
	if r.Kind != alert.Rating {
		var lately bool
		err := tx.QueryRow(ctx, "select true from alerts where kind = $1 and department_id = $2 and id <> $3 and raised_at > $4 limit 1", r.Kind, r.Department, r.ID, room.Now().Add(-alert.MailPause)).Scan(&lately)
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		if lately {
			return nil
		}
	}
	for _, o := range s.Team {
		// A job for each, so that a mail that fails is not sent to the others again. Whether
		// they want it is asked when it is sent.
		if actor := s.Actor(o.ID); o.Active && actor.May(access.SeeEveryFloor) {
			if err := room.Post.SendAlert(ctx, tx, o.ID, r.ID); err != nil {
				return err
			}
		}
	}
	return nil
}
