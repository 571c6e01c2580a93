package alerts

import (
	"context"
	"net/http"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/alert"
	"stoop/internal/httpapi"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// AlertView is what leads see of an alert.
type AlertView struct {
	ID             string     `json:"id"`
	Kind           string     `json:"kind" enum:"queue,wait,nobody,rating"`
	DepartmentID   string     `json:"departmentId"`
	DepartmentName string     `json:"departmentName"`
	ChatID         string     `json:"chatId,omitempty" doc:"That was rated"`
	Visitor        string     `json:"visitor,omitempty" doc:"Of that chat"`
	RaisedAt       time.Time  `json:"raisedAt"`
	EndedAt        *time.Time `json:"endedAt,omitempty"`
	Worst          int        `json:"worst" doc:"Chats, seconds, or the rating"`
	Over           int        `json:"over" doc:"The limit then"`
	TakenBy        string     `json:"takenBy,omitempty" doc:"Who said that they see to it"`
}

const (
	shownFor  = 12 * time.Hour // alerts that are over
	shownMost = 100
)

// Alerts returns what leads are called for now, and were lately; those of now first, the
// newest first.
func (room *Room) Alerts(ctx context.Context, o access.Actor) ([]AlertView, error) {
	if !o.May(access.SeeEveryFloor) {
		return nil, access.ErrNotAllowed
	}
	return room.views(ctx, "(a.ended_at is null or a.ended_at > $1) order by a.ended_at is null desc, a.raised_at desc limit $2", room.Now().Add(-shownFor), shownMost)
}

// Calling returns the alerts that no lead sees to yet, the oldest first.
func (room *Room) Calling(ctx context.Context) ([]AlertView, error) {
	return room.views(ctx, "a.ended_at is null and a.taken_by is null order by a.raised_at limit $1", shownMost)
}

func (room *Room) views(ctx context.Context, which string, args ...any) ([]AlertView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	rows, err := room.Tables.Pool().Query(ctx, `select a.id::text, a.kind, a.department_id::text, coalesce(a.chat_id::text, ''), coalesce(c.name, ''), a.raised_at, a.ended_at, a.worst, a.over, coalesce(a.taken_by::text, '')
		from alerts a left join chats c on c.id = a.chat_id where a.raised_at is not null and `+which, args...)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (a AlertView, err error) {
		err = r.Scan(&a.ID, &a.Kind, &a.DepartmentID, &a.ChatID, &a.Visitor, &a.RaisedAt, &a.EndedAt, &a.Worst, &a.Over, &a.TakenBy)
		a.DepartmentName, a.TakenBy = s.Departments[a.DepartmentID].Name, s.Operators[a.TakenBy].Name
		return a, err
	})
	if list == nil {
		list = []AlertView{}
	}
	return list, err
}

// Raised returns an alert.
func (room *Room) Raised(ctx context.Context, id string) (a alert.Raised, err error) {
	err = room.Tables.Pool().QueryRow(ctx, `select a.kind, a.department_id::text, coalesce(c.name, ''), coalesce(c.feedback_words, ''), a.worst, a.ended_at
		from alerts a left join chats c on c.id = a.chat_id where a.id = $1`, id).Scan(&a.Kind, &a.DepartmentID, &a.Visitor, &a.Words, &a.Worst, &a.EndedAt)
	return a, store.NoRows(err)
}

// Take says that somebody sees to an alert: it does not call any more.
func (room *Room) Take(ctx context.Context, o access.Actor, id string) error {
	if !o.May(access.SeeEveryFloor) {
		return access.ErrNotAllowed
	}
	taken, err := room.Tables.Pool().Exec(ctx, "update alerts set taken_by = $2, taken_at = $3 where id = $1 and taken_by is null", id, o.ID, room.Now())
	if err != nil {
		return err
	}
	if taken.RowsAffected() == 0 {
		var by string
		if err := room.Tables.Pool().QueryRow(ctx, "select taken_by::text from alerts where id = $1", id).Scan(&by); err != nil {
			return store.ErrNotFound
		}
		if by == o.ID {
			return nil
		}
		return problem.New(http.StatusConflict, "seen-to", "A colleague is already on it", "The Floor says who.")
	}
	room.tellNear()
	room.Notices.Tell(ctx, Notice)
	return nil
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/alerts", "alerts", "What leads are called for now, and were lately",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]AlertView, error) {
			return room.Alerts(ctx, o)
		})
	httpapi.Do(r, http.MethodPut, "/api/alerts/{id}/taken", "take-alert", "See to an alert, so that it calls nobody any more",
		func(ctx context.Context, o access.Actor, in *struct {
			ID string `path:"id" format:"uuid"`
		}) error {
			return room.Take(ctx, o, in.ID)
		})
}
