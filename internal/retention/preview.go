package retention

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/internal/setup/settings"
)

// Preview is what would be deleted now if the settings held.
type Preview struct {
	Chats    int64 `json:"chats"`
	Messages int64 `json:"messages" doc:"Said in these chats"`
	Form     int64 `json:"form" doc:"Chats, beside those, of which is known what the visitor told of themselves"`
	Files    int64 `json:"files"`
	Bytes    int64 `json:"bytes" doc:"Of these files"`
	Visits   int64 `json:"visits"`
	Tickets  int64 `json:"tickets"`
}

// Preview counts what would be deleted now by some settings, and deletes nothing.
func (room *Room) Preview(ctx context.Context, o access.Actor, r settings.Retention) (p Preview, err error) {
	if !o.May(access.SetUp) {
		return p, access.ErrNotAllowed
	}
	before := func(days int) time.Time {
		if days == 0 {
			return time.Time{} // nothing is as old
		}
		return room.Now().AddDate(0, 0, -days)
	}
	// A form goes with its chat, and a file too.
	err = room.Tables.Pool().QueryRow(ctx, `select
			(select count(*) from chats where phase = 'ended' and ended_at < $1),
			(select count(*) from events e join chats c on c.id = e.chat_id where c.phase = 'ended' and c.ended_at < $1 and e.kind = 'said'),
			(select count(*) from chats where phase = 'ended' and not form_gone and ended_at < $2 and ended_at >= $1)`,
		before(r.Chats), before(r.Form)).Scan(&p.Chats, &p.Messages, &p.Form)
	if err != nil {
		return p, err
	}
	if p.Files, p.Bytes, err = room.Files.CountBefore(ctx, before(r.Chats), before(r.Files)); err != nil {
		return p, err
	}
	if p.Visits, err = room.Visits.CountBefore(ctx, before(r.Visits)); err != nil {
		return p, err
	}
	p.Tickets, err = room.Tickets.CountBefore(ctx, before(r.Tickets))
	return p, err
}

// Deletion is something that was deleted.
type Deletion struct {
	Kind  string    `json:"kind" enum:"chats,form,files,visits,tickets,person"`
	At    time.Time `json:"at"`
	Count int64     `json:"count"`
	By    string    `json:"by,omitempty" doc:"Who forgot a person; missing when it went by itself"`
}

// deletionsShown bounds the list of what was deleted.
const deletionsShown = 50

// Deletions returns what was deleted, the latest first.
func (room *Room) Deletions(ctx context.Context, o access.Actor) ([]Deletion, error) {
	if !o.May(access.SetUp) {
		return nil, access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx) // before the rows hold a connection
	if err != nil {
		return nil, err
	}
	rows, err := room.Tables.Pool().Query(ctx, "select kind, at, count, coalesce(by_id::text, '') from deletions order by at desc limit $1", deletionsShown)
	if err != nil {
		return nil, err
	}
	list := []Deletion{}
	var d Deletion
	_, err = pgx.ForEachRow(rows, []any{&d.Kind, &d.At, &d.Count, &d.By}, func() error {
		by := d
		by.By = s.Operators[d.By].Name
		list = append(list, by)
		return nil
	})
	return list, err
}
